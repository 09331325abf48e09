using BrightCircle.App.Content;
using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>All pieces of one shelf, and a proposal where there are too many.</summary>
public sealed class ShelfPiecesModel : DeskPage
{
    const int PageSize = 40;
    public override string Place => "shelves";
    public Shelf Shelf { get; private set; } = null!;
    public IReadOnlyList<Piece> Pieces { get; private set; } = [];
    public Pager Pager { get; private set; } = null!;
    public IReadOnlyList<ShelfDivision> Division { get; private set; } = [];
    public string? State { get; private set; }
    public string? Tag { get; private set; }

    public IActionResult OnGet(long id, string? state, string? tag, int p = 1)
    {
        if (!Now.ShelfById.TryGetValue(new(id), out var shelf)) return NotFound();
        (Shelf, State, Tag) = (shelf, state, tag);
        var all = Now.OnShelf[shelf.Id].ToArray();
        Division = SaveShelf.Divide(shelf, all, x => Now.EditionOf(x)?.Month);
        PieceState? wanted = Enum.TryParse<PieceState>(state, out var s) ? s : null;
        var shown = all.Where(x => (wanted is null || x.State == wanted) && (string.IsNullOrEmpty(tag) || x.Tags.Contains(tag))).ToArray();
        p = Math.Max(1, p);
        Pieces = [.. shown.Skip((p - 1) * PageSize).Take(PageSize)];
        Pager = new(p, shown.Length, PageSize, n => $"?state={state}&tag={Uri.EscapeDataString(tag ?? "")}&p={n}");
        return Page();
    }
}
