using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>Orders something whose money comes by transfer or by hand: the buyer is told how, and the order waits for it.</summary>
public sealed class PlaceOrder(BrightContext db, Ids ids, Memberships door, FulfilOrder fulfil, UseCoupon coupons, Tell tell, Catalogue catalogue,
    IClock clock, Wake wake)
{
    CatalogueSnapshot Now => catalogue.Now;
    internal static Result NotThisWay => Result.Refused("This way to pay isn’t offered for it any more. Choose another.", "Way");

    public async Task<Result> Do(long checkout, PayWay way, CancellationToken ct)
    {
        var c = await db.Checkouts.FirstAsync(x => x.Id == checkout, ct);
        var price = Now.PriceById[c.PriceId!.Value];
        var at = clock.GetCurrentInstant();
        var ways = ReviewJoin.WaysFor(c, price, ReviewJoin.OrderOf(c, price, at, Now), Now);
        if (ways.FirstOrDefault(w => w.Way == way && w.Way != PayWay.Card) is not { } offered)
            return NotThisWay;
        var until = Now.Calendar.PlusDays(at, offered.Days);
        if (await coupons.Keep(c, price, until, ct) is { } refused) return Result.Refused(refused, "Coupon");
        var coupon = c.Coupon;
        // Read anew behind the lock: another window may have ordered it meanwhile.
        db.ChangeTracker.Clear();
        var member = await fulfil.MemberOf(checkout, ct);
        var done = await door.Do(member is { } known ? [known] : [], async () =>
        {
            var order = await fulfil.Lock(checkout, ct);
            if (order.State == CheckoutState.Placed) return Result.Done;
            if (order.State != CheckoutState.Open) return Result.Refused("This order isn’t open any more.");
            var now = clock.GetCurrentInstant();
            (order.Way, order.AgreedAt, order.Coupon) = (way, now, coupon);
            var asked = ReviewJoin.OrderOf(order, price, now, Now);
            if (asked.Due is not { } due)
            {
                // Nothing to pay yet: it begins, and what falls due later is asked for in this way.
                (order.State, order.CompletedAt) = (CheckoutState.Completed, now);
                await fulfil.Join(order, null, placed: false, now, ct);
                return Result.Done;
            }
            var m = await fulfil.FindOrAdd(order, price.PlanId, now, ct);
            order.MemberId = m.Member.Id;
            if ((order.Voucher is null && m.Held(price.PlanId, now) is not null ? $"You already hold {Now.PlanName(price.PlanId)}."
                : await fulfil.RefusedTo(order, price, m, asked, now, ct)) is { } no)
            {
                // Told only to the person themselves, when they sign in: the address could be anybody's.
                (order.State, order.CompletedAt, order.RefusedBecause) = (CheckoutState.Completed, now, no);
                await door.Leave([m], now, ct);
                return Result.Done;
            }
            (order.State, order.PlacedAt, order.OpenUntil) = (CheckoutState.Placed, now, until);
            (order.Reference, order.AskedMinor, order.AskedCurrency) = (CreditorReference.For(order.Id), due.Minor, due.Currency.Code);
            var opens = offered.OpensAtOnce && order.Voucher is null;
            if (opens)
                foreach (var part in asked.Parts)
                {
                    if (part.IsExtra && m.Held(part.Plan, now) is not null) continue;
                    var holding = await fulfil.Begin(order, m, part, now, ct);
                    if (part.Due is { Amount.IsZero: false })
                    {
                        db.HoldingFacts.Add(holding.Planned(now));
                        db.HoldingFacts.Add(holding.Grace(now, until));
                    }
                    else fulfil.Pay(order, m, holding, part.Agreement, null, null, now);
                }
            tell.Of(m.Member, new Event.OrderPlaced(order.Id, price.PlanId, due, order.Reference, way, until, opens), now);
            ChaseOrder.Put(db, ids, order, now);
            await door.Leave([m], now, ct);
            return Result.Done;
        }, ct);
        if (done.Ok) wake.Up();
        return done;
    }
}
