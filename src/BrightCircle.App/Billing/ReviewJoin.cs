using BrightCircle.App.Catalogues;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>What the review page shows: the agreement it would make, the schedule that follows, and what gives way.</summary>
public sealed record JoinReview(Checkout Checkout, Price Price, Plan Plan, Agreement Agreement, PaymentSchedule Schedule,
    IReadOnlyList<(Plan Plan, GivesWay Way)> Replaces);

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
        var agreement = AgreementOf(c, price, at, now);
        var replaces = new List<(Plan, GivesWay)>();
        if (c.MemberId is { } member)
            foreach (var h in await db.Holdings.AsNoTracking().Where(h => h.MemberId == member && !h.IsOver).Include(h => h.Facts).ToListAsync(ct))
                if (GivesWay.Of(h, now.PlanById[h.PlanId], plan, agreement.Terms, at) is var way and not GivesWay.Stays)
                    replaces.Add((now.PlanById[h.PlanId], way));
        return new(c, price, plan, agreement, PaymentSchedule.For(agreement), replaces);
    }

    /// <summary>The terms as this checkout agrees to them: a sale counts as it did when it went to be paid, however long the paying takes.</summary>
    internal static Agreement AgreementOf(Checkout c, Price price, Instant at, CatalogueSnapshot now)
    {
        var agreed = c.AgreedAt ?? at;
        var sale = price.Terms.SaleAt(agreed);
        if (sale is not null && at >= sale.Until) sale = sale with { Until = at + Duration.FromSeconds(1) };
        return new(price.Terms with { Sale = sale }, c.WithTrial, at, now.Calendar.Zone.Id, c.Coupon);
    }
}
