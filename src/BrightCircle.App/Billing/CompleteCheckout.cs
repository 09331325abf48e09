using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>
/// Finishes a checkout that was paid at the payment service's page, or needs no payment: once, whether the callback or the returning browser comes first.
/// The account, the holdings, the payments, the letters and the journal of one order commit together.
/// </summary>
public sealed class CompleteCheckout(BrightContext db, Books books, Memberships door, FulfilOrder fulfil, Tell tell, IPaymentGateway gateway,
    IClock clock)
{
    /// <summary>By the callback: finishes the checkout a session belongs to.</summary>
    /// <returns>False where it has to be told again later.</returns>
    public async Task<bool> ByCallback(SessionResult result, CancellationToken ct)
    {
        var id = await db.CheckoutSessions.Where(s => s.Session == result.Session).Select(s => (long?)s.CheckoutId).FirstOrDefaultAsync(ct);
        return id is not { } checkout || (await Do(checkout, result, ct)).Ok;
    }

    /// <summary>By the returning browser, which asks the payment service what came of it.</summary>
    /// <returns>The checkout as it is then; null where there is none.</returns>
    public async Task<Checkout?> ByReturn(long checkout, CancellationToken ct)
    {
        var c = await db.Checkouts.AsNoTracking().FirstOrDefaultAsync(x => x.Id == checkout, ct);
        if (c is null || c.State == CheckoutState.Completed || c.Session is null) return c;
        var opened = await db.CheckoutSessions.AsNoTracking().Where(s => s.CheckoutId == checkout).OrderByDescending(s => s.OpenedAt).Take(5)
            .Select(s => s.Session).ToListAsync(ct);
        foreach (var session in opened)
            if (await gateway.Result(session, ct) is { } result)
            {
                await Do(checkout, result, ct);
                break;
            }
        return await db.Checkouts.AsNoTracking().FirstAsync(x => x.Id == checkout, ct);
    }

    /// <summary>Where nothing needs paying.</summary>
    public Task<Result> Free(long checkout, CancellationToken ct) => Do(checkout, null, ct);

    /// <summary>Uses up the one signing-in that a checkout is good for: once, by the browser that began it, soon.</summary>
    public async Task<bool> UseBrowser(Checkout checkout, string? secret, CancellationToken ct)
    {
        if (!checkout.MadeAccount || !CheckoutSecret.MaySignIn(checkout, secret, clock.GetCurrentInstant())) return false;
        return await db.Checkouts.Where(c => c.Id == checkout.Id && c.BrowserHash == checkout.BrowserHash)
            .ExecuteUpdateAsync(u => u.SetProperty(c => c.BrowserHash, (string?)null), ct) == 1;
    }

    async Task<Result> Do(long checkout, SessionResult? result, CancellationToken ct)
    {
        var member = await fulfil.MemberOf(checkout, ct);
        return await door.Do(member is { } m ? [m] : [], async () =>
        {
            // Whoever comes second waits here, and then finds it completed.
            var c = await fulfil.Lock(checkout, ct);
            var at = clock.GetCurrentInstant();
            if (c.State == CheckoutState.Completed)
            {
                if (result is not null) await PaidAfterwards(c, result, at, ct);
                return Result.Done;
            }
            if (result is not null) await Chose(c, result.Session, ct);
            var placed = c.State == CheckoutState.Placed;
            (c.State, c.CompletedAt, c.Way) = (CheckoutState.Completed, at, result is null ? c.Way : PayWay.Card);
            switch (c.Purpose)
            {
                case CheckoutPurpose.Join: await fulfil.Join(c, CameIn.By(result), placed, at, ct); break;
                case CheckoutPurpose.ChangeCard: await ChangeCard(c, result!, at, ct); break;
                case CheckoutPurpose.ConfirmPayment: await PayOpen(c, result!, at, ct); break;
                default: throw new InvalidOperationException($"No such purpose: {c.Purpose}");
            }
            return Result.Done;
        }, ct);
    }

    /// <summary>Of several pages that were opened this one was paid: what was chosen when it was opened counts.</summary>
    async Task Chose(Checkout c, string session, CancellationToken ct)
    {
        if (c.Session == session || await db.CheckoutSessions.AsNoTracking().FirstOrDefaultAsync(s => s.Session == session, ct) is not { } then) return;
        (c.Session, c.Coupon, c.Extras, c.AskedMinor, c.AskedCurrency) = (session, then.Coupon, then.Extras, then.AskedMinor, then.AskedCurrency);
    }

    /// <summary>It was paid already, at another page or by transfer: what is paid now goes back by itself, once.</summary>
    async Task PaidAfterwards(Checkout c, SessionResult result, Instant at, CancellationToken ct)
    {
        if (result is not { ChargeRef.Length: > 0, Taken: { } taken } || c.MemberId is not { } member) return;
        var m = (await door.Enter([member], ct))[member];
        if (await db.Payments.AnyAsync(p => p.ChargeRef == result.ChargeRef, ct)) return;
        fulfil.GiveBack(m, taken, taken, result, c, at);
        await door.Leave([m], at, ct);
    }

    /// <summary>Another card was kept. Where a payment is open, it is asked for that at once, and from now on for what was paid otherwise.</summary>
    async Task ChangeCard(Checkout c, SessionResult result, Instant at, CancellationToken ct)
    {
        var m = (await door.Enter([c.MemberId!.Value], ct))[c.MemberId.Value];
        AddCard(m, result, at);
        await door.Leave([m], at, ct);
        foreach (var holding in m.Holdings)
            if (Obligations.Of(holding, at) is { IsOverdue: true, Next: { } open }) door.AskNow(holding, at, open.Turn);
    }

    void AddCard(Membership m, SessionResult result, Instant at)
    {
        fulfil.AddCard(m.Member.Id, result, at);
        tell.Of(m.Member, new Event.CardChanged(result.CardLabel), at);
        foreach (var holding in m.Holdings) holding.Way = PayWay.Card;
    }

    async Task PayOpen(Checkout c, SessionResult result, Instant at, CancellationToken ct)
    {
        var m = (await door.Enter([c.MemberId!.Value], ct))[c.MemberId.Value];
        var holding = m.Find(c.HoldingId!.Value)!;
        AddCard(m, result, at);
        if (Obligations.Of(holding, at) is { IsOverdue: true, Next: { } charge } && charge.Purpose == c.ChargePurpose && charge.Turn == c.Turn
            && charge.Amount == c.Asked)
        {
            // Paying in grace keeps the anchor: the charge is the one that was due.
            var attempt = await db.NextAttempt(holding.Id, charge, ct);
            books.Paid(m, holding, new(charge, attempt, Asking.KeyFor(holding.Id, charge.Purpose, charge.Turn, attempt), result.CardLabel), result.Charged, at);
        }
        else
        {
            // A retry was quicker, or grace ran out while the card was typed in: this money goes back.
            fulfil.GiveBack(m, c.Asked ?? result.Taken!.Value, result.Taken, result, c, at);
        }
        await door.Leave([m], at, ct);
    }
}
