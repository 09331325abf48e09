using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

public sealed record WayIn(Plan Plan, IReadOnlyList<Price> Prices, Price Chosen);

/// <summary>What someone meets who may not open a thing, or not yet: why, when it comes, and the way in.</summary>
public sealed record Doorway(BrightPage Page, Piece Piece, Lesson? Lesson, Why Why, WayIn? WayIn, IReadOnlyList<Plan> Others, bool ComesBack)
{
    public string Path => Lesson is { } l ? Page.PathOf(l) : Page.PathOf(Piece);
    public AccessDecision Decision => Why.Decision;
    /// <summary>It comes out at a known moment.</summary>
    public NodaTime.Instant? ComesAt => Decision.IsComing ? Decision.OpensAt : null;
    /// <summary>It opens for them by itself: nothing is sold to them.</summary>
    public bool OpensByItself => Decision.State == AccessState.OpensAt;
    public PlaceState? Places { get; init; }
    /// <summary>The lesson that comes first, where that is what it waits for.</summary>
    public Lesson? First => Why.WouldOpen.OfType<WouldOpen.Finishing>().Select(f => Page.Now.LessonById.GetValueOrDefault(f.Lesson)).FirstOrDefault();
    /// <summary>They hold what covers it, and something else keeps it closed: nothing is to be sold.</summary>
    public bool IsHeldBack => Decision.Rule is AccessRule.NoDateYet or AccessRule.WindowOver or AccessRule.NeedUnmet;

    public static Doorway For(BrightPage page, Piece piece, Lesson? lesson, string? price, PlaceState? places = null)
    {
        var now = page.Now;
        var why = Why.Explain(now.Book, page.Visitor.Facts, piece, lesson, page.Moment, now.Calendar, now.NameOf);
        // What they hold already isn't sold to them again; the cheapest that opens this comes first, a pass for it before a tier.
        var held = page.Visitor.Person?.Holdings.Where(h => h.IsHeldAt(page.Moment)).Select(h => h.PlanId).ToHashSet() ?? [];
        var plans = why.WouldOpen.OfType<WouldOpen.Joining>().Select(j => j.Plan).Where(p => !held.Contains(p.Id) && now.PricesOnOffer(p).Any())
            .OrderBy(p => p.IsTier).ThenBy(p => now.PricesOnOffer(p).Min(x => x.Terms.Headline?.Minor ?? 0)).ThenBy(p => p.Rank).ToArray();
        // Who held a plan that would open it comes back to that one; a price that was asked for by its link comes before all.
        var before = page.Visitor.Person?.Holdings.LastOrDefault(h => h.StateAt(page.Moment) == HoldingState.Over)?.PlanId;
        var byLink = plans.FirstOrDefault(p => now.PricesOnOffer(p).Any(x => x.Code == price));
        var plan = byLink ?? plans.FirstOrDefault(p => p.Id == before) ?? plans.FirstOrDefault();
        // What they hold covers it; what keeps it closed can't be bought away.
        if (why.Decision.Rule is AccessRule.PreviousFirst or AccessRule.NoDateYet or AccessRule.WindowOver or AccessRule.NeedUnmet) plan = null;
        if (plan is null) return new(page, piece, lesson, why, null, [], false) { Places = places };
        Price[] prices = [.. now.PricesOnOffer(plan)];
        return new(page, piece, lesson, why, new(plan, prices, prices.FirstOrDefault(x => x.Code == price) ?? prices[0]),
            [.. plans.Where(p => p.Id != plan.Id)], plan.Id == before)
        { Places = places };
    }
}
