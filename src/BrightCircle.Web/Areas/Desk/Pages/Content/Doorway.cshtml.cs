using BrightCircle.App.Content;
using BrightCircle.App.Files;
using BrightCircle.App.Insight;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What those meet who may not open something: for the site, a shelf, or a piece.</summary>
public sealed class DoorwaySettingModel(SaveDoorway save, FilesToChoose choose, DoorwayCounts counts, BrightContext db) : DeskPage
{
    public const int Days = 30;
    const int MostCounted = 25;

    public override string Place => On.Piece is null && On.Shelf is null ? "doorway" : "shelves";
    public DoorwayPlace On { get; private set; }
    public DoorwayWish Draft { get; private set; } = new();
    /// <summary>What counts here where this place says nothing itself.</summary>
    public DoorwayRule Wider => On.With(Now, null);
    public FileField Picture { get; private set; } = null!;
    public FileField ClosedCover { get; private set; } = null!;
    public IReadOnlyList<(Piece Piece, DoorwayFigures Figures)> Figures { get; private set; } = [];

    public Piece? Piece => On.Piece is { } p ? Now.PieceById[p] : null;
    public Shelf? Shelf => On.Shelf is { } s ? Now.ShelfById[s] : null;
    public string Of => On.Piece is not null ? "piece" : On.Shelf is not null ? "shelf" : "site";
    /// <summary>Where to look at it: the piece, or the newest one that strangers don't open.</summary>
    public Piece? Sample => Piece ?? (On.Shelf is { } s ? Now.OnShelf[s] : Now.Pieces.Reverse()).FirstOrDefault(p => p.ReleasedAt is not null && !p.OpenToAll);
    /// <summary>Where what this place says nothing of comes from.</summary>
    public string WiderName => Piece is { } p && Now.ShelfById[p.ShelfId].Doorway is not null ? $"the shelf {Now.ShelfById[p.ShelfId].Name}"
        : On.Piece is null && On.Shelf is null || Now.Site?.Doorway is null ? "the usual" : "the site";

    bool Find(string of, long? id)
    {
        On = of switch { "piece" => new(new PieceId(id ?? 0)), "shelf" => new(null, new ShelfId(id ?? 0)), _ => default };
        return On.In(Now) is not null;
    }

    public async Task<IActionResult> OnGet(string of, long? id)
    {
        if (!Find(of, id)) return NotFound();
        Draft = On.In(Now)!;
        await Fill();
        return Page();
    }

    async Task Fill()
    {
        Answer<List<StoredFile>> files = null!;
        var from = Now.Calendar.Date(Moment).PlusDays(1 - Days);
        Figures = [.. (await counts.Of(db, from, On.Piece, Ct,
            trip => files = choose.On(trip, [.. Draft.UsedFiles()], FileKind.Picture, 60))).Where(f => Now.PieceById.TryGetValue(f.Key,
                out var p)
            && (On.Shelf is null || p.ShelfId == On.Shelf)).OrderByDescending(f => f.Value.Met).Take(MostCounted).Select(f => (Now.PieceById[f.Key], f.Value))];
        Picture = new("NotYetPicture", "NotYetPicture", "Picture over “not yet”", [FileKind.Picture], Draft.NotYetPicture, files.Value, []);
        ClosedCover = new("ClosedCover", "ClosedCover", "Picture on cards", [FileKind.Picture], Draft.ClosedCover, files.Value, []);
    }

    public async Task<IActionResult> OnPost(string of, long? id, DoorwayKind? kind, string? strangers, string? members, string? notYet, long? notYetPicture,
        string? button, string? extractWords, string? page, bool? outline, long? closedCover)
    {
        if (!Find(of, id)) return NotFound();
        int? words = null;
        var unreadable = !string.IsNullOrWhiteSpace(extractWords);
        if (int.TryParse(extractWords, System.Globalization.NumberStyles.None, System.Globalization.CultureInfo.InvariantCulture, out var n))
            (words, unreadable) = (n, false);
        Draft = new(kind, strangers, members, notYet, notYetPicture is { } f ? new FileId(f) : null, button, words, page, outline,
            closedCover is { } cc ? new FileId(cc) : null);
        var done = unreadable ? Result.Refused($"“{extractWords}” isn’t a number.", nameof(DoorwayWish.ExtractWords)) : await save.Do(Actor, On, Draft, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            await Fill();
            return Page();
        }
        Tell("Saved.");
        return Redirect(id is null ? "/desk/doorway/site" : $"/desk/doorway/{of}/{id}");
    }

    public static string Word(DoorwayKind kind) => kind switch
    {
        DoorwayKind.Shown => "its page, with the way in",
        DoorwayKind.Extract => "its page with the beginning of the lesson",
        DoorwayKind.AnotherPage => "another page",
        DoorwayKind.NotFound => "nothing: as if it weren’t there",
        _ => throw new ArgumentOutOfRangeException(nameof(kind), kind, "No such doorway."),
    };
}
