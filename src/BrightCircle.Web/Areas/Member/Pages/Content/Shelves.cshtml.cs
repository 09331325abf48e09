using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Data;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>All shelves with what is newest on each; one shelf whole, page by page.</summary>
public sealed class ShelvesModel(MemberReader reader) : MemberPage
{
    const int Newest = 8, PageSize = 40;
    IReadOnlyDictionary<LessonId, OpeningState> openings = new Dictionary<LessonId, OpeningState>();
    public override string Place => "shelves";
    public override bool KeptOffline => true;
    public Shelf? Only { get; private set; }
    public Parts.Pager? Pager { get; private set; }
    public PieceWay Way(Piece p) => WayOf(p, openings);
    public IReadOnlyList<Piece> On(Shelf shelf) => [.. Now.OnShelf[shelf.Id].Where(p => p.State == PieceState.Released && Decide(p).IsKnown
        && (!Mine || Decide(p).IsOpen || Way(p).Progress.Of > 0))];
    /// <summary>Only what is open to them.</summary>
    public bool Mine { get; private set; }
    /// <summary>Over all lessons on the shelf that are open to the member.</summary>
    public Progress Progress(IEnumerable<Piece> on) => on.Aggregate(default(Progress), (sum, p) => sum + Way(p).Progress);
    public IEnumerable<Piece> Shown(IReadOnlyList<Piece> on) => Pager is null ? on.Take(Newest) : on.Skip((Pager.Page - 1) * PageSize).Take(PageSize);
    public int More(IReadOnlyList<Piece> on) => Pager is null ? Math.Max(0, on.Count - Newest) : 0;

    public async Task<Microsoft.AspNetCore.Mvc.IActionResult> OnGet(long? shelf, int p = 1, bool mine = false)
    {
        Mine = mine;
        if (shelf is { } id)
        {
            if (!Now.ShelfById.TryGetValue(new(id), out var only)) return NotFound();
            Only = only;
            Pager = new(Math.Max(1, p), On(only).Count, PageSize, n => $"?shelf={id}&p={n}{(mine ? "&mine=true" : "")}");
        }
        if (Visitor.Member is { } member) openings = await reader.Openings(member, Ct);
        return Page();
    }
}
