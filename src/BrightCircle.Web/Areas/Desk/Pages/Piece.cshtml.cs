using BrightCircle.App.Content;
using BrightCircle.App.House;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class PieceModel(SaveContent content, MemberReader reader, SavePicture pictures) : DeskPage
{
    public override string Place => "shelves";
    public Piece? Piece { get; private set; }
    public PieceDraft Draft { get; private set; } = null!;

    public async Task<IActionResult> OnGet(string id, long? shelf, long? edition)
    {
        if (!Find(id)) return NotFound();
        var body = Piece is null ? "" : (await reader.Read(Piece.Id, null, Moment, Ct))?.Html ?? "";
        Draft = Piece is { } p
            ? new(p.ShelfId, p.EditionId, p.Title, p.Summary, body, p.VideoUrl, p.Minutes, p.Ready, p.PictureAlt, p.Version)
            : new(shelf is { } s ? new(s) : Now.Shelves.FirstOrDefault()?.Id ?? default, edition is { } e ? new EditionId(e) : null, "", "", "", null, null, false, null, 0);
        return Page();
    }

    public async Task<IActionResult> OnPost(string id, long shelf, long? edition, string? title, string? summary, string? body, string? videoUrl, int? minutes, bool ready, string? pictureAlt, int version, IFormFile? picture)
    {
        if (!Find(id)) return NotFound();
        Draft = new(new(shelf), edition is { } e ? new EditionId(e) : null, title, summary, body, videoUrl, minutes, ready || Piece?.ReleasedAt is not null, pictureAlt, version);
        if (!ModelState.IsValid) return Page();
        string? address = null;
        if (picture is { Length: > 0 })
        {
            await using var upload = picture.OpenReadStream();
            var kept = await pictures.Save(upload, picture.Length, Ct);
            if (!kept.Ok)
            {
                Refuse(kept.Refusal!, kept.Field);
                return Page();
            }
            address = kept.Value;
        }
        var saved = await content.Piece(Actor, Piece?.Id, Draft, address, Ct);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, saved.Field);
            return Page();
        }
        Tell("Saved.");
        return Redirect($"/desk/pieces/{saved.Value.Value}");
    }

    bool Find(string id)
    {
        if (id == "new") return true;
        Piece = long.TryParse(id, out var n) ? Now.PieceById.GetValueOrDefault(new(n)) : null;
        return Piece is not null;
    }
}
