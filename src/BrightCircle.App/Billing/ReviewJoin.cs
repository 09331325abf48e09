using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>What the review page shows: the agreement it would make, the schedule that follows, and what gives way.</summary>
/// <param name="Order">What is asked for now, with what was ticked beside it.</param>
/// <param name="Extra">What is offered beside it; null for nothing.</param>
/// <param name="Ways">The ways to pay for it, the usual one first.</param>
/// <param name="Terms">The owner's terms to agree to; null for none.</param>
/// <param name="AsksCountry">How it can be paid depends on where the buyer lives.</param>
public sealed record JoinReview(Checkout Checkout, Price Price, Plan Plan, Agreement Agreement, PaymentSchedule Schedule,
    IReadOnlyList<(Plan Plan, GivesWay Way)> Replaces, Order Order, ExtraOffer? Extra, IReadOnlyList<WayOffered> Ways, SitePage? Terms,
    bool AsksCountry)
{
    /// <summary>It can't be paid where the buyer lives.</summary>
    public bool IsFromNowhere => AsksCountry && Checkout.Country is not null && Ways.Count == 0;
    /// <summary>Whether it can be paid in a way, by what is known of the buyer.</summary>
    public bool CanBePaidBy(PayWay way) => !Order.NeedsCard || Ways.Any(w => w.Way == way);
}

/// <param name="Price">What it costs once.</param>
public sealed record ExtraOffer(Price Price, Plan Plan, CheckoutExtra Offer, bool IsTicked);

/// <summary>A checkout to be looked over before it is paid.</summary>
public sealed class ReviewJoin(BrightContext db, Catalogue catalogue, IClock clock)
{
    /// <param name="secret">What the browser that began it holds.</param>
    public async Task<JoinReview?> Find(long checkout, string? secret, CancellationToken ct)
    {
        var now = catalogue.Now;
        var at = clock.GetCurrentInstant();
        var c = await db.Checkouts.AsNoTracking().FirstOrDefaultAsync(
            x => x.Id == checkout && x.Purpose == CheckoutPurpose.Join && x.State == CheckoutState.Open, ct);
        if (c?.PriceId is not { } id || !now.PriceById.TryGetValue(id, out var price) || !CheckoutSecret.Fits(c, secret, at)) return null;
        var plan = now.PlanById[price.PlanId];
        var order = OrderOf(c, price, at, now);
        var agreement = order.Parts[0].Agreement;
        var who = Buyer.Stranger;
        if (c.MemberId is { } member)
        {
            var trip = new OneTrip(db);
            var person = trip.First(db.Members.AsNoTracking().Where(m => m.Id == member));
            var held = trip.List(db.Holdings.AsNoTracking().Where(h => h.MemberId == member).Include(h => h.Facts));
            await trip.Ask(ct);
            who = Buyer.Of(person.Value!, held.Value);
        }
        var holdings = who.Holdings.Where(h => !h.IsOver).ToArray();
        var replaces = new List<(Plan, GivesWay)>();
        // What is bought for somebody else changes nothing of one's own.
        if (c.Voucher is null)
            foreach (var h in holdings)
                if (GivesWay.Of(h, now.PlanById[h.PlanId], plan, agreement.Terms, at) is var way and not GivesWay.Stays)
                    replaces.Add((now.PlanById[h.PlanId], way));
        return new(c, price, plan, agreement, PaymentSchedule.For(agreement), replaces, order, ExtraFor(c, price, who, at, now),
            WaysFor(c, price, order, now), order.NeedsCard ? TermsOf(now) : null, order.NeedsCard && AsksCountry(price, now));
    }

    /// <summary>What an order is made of, on the terms as they are agreed to.</summary>
    internal static Order OrderOf(Checkout c, Price price, Instant at, CatalogueSnapshot now)
    {
        var parts = new List<OrderPart> { new(price.PlanId, price.Id, AgreementOf(c, price, at, now), false) };
        foreach (var id in c.Extras)
            if (now.PriceById.TryGetValue(id, out var extra))
                parts.Add(new(extra.PlanId, extra.Id, new(Agreed(c, extra, at), false, at, now.Calendar.Zone.Id), true));
        return new(parts);
    }

    /// <summary>The terms as this checkout agrees to them: a sale counts as it did when it went to be paid, however long the paying takes.</summary>
    static Agreement AgreementOf(Checkout c, Price price, Instant at, CatalogueSnapshot now) =>
        new(Agreed(c, price, at), c.WithTrial, at, now.Calendar.Zone.Id, c.Coupon);

    static PriceTerms Agreed(Checkout c, Price price, Instant at)
    {
        var agreed = c.AgreedAt ?? at;
        var sale = price.Terms.SaleAt(agreed);
        if (sale is not null && at >= sale.Until) sale = sale with { Until = at + Duration.FromSeconds(1) };
        return price.Terms with { Sale = sale };
    }

    /// <summary>What is offered beside a price: not where they hold it, nor where nobody may buy it any more.</summary>
    static ExtraOffer? ExtraFor(Checkout c, Price price, Buyer who, Instant at, CatalogueSnapshot now)
    {
        if (c.Voucher is not null || price.Extra is not { } offer || !now.PriceById.TryGetValue(offer.Price, out var extra)) return null;
        var plan = now.PlanById[extra.PlanId];
        return CheckoutExtra.Refuses(extra, plan, price) is not null || extra.Within(plan) == Availability.Closed
            || HeldNow.Says(now, who.Holdings, plan.Id, at) is not null || !who.May(extra, now.Calendar, at) ? null
            : new(extra, plan, offer, c.Extras.Contains(extra.Id));
    }

    /// <summary>The ways in which an order can be paid by whoever made it. Where nothing is ever paid, none; also where none is offered in their country,
    /// or that isn't known yet and every way is of some countries.</summary>
    internal static IReadOnlyList<WayOffered> WaysFor(Checkout c, Price price, Order order, CatalogueSnapshot now) =>
        order.NeedsCard ? [.. WaysOf(price, now).Where(w => w.IsFor(c.Country))] : [];

    /// <summary>Whether how a price can be paid depends on where somebody lives.</summary>
    internal static bool AsksCountry(Price price, CatalogueSnapshot now) => WaysOf(price, now).Any(w => w.Countries.Count > 0);

    /// <summary>The site's ways, without those that are off for a price.</summary>
    static IReadOnlyList<WayOffered> WaysOf(Price price, CatalogueSnapshot now)
    {
        WayOffered[] ways = [.. now.Site!.Ways.Where(w => !price.NotBy.Contains(w.Way))];
        return ways.Length > 0 ? ways : WayOffered.Usual;
    }

    /// <summary>The page that buyers agree to; null where there is none, or it isn't public.</summary>
    internal static SitePage? TermsOf(CatalogueSnapshot now) =>
        now.Site?.TermsPageId is { } id ? now.Pages.FirstOrDefault(p => p.Id == id && p.IsPublic && p.Kind == SitePageKind.Free) : null;
}
