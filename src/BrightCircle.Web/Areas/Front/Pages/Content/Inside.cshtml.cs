using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.OutputCaching;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>All that is out, shelf by shelf; one shelf whole with <c>?shelf=</c>.</summary>
[OutputCache(PolicyName = SameForVisitors.Name)]
public sealed class InsideModel : BrightPage
{
    public const int Newest = 20;
    public int Released => Now.Pieces.Count(p => p.State == PieceState.Released && Decide(p).IsKnown);
    public IReadOnlyList<Piece> On(Shelf shelf) => [.. Now.OnShelf[shelf.Id].Where(p => p.State == PieceState.Released && Decide(p).IsKnown)];
    /// <summary>How long what is out of it takes.</summary>
    public static int? Minutes(Piece p) => p.Outline.Where(l => l.ReleasedAt is not null).Minutes;
    public Shelf? Only { get; private set; }
    public IEnumerable<Shelf> Shown => Only is { } one ? [one] : Now.Shelves;

    public Microsoft.AspNetCore.Mvc.IActionResult OnGet(long? shelf)
    {
        if (shelf is { } id && !Now.ShelfById.ContainsKey(new(id))) return NotFound();
        Only = shelf is { } known ? Now.ShelfById[new(known)] : null;
        return Page();
    }
}
