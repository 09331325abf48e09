using BrightCircle.App.Catalogues;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.OutputCaching;
using NodaTime;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>A plan as it is offered, with what it means for whoever looks.</summary>
/// <param name="Held">They hold it; nothing is sold to them again.</param>
public sealed record OfferedPlan(Plan Plan, IReadOnlyList<Price> Prices, Holding? Held);

/// <summary>A page that shows what is on offer: tiers, and passes beside them.</summary>
public abstract class TiersPage : BrightPage
{
    OfferedPlan Offered(Plan plan) => new(plan, [.. Now.PricesOnOffer(plan).Where(p => Visitor.Buyer.May(p, Now.Calendar, Moment))],
        Visitor.Person?.Holdings.FirstOrDefault(h => h.PlanId == plan.Id && h.IsHeldAt(Moment)));

    IEnumerable<OfferedPlan> OnOffer(PlanKind kind) =>
        Now.Plans.Where(p => p.Kind == kind).Select(Offered).Where(o => o.Prices.Count > 0 || o.Held is not null);

    /// <summary>A plan that is on offer, or that they hold; null for others.</summary>
    public OfferedPlan? OfferedOf(PlanId plan) => Tiers.Concat(Passes).FirstOrDefault(o => o.Plan.Id == plan);

    /// <summary>What is out and would open, sooner or later, to somebody who joined now; the newest first.</summary>
    public static IReadOnlyList<Piece> InsideOf(CatalogueSnapshot now, Plan plan, Instant moment) => [.. now.Pieces
        .Where(p => p.State == PieceState.Released && !now.IsQuiet(p.Id) && now.Book.GivesPartOf(plan.Id, p.Id, moment))
        .OrderByDescending(p => p.ReleasedAt).ThenByDescending(p => p.Id.Value)];

    /// <summary>Words of the owner's own, for a place on this page; null where there are none.</summary>
    public PageSections? Words(SitePageKind kind, Plan? plan = null, PriceId? price = null) =>
        Now.PageFor(kind, kind is SitePageKind.Plan or SitePageKind.Join ? plan?.Id : null, price) is { } written ? new(this, written, plan) : null;

    public IReadOnlyList<OfferedPlan> Tiers => [.. OnOffer(PlanKind.Tier)];
    public IReadOnlyList<OfferedPlan> Passes => [.. OnOffer(PlanKind.Pass)];

    public static string PathOf(Plan plan) => $"/tiers/{plan.Id.Value}/{Slug(plan.Name)}";

    /// <summary>What a price comes to, so that prices can be compared.</summary>
    public string Effective(Price price) => Say.Effective(price.Terms, PaymentSchedule.For(price.Terms, Moment, Now.Calendar), Now.Culture,
        Now.PlanById[price.PlanId]) + (Say.PaceOf(Now.PlanById[price.PlanId], price.Id) is { Length: > 0 } pace ? " " + pace : "");

    /// <summary>What a price saves beside the sister price that costs most over the same time: said with the one that saves.</summary>
    public string Saves(OfferedPlan offered, Price price)
    {
        var mine = PaymentSchedule.For(price.Terms, Moment, Now.Calendar);
        return offered.Prices.Where(p => p != price).Select(p => (Price: p, Beside: mine.Beside(PaymentSchedule.For(p.Terms, Moment, Now.Calendar))))
            .Where(x => x.Beside is { Difference.Minor: < 0 }).OrderBy(x => x.Beside!.Value.PerMille)
            .Select(x => $"It {Say.Beside(x.Beside!.Value, Now.Culture)}, beside “{x.Price.Name}”.").FirstOrDefault() ?? "";
    }

    /// <summary>What they hold that can be changed for a price, with what isn't used credited; null where there is nothing.</summary>
    public Holding? ChangesFrom(OfferedPlan offered, Price price) => (Visitor.Person?.Holdings ?? [])
        .FirstOrDefault(h => Now.PlanById[h.PlanId].IsTier && PlanChange.Refuses(h, Now.PlanById[h.PlanId], offered.Plan, price, Moment) is null);

    /// <summary>The tier they hold and that would give way to a price.</summary>
    public Plan? WouldGiveWay(OfferedPlan offered, Price price) => (Visitor.Person?.Holdings ?? [])
        .Select(h => Now.PlanById[h.PlanId]).Zip(Visitor.Person?.Holdings ?? [])
        .FirstOrDefault(x => GivesWay.Of(x.Second, x.First, offered.Plan, price.Terms, Moment) is not GivesWay.Stays).First;
}

[OutputCache(PolicyName = SameForVisitors.Name)]
public sealed class TiersModel : TiersPage
{
    public void OnGet() { }
}
