using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.OutputCaching;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>One tier or pass, with what is inside for whoever joins now: worked out from its promise, never typed.</summary>
[OutputCache(PolicyName = SameForVisitors.Name)]
public sealed class PlanPageModel : TiersPage
{
    /// <summary>The owner's own words, instead of what is worked out.</summary>
    public PageSections? Own => Words(SitePageKind.Plan, Plan);
    const int MostCards = 12;

    public OfferedPlan Offered { get; private set; } = null!;
    public Plan Plan => Offered.Plan;
    /// <summary>What is out and would open, sooner or later, to somebody who joined now; the newest first.</summary>
    public IReadOnlyList<Piece> Inside { get; private set; } = [];
    public IReadOnlyList<Piece> Shown => [.. Inside.Take(MostCards)];
    public IEnumerable<(Shelf Shelf, int Count)> ByShelf => Now.Shelves.Select(s => (s, Inside.Count(p => p.ShelfId == s.Id))).Where(x => x.Item2 > 0);
    /// <summary>Whether what is added later comes to them too.</summary>
    public bool Grows => Plan.Promise.Any(i => i.Covers is Coverage.Everything or Coverage.OnShelf && i.Reach is not Reach.LastEditions);
    /// <summary>Of the next edition, how much would open.</summary>
    public int Next { get; private set; }

    public IActionResult OnGet(long id)
    {
        if (OfferedOf(new(id)) is not { } offered) return NotFound();
        Offered = offered;
        Inside = InsideOf(Now, Plan, Moment);
        Next = Now.NextEdition is { } e ? Now.PartsOf[e.Id].Count(p => p.State != PieceState.Draft && !Now.IsQuiet(p.Id) && Now.Book.GivesPartOf(Plan.Id,
            p.Id, Moment)) : 0;
        return Page();
    }

    public PieceCard Card(Piece p) => new(p, this, null);
}
