using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class ShelvesModel(MemberReader reader) : MemberPage
{
    Dictionary<PieceId, OpeningState> openings = [];
    public override string Place => "shelves";
    public OpeningState? Opened(Piece p) => openings.GetValueOrDefault(p.Id);
    public IReadOnlyList<Piece> On(Shelf shelf) => [.. Now.Pieces.Where(p => p.ShelfId == shelf.Id && p.State == PieceState.Released).OrderByDescending(p => p.ReleasedAt).ThenBy(p => p.Id.Value)];

    public async Task OnGet()
    {
        if (Visitor.Member is { } member) openings = (await reader.Openings(member, Ct)).ToDictionary(o => o.Piece);
    }
}
