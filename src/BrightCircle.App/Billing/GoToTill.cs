using BrightCircle.App.Catalogues;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>Opens the payment service's card page: to join, to pay what is open, or only to keep another card.</summary>
public sealed class GoToTill(BrightContext db, Ids ids, IPaymentGateway gateway, Catalogue catalogue, IClock clock, CompleteCheckout complete,
    UseCoupon coupons)
{
    public const string Away = "The payment service doesn’t answer just now. Nothing was charged. Please try again in a few minutes.";

    CatalogueSnapshot Now => catalogue.Now;

    /// <summary>Opens the card page for a checkout, or finishes a free one.</summary>
    /// <returns>Where the browser goes next: the Till; an empty address where nothing needs paying and it is done.</returns>
    public async Task<Result<string>> Join(long checkout, string returnUrl, CancellationToken ct)
    {
        var c = await db.Checkouts.FirstAsync(x => x.Id == checkout, ct);
        var price = Now.PriceById[c.PriceId!.Value];
        var asked = ReviewJoin.OrderOf(c, price, clock.GetCurrentInstant(), Now);
        if (!asked.NeedsCard)
        {
            var done = await complete.Free(checkout, ct);
            return done.Ok ? "" : Result.Refused(done.Refusal!);
        }
        if (ReviewJoin.WaysFor(c, price, asked, Now).All(w => w.Way != PayWay.Card)) return PlaceOrder.NotThisWay;
        c.AgreedAt = clock.GetCurrentInstant();
        c.Way = PayWay.Card;
        if (await coupons.Keep(c, price, null, ct) is { } refused) return Result.Refused(refused, "Coupon");
        var order = ReviewJoin.OrderOf(c, price, c.AgreedAt.Value, Now);
        var what = $"{Now.PlanName(price.PlanId)}, {Say.FullPrice(order.Parts[0].Agreement.Applied, Now.Culture)}";
        foreach (var extra in order.Parts.Skip(1)) what += $"; {Now.PlanName(extra.Plan)}, {Say.FullPrice(extra.Agreement.Applied, Now.Culture)}";
        return await Open(c, order.Due, $"{Now.Site!.Name}: {what}", returnUrl, ct);
    }

    /// <summary>Opens the card page for a member: to pay what is open in grace, or only to keep another card.</summary>
    /// <param name="returnUrl">Makes the address to come back to from the checkout's number.</param>
    public async Task<Result<string>> Card(MemberId member, Func<long, string> returnUrl, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var m = await db.Members.AsNoTracking().SingleAsync(x => x.Id == member, ct);
        var holdings = await db.Holdings.Where(h => h.MemberId == member && !h.IsOver).Include(h => h.Facts).AsNoTracking().ToListAsync(ct);
        var open = OpenPayment.Of(holdings, at);
        var c = db.Add(new Checkout
        {
            Id = ids.Next(),
            Purpose = open is null ? CheckoutPurpose.ChangeCard : CheckoutPurpose.ConfirmPayment,
            MemberId = member,
            HoldingId = open?.Holding.Id,
            Turn = open?.Charge.Turn ?? 0,
            ChargePurpose = open?.Charge.Purpose,
            Email = m.Email,
            Name = m.Name,
            CreatedAt = at,
        }).Entity;
        var text = open is null ? $"{Now.Site!.Name}: another card" : $"{Now.Site!.Name}: {Now.PlanName(open.Holding.PlanId)}";
        return await Open(c, open?.Charge.Amount, text, returnUrl(c.Id), ct);
    }

    async Task<Result<string>> Open(Checkout c, Money? amount, string text, string returnUrl, CancellationToken ct)
    {
        // Another choice is another page: the key of the first opens the first.
        var choice = string.Join('-', c.Extras.Select(e => $"x{e.Value}").Prepend(c.Coupon is { } used ? $"c{used.Coupon}" : ""));
        var key = $"checkout-{c.Id}{(amount is { } a ? $"-{a.Minor}" : "")}{(choice.Length > 0 ? $"-{choice}" : "")}";
        var at = clock.GetCurrentInstant();
        if (await gateway.Open(new(key, amount, Bounded.To(text, 300), c.Email, returnUrl, at), ct) is not { } session)
            return Result.Refused(Away);
        (c.Session, c.AskedMinor, c.AskedCurrency) = (session.Id, amount?.Minor, amount?.Currency.Code);
        // All that were opened are known: whichever is paid is paid for.
        if (await db.CheckoutSessions.FirstOrDefaultAsync(s => s.Session == session.Id, ct) is { } known) known.OpenedAt = at;
        else
            db.Add(new CheckoutSession
            {
                Session = session.Id,
                CheckoutId = c.Id,
                OpenedAt = at,
                AskedMinor = c.AskedMinor,
                AskedCurrency = c.AskedCurrency,
                Coupon = c.Coupon,
                Extras = c.Extras,
            });
        await db.SaveChangesAsync(ct);
        return session.Url;
    }
}

/// <summary>A payment that failed and waits to be paid.</summary>
/// <param name="Until">Until when it stays open; null where it is closed already, until it is paid.</param>
public sealed record OpenPayment(Holding Holding, Core.Offer.Charge Charge, Instant? Until)
{
    /// <summary>The one that runs out first, of all a member holds; null where none is open.</summary>
    public static OpenPayment? Of(IEnumerable<Holding> holdings, Instant at) =>
        holdings.Select(h => (Holding: h, Owes: Obligations.Of(h, at))).Where(x => x.Owes is { IsOverdue: true, Next: not null })
            .Select(x => new OpenPayment(x.Holding, x.Owes.Next!, x.Owes.GraceUntil)).MinBy(x => x.Until ?? Instant.MinValue);
}
