using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

public sealed record WayIn(Plan Plan, IReadOnlyList<Price> Prices, Price Chosen);

/// <summary>What someone meets who may not open a thing: why, and the way in.</summary>
public sealed record Doorway(BrightPage Page, Piece Piece, Lesson? Lesson, Why Why, WayIn? WayIn, IReadOnlyList<Plan> Others, bool ComesBack)
{
    public string Path => Lesson is { } l ? Page.PathOf(l) : Page.PathOf(Piece);

    public static Doorway For(BrightPage page, Piece piece, Lesson? lesson, string? price)
    {
        var now = page.Now;
        var why = Why.Explain(now.Book, page.Visitor.Facts, piece, lesson, page.Moment, now.Calendar);
        var plans = why.WouldOpen.OfType<WouldOpen.Joining>().Select(j => j.Plan).Where(p => now.PricesOf(p.Id).Any(x => x.OnOffer)).ToArray();
        // Who held a plan that would open it comes back to that one; others are shown the lowest.
        var before = page.Visitor.Person?.Holdings.LastOrDefault(h => h.StateAt(page.Moment) == HoldingState.Over)?.PlanId;
        var byLink = plans.FirstOrDefault(p => now.PricesOf(p.Id).Any(x => x.OnOffer && x.Code == price));
        var plan = byLink ?? plans.FirstOrDefault(p => p.Id == before) ?? plans.FirstOrDefault();
        if (plan is null) return new(page, piece, lesson, why, null, [], false);
        var prices = now.PricesOf(plan.Id).Where(x => x.OnOffer).ToArray();
        return new(page, piece, lesson, why, new(plan, prices, prices.FirstOrDefault(x => x.Code == price) ?? prices[0]), [.. plans.Where(p => p.Id != plan.Id)], plan.Id == before);
    }
}
