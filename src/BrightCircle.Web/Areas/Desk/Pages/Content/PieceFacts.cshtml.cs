using BrightCircle.App.Content;
using BrightCircle.App.Files;
using BrightCircle.App.Learning;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class PieceFactsModel(PieceChoices offer, SavePiece save, KeepFiles files, PiecePlaces waiting) : DeskPage
{
    public override string Place => "shelves";
    public Piece Piece { get; private set; } = null!;
    public PieceFacts Draft { get; private set; } = null!;
    public FileField Cover { get; private set; } = null!;
    public IReadOnlyList<LessonPattern> Patterns { get; private set; } = [];

    public async Task<IActionResult> OnGet(long id)
    {
        if (!Now.PieceById.TryGetValue(new(id), out var piece)) return NotFound();
        (Piece, Draft) = (piece, PieceFacts.Of(piece));
        await Lists();
        return Page();
    }

    async Task Lists()
    {
        (var choices, Patterns) = await offer.Do(Draft.Cover, 60, Ct);
        Cover = new("Cover", "Cover", "Cover", [FileKind.Picture], Draft.Cover, choices, []);
    }

    public async Task<IActionResult> OnPost(long id, string? title, string? subtitle, string? summary, long shelf, long? edition, long? cover,
        string? moduleWord, Difficulty difficulty, string? learn, string? forWhom, string? supportAddress, string? terms, int? places, bool questionsOn,
        string? trailerUrl, string? endNote, string? endLink, string? endLinkText, bool certificate, bool copyGuard, ResourcesPlace resources, string? tags,
            string? workedOnBy, long? pattern, int version, double? cropX, double? cropY, double? cropWidth, double? cropHeight, int cropTurn)
    {
        if (!Now.PieceById.TryGetValue(new(id), out var piece)) return NotFound();
        Piece = piece;
        Draft = new(title, subtitle, summary, new(shelf), edition is { } e ? new EditionId(e) : null, cover is { } c ? new FileId(c) : null, moduleWord,
            difficulty, learn, forWhom, supportAddress, terms, places, questionsOn, trailerUrl, endNote, endLink, endLinkText, certificate, copyGuard,
            resources, tags, workedOnBy, version, pattern);
        if (ModelState.IsValid)
        {
            // A cut chosen in the browser becomes a picture of its own; the one it was cut from stays.
            if (Draft.Cover is { } whole && cropWidth is { } w && cropHeight is { } h)
            {
                var cut = await files.Cut(Actor, whole, new(cropX ?? 0, cropY ?? 0, w, h, cropTurn), Ct);
                if (cut.Ok) Draft = Draft with { Cover = cut.Value!.Id };
                else Refuse(cut.Refusal!, "Cover");
            }
            if (ModelState.IsValid)
            {
                var saved = await save.Facts(Actor, piece.Id, Draft, Ct);
                if (saved.Ok)
                {
                    if (piece.Places is not null) await waiting.MoveUp(piece.Id, Ct);
                    Tell("Saved.");
                    return Redirect($"/desk/pieces/{id}/facts");
                }
                Refuse(saved.Refusal!, saved.Field);
            }
        }
        await Lists();
        return Page();
    }
}
