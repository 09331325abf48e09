using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>What an order shows: what it is of, how it is paid, and what came of it.</summary>
/// <param name="Plan">What it is about.</param>
/// <param name="Order">What it asks for when it is made; null for a request of something that is held already.</param>
/// <param name="Way">The way as it is offered now; null where it isn't any more.</param>
/// <param name="Terms">The owner's terms that were agreed to, as they were then.</param>
public sealed record OrderFile(Checkout Checkout, Plan Plan, Price? Price, Order? Order, WayOffered? Way, IReadOnlyList<Payment> Payments, TermsText? Terms,
    KeyLink? Voucher)
{
    public bool IsWaiting => Checkout.State == CheckoutState.Placed;
}

/// <summary>One order, for the buyer or the team.</summary>
public sealed class FindOrder(BrightContext db, Catalogue catalogue, IClock clock)
{
    /// <param name="of">Only where it is theirs; null for the team.</param>
    public async Task<OrderFile?> Do(long id, MemberId? of, CancellationToken ct)
    {
        var now = catalogue.Now;
        var trip = new OneTrip(db);
        var found = trip.First(db.Checkouts.AsNoTracking().Where(c => c.Id == id && c.Purpose != CheckoutPurpose.ChangeCard
            && (of == null || c.MemberId == of)));
        var payments = trip.List(db.Payments.AsNoTracking().Where(p => p.OrderId == id).OrderBy(p => p.Id));
        var terms = trip.First(db.TermsTexts.AsNoTracking().Where(t => db.Checkouts.Any(c => c.Id == id && c.TermsPageId == t.PageId
            && c.TermsVersion == t.Version)));
        var voucher = trip.First(db.KeyLinks.AsNoTracking().Where(k => k.OrderId == id));
        var holding = trip.First(db.Holdings.AsNoTracking().Where(h => db.Checkouts.Any(c => c.Id == id && c.HoldingId == h.Id)));
        await trip.Ask(ct);
        if (found.Value is not { } c) return null;
        var price = c.PriceId is { } p ? now.PriceById.GetValueOrDefault(p) : null;
        var plan = price is not null ? now.PlanById[price.PlanId] : holding.Value is { } h ? now.PlanById[h.PlanId] : null;
        if (plan is null) return null;
        var at = c.CompletedAt ?? c.PlacedAt ?? clock.GetCurrentInstant();
        return new(c, plan, price, price is null ? null : ReviewJoin.OrderOf(c, price, at, now), now.Site!.Ways.FirstOrDefault(w => w.Way == c.Way),
            payments.Value,
            terms.Value, voucher.Value);
    }
}
