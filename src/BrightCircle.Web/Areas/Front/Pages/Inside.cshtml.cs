using BrightCircle.Core.Content;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Front.Pages;

public sealed class InsideModel : BrightPage
{
    public const int Newest = 20;
    public int Released => Now.Pieces.Count(p => p.State == PieceState.Released);
    public IReadOnlyList<Piece> On(Shelf shelf) => [.. Now.OnShelf[shelf.Id].Where(p => p.State == PieceState.Released)];
    public void OnGet() { }
}
