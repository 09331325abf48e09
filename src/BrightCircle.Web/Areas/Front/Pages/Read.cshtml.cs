using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Front.Pages;

public sealed record WayIn(Plan Plan, IReadOnlyList<Price> Prices, Price Chosen);

/// <summary>One piece: to read where it is open, its doorway where it is locked, nothing where it is hidden.</summary>
public sealed class ReadModel(MemberReader reader) : BrightPage
{
    public Piece Piece { get; private set; } = null!;
    public Shelf Shelf => Now.ShelfById[Piece.ShelfId];
    public Edition? Edition => Now.EditionOf(Piece);
    public PieceReading? Reading { get; private set; }
    public Why? Why { get; private set; }
    public WayIn? WayIn { get; private set; }
    public IReadOnlyList<Plan> Others { get; private set; } = [];
    public bool ComesBack { get; private set; }
    /// <summary>The parts of the same edition that the visitor may know of, in order.</summary>
    public IReadOnlyList<Piece> Siblings { get; private set; } = [];
    public Piece? Previous { get; private set; }
    public Piece? Next { get; private set; }

    public async Task<IActionResult> OnGet(long id, string? price)
    {
        if (!Find(id)) return NotFound();
        if (Decide(Piece).IsOpen)
        {
            Reading = await reader.Read(Piece.Id, Piece.State == PieceState.Released ? Visitor.Recorded : null, Moment, Ct);
            return Reading is null ? NotFound() : Page();
        }
        Why = Why.Explain(Now.Book, Visitor.Facts, Piece, Moment, Now.Calendar);
        var plans = Why.WouldOpen.OfType<WouldOpen.Joining>().Select(j => j.Plan).Where(p => Now.PricesOf(p.Id).Any(x => x.OnOffer)).ToArray();
        // Who held a plan that would open it comes back to that one; others are shown the lowest.
        var before = Visitor.Person?.Holdings.LastOrDefault(h => h.StateAt(Moment) == HoldingState.Over)?.PlanId;
        var byLink = plans.FirstOrDefault(p => Now.PricesOf(p.Id).Any(x => x.OnOffer && x.Code == price));
        var plan = byLink ?? plans.FirstOrDefault(p => p.Id == before) ?? plans.FirstOrDefault();
        if (plan is not null)
        {
            var prices = Now.PricesOf(plan.Id).Where(x => x.OnOffer).ToArray();
            WayIn = new(plan, prices, prices.FirstOrDefault(x => x.Code == price) ?? prices[0]);
            Others = [.. plans.Where(p => p.Id != plan.Id)];
            ComesBack = plan.Id == before;
        }
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, bool done, [FromServices] OwnMembership own)
    {
        if (!Find(id) || Visitor.Recorded is not { } member || !Decide(Piece).IsOpen) return NotFound();
        await own.MarkDone(member, Piece.Id, done, Ct);
        return Redirect(done ? Next is { } next ? PathOf(next) : "/me" : PathOf(Piece));
    }

    bool Find(long id)
    {
        if (!Now.PieceById.TryGetValue(new PieceId(id), out var piece)) return false;
        Piece = piece;
        var decision = Decide(piece);
        if (decision.State is AccessState.Hidden or AccessState.OpensAt) return false;
        var all = piece.EditionId is { } e ? Now.PartsOf[e] : [piece];
        Siblings = [.. all.Where(p => Decide(p).State is AccessState.Open or AccessState.Locked)];
        var open = Siblings.Where(p => p.Id == piece.Id || Decide(p).IsOpen).ToList();
        var at = open.FindIndex(p => p.Id == piece.Id);
        Previous = at > 0 ? open[at - 1] : null;
        Next = at + 1 < open.Count ? open[at + 1] : null;
        return true;
    }
}
