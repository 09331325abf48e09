using BrightCircle.Core.Content;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Front.Pages;

public sealed class InsideModel : BrightPage
{
    public int Released => Now.Pieces.Count(p => p.State == PieceState.Released);
    public IReadOnlyList<Piece> On(Shelf shelf) => [.. Now.Pieces.Where(p => p.ShelfId == shelf.Id && p.State == PieceState.Released).OrderByDescending(p => p.ReleasedAt).ThenBy(p => p.Id.Value)];
    public void OnGet() { }
}
