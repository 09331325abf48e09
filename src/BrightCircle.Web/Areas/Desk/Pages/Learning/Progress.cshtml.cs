using BrightCircle.App.Learning;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>How far everybody has come with something: what pieces, editions and shelves have in common.</summary>
public abstract class ProgressPage(ProgressOfAll progress) : DeskPage
{
    const int PageSize = 50;

    public abstract string Title { get; }
    /// <summary>The address of the page, without what is chosen on it.</summary>
    public abstract string Address { get; }
    public abstract IReadOnlyList<ProgressPart> Parts(ProgressOfAll progress);
    /// <summary>Who is shown, as a condition to write to; null where there is none for it.</summary>
    public virtual Condition? Those(ProgressShown shown) => null;

    [BindProperty(SupportsGet = true)] public ProgressShown Show { get; set; }
    /// <summary>Only who is in it; 0 for everybody.</summary>
    [BindProperty(SupportsGet = true)] public long Audience { get; set; }
    public ProgressView View { get; private set; } = null!;
    public Pager Pager { get; private set; } = null!;
    public Audience? Within => Now.Audiences.FirstOrDefault(a => a.Id.Value == Audience);

    public string With(ProgressShown show, long audience, int page = 1) => Address + QueryString.Create(new Dictionary<string, string?>
    {
        ["show"] = show == ProgressShown.All ? null : show.ToString(),
        ["audience"] = audience == 0 ? null : audience.ToString(System.Globalization.CultureInfo.InvariantCulture),
        ["page"] = page == 1 ? null : page.ToString(System.Globalization.CultureInfo.InvariantCulture),
    }.Where(x => x.Value is not null));

    /// <summary>What is looked at; false where it isn't there.</summary>
    protected abstract bool Find(long id);

    public async Task<IActionResult> OnGet(long id, int page = 1)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        if (!Enum.IsDefined(Show)) Show = ProgressShown.All;
        page = Math.Clamp(page, 1, 100_000);
        View = await progress.Look(Parts(progress), Within?.Condition, Show, page, PageSize, Ct);
        Pager = new(page, View.Counts[Show], PageSize, p => With(Show, Audience, p));
        return Page();
    }

    public async Task<IActionResult> OnGetCsv(long id)
    {
        if (!Find(id)) return NotFound();
        Response.ContentType = "text/csv; charset=utf-8";
        Response.Headers.ContentDisposition = $"attachment; filename=\"progress-{Slug(Title)}-{Now.Calendar.Date(Moment).ToString("uuuu-MM-dd", null)}.csv\"";
        await progress.WriteCsv(Parts(progress), Within?.Condition, Enum.IsDefined(Show) ? Show : ProgressShown.All, Response.Body, Ct);
        return new EmptyResult();
    }

    /// <summary>A letter to those who are shown: an audience of them is kept under a name, and the letter begun.</summary>
    public async Task<IActionResult> OnPostWrite(long id, [FromServices] Audiences audiences, [FromServices] Mailings mailings)
    {
        if (!Find(id) || !Enum.IsDefined(Show) || Those(Show) is not { } those) return NotFound();
        var begun = await WriteToThose.Begin(Now, audiences, mailings, Actor, Bounded.To(
            $"{Title}: {Word(Show)}{(Within is { } w ? $", {w.Name}" : "")}", Core.Members.Audience.MostName),
            Within is { } within ? new Condition.AllOf([within.Condition, those]) : those, Ct);
        if (begun.Ok) return Redirect($"/desk/mailings/{begun.Value}");
        Tell(begun.Refusal!);
        return Redirect(With(Show, Audience));
    }

    public static string Word(ProgressShown shown) => shown switch
    {
        ProgressShown.All => "began",
        ProgressShown.UnderWay => "at it",
        ProgressShown.Stopped => "stopped",
        ProgressShown.Done => "through",
        _ => throw new InvalidOperationException($"No such list: {shown}"),
    };
}

/// <summary>Begins a letter to those who fit a condition.</summary>
static class WriteToThose
{
    public static async Task<App.Result<long>> Begin(CatalogueSnapshot now, Audiences audiences, Mailings mailings, App.TeamActor by, string name,
        Condition condition, CancellationToken ct)
    {
        // One of the same name that says the same is taken; one that says something else gets a number beside.
        var known = now.Audiences.FirstOrDefault(a => a.Name == name);
        AudienceId id;
        if (known is not null && known.Condition == condition) id = known.Id;
        else
        {
            var saved = await audiences.Save(by, null, known is null ? name : NextName.After(name, [.. now.Audiences.Select(a => a.Name)]), condition, ct);
            if (!saved.Ok) return App.Result.Refused(saved.Refusal!);
            id = saved.Value;
        }
        return await mailings.NewFor(by, id, ct);
    }
}

/// <summary>How far everybody has come with a piece, lesson by lesson.</summary>
public sealed class PieceProgressModel(ProgressOfAll progress) : ProgressPage(progress)
{
    public override string Place => "shelves";
    public Piece Piece { get; private set; } = null!;
    public override string Title => Piece.Title;
    public override string Address => $"/desk/pieces/{Piece.Id.Value}/progress";
    public override IReadOnlyList<ProgressPart> Parts(ProgressOfAll progress) => progress.Of(Piece);

    public override Condition Those(ProgressShown shown) => shown switch
    {
        ProgressShown.All => new Condition.OpenedPiece(Piece.Id),
        ProgressShown.UnderWay => new Condition.AllOf([new Condition.OpenedPiece(Piece.Id), new Condition.Not(new Condition.Done(Piece.Id, null)),
            new Condition.Not(new Condition.StoppedIn(Piece.Id, ProgressOfAll.StoppedDays))]),
        ProgressShown.Stopped => new Condition.StoppedIn(Piece.Id, ProgressOfAll.StoppedDays),
        ProgressShown.Done => new Condition.Done(Piece.Id, null),
        _ => throw new ArgumentOutOfRangeException(nameof(shown), shown, "No such list."),
    };

    protected override bool Find(long id)
    {
        if (!Now.PieceById.TryGetValue(new(id), out var piece)) return false;
        Piece = piece;
        return true;
    }
}

/// <summary>The same with an edition, piece by piece.</summary>
public sealed class EditionProgressModel(ProgressOfAll progress) : ProgressPage(progress)
{
    public override string Place => "editions";
    public Edition Edition { get; private set; } = null!;
    public override string Title => Edition.Title;
    public override string Address => $"/desk/editions/{Edition.Id.Value}/progress";
    public override IReadOnlyList<ProgressPart> Parts(ProgressOfAll progress) => progress.Of(Edition.Id);
    public override Condition? Those(ProgressShown shown) => shown == ProgressShown.All ? new Condition.OpenedEdition(Edition.Id) : null;

    protected override bool Find(long id)
    {
        if (!Now.EditionById.TryGetValue(new(id), out var edition)) return false;
        Edition = edition;
        return true;
    }
}

/// <summary>The same with a shelf, the newest pieces first.</summary>
public sealed class ShelfProgressModel(ProgressOfAll progress) : ProgressPage(progress)
{
    public override string Place => "shelves";
    public Shelf Shelf { get; private set; } = null!;
    public override string Title => Shelf.Name;
    public override string Address => $"/desk/shelves/{Shelf.Id.Value}/progress";
    public override IReadOnlyList<ProgressPart> Parts(ProgressOfAll progress) => progress.Of(Now.OnShelf[Shelf.Id]);

    protected override bool Find(long id)
    {
        if (!Now.ShelfById.TryGetValue(new(id), out var shelf)) return false;
        Shelf = shelf;
        return true;
    }
}
