using BrightCircle.App.Catalogues;
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

/// <summary>The team notes that money came in by transfer or by hand.</summary>
public sealed class ReceiveMoney(BrightContext db, Memberships door, FulfilOrder fulfil, Books books, Tell tell, Catalogue catalogue, IClock clock)
{
    CatalogueSnapshot Now => catalogue.Now;

    /// <summary>The money of a placed order is there: what it is of begins, or is paid.</summary>
    /// <param name="day">When it came; null for today.</param>
    public async Task<Result> Confirm(TeamActor by, long order, LocalDate? day, CancellationToken ct)
    {
        by.NeedSupport();
        if (Wrong(day) is { } wrong) return wrong;
        if (!await db.Checkouts.AnyAsync(c => c.Id == order && c.Reference != null, ct)) return Result.Refused("This order isn’t here any more.");
        var member = await fulfil.MemberOf(order, ct);
        return await door.Do(member is { } known ? [known] : [], async () =>
        {
            var c = await fulfil.Lock(order, ct);
            var at = clock.GetCurrentInstant();
            if (c.State == CheckoutState.Completed) return Result.Refused("Its money was noted already.");
            if (c.Asked is not { } asked) return Result.Refused("Nothing is asked for it.");
            var came = new CameIn(c.Way, c.Reference!, Label(c.Way, day ?? Now.Calendar.Date(at)), asked, null);
            if (c.Purpose == CheckoutPurpose.ConfirmPayment) return await PayRequest(c, came, at, ct);
            var price = Now.PriceById[c.PriceId!.Value];
            var m = (await door.Enter([c.MemberId!.Value], ct))[c.MemberId.Value];
            var isOpen = c.HoldingId is { } id && m.Find(id) is { } opened && opened.StateAt(at) != HoldingState.Over;
            if (isOpen && !FulfilOrder.AllWait(c, m, at))
                return Result.Refused($"A part of it was paid otherwise. Note the rest on the page of {m.Member.Name}, and send back what is too much.");
            // Money that can't be used is for the team to send back: nothing is written down as if it had been.
            if (!isOpen && c.Voucher is null && m.Held(price.PlanId, at) is not null)
                return Result.Refused($"{m.Member.Name} holds {Now.PlanName(price.PlanId)} already. Send the money back, and call the order off.");
            var asksFor = ReviewJoin.OrderOf(c, price, at, Now);
            if (!isOpen && asksFor.Parts.FirstOrDefault(p => p.IsExtra && m.Held(p.Plan, at) is not null) is { } had)
                return Result.Refused($"{m.Member.Name} holds {Now.PlanName(had.Plan)} already, which is a part of it. Send the money back, and call the order "
                    + "off; they can order the rest anew.");
            if (!isOpen && await fulfil.RefusedTo(c, price, m, asksFor, at, ct) is { } no)
                return Result.Refused($"It can’t be carried out: {no} Send the money back, and call the order off.");
            var placed = c.State == CheckoutState.Placed;
            (c.State, c.CompletedAt) = (CheckoutState.Completed, at);
            await fulfil.Join(c, came, placed && isOpen, at, ct);
            return Result.Done;
        }, ct);
    }

    async Task<Result> PayRequest(Checkout c, CameIn came, Instant at, CancellationToken ct)
    {
        var m = (await door.Enter([c.MemberId!.Value], ct))[c.MemberId.Value];
        var holding = m.Find(c.HoldingId!.Value)!;
        if (Paused(holding, at) is { } paused) return paused;
        if (Obligations.Of(holding, at).Next is not { } charge || charge.Turn != c.Turn || charge.Purpose != c.ChargePurpose || charge.Amount != c.Asked)
            return Result.Refused($"{Now.PlanName(holding.PlanId)} doesn’t ask for this any more. Send the money back, or note it on the member’s page.");
        (c.State, c.CompletedAt) = (CheckoutState.Completed, at);
        await Write(m, holding, charge, came, c.Id, at, ct);
        await door.Leave([m], at, ct);
        return Result.Done;
    }

    /// <summary>What a holding asks for next came in without having been asked for by an order: in cash, say.</summary>
    /// <param name="words">How, for people: "cash at the autumn fair".</param>
    public Task<Result> Note(TeamActor by, MemberId member, HoldingId holding, PayWay way, LocalDate? day, long amountMinor, string? words,
        CancellationToken ct)
    {
        by.NeedSupport();
        if (way == PayWay.Card) return Task.FromResult(Result.Refused("What a card pays is noted by itself.", "Way"));
        if (Wrong(day) is { } wrong) return Task.FromResult(wrong);
        if (words?.Trim().Length > 30) return Task.FromResult(Result.Refused("That is too long; 30 letters are the most.", "Words"));
        return door.Change(member, async (m, at) =>
        {
            if (m.Find(holding) is not { } h) return Result.Refused("Nothing is to be paid for it.");
            if (Paused(h, at) is { } paused) return paused;
            if (Noteable(h, at) is not { } charge) return Result.Refused("Nothing is to be paid for it.");
            if (charge.Amount.Minor != amountMinor) return Result.Refused($"It asks for {charge.Amount.Format(Now.Culture)} now. Look again.", "Amount");
            var on = day ?? Now.Calendar.Date(at);
            var label = string.IsNullOrWhiteSpace(words) ? Label(way, on) : $"{words.Trim()}, {on.ToString("d MMM", Now.Culture)}";
            await Write(m, h, charge, new(way, $"noted-{h.Id.Value}-{charge.Turn}", label, charge.Amount, null), null, at, ct);
            return Result.Done;
        }, ct);
    }

    /// <summary>What can be noted as paid for a holding: what it asks for next. Null where that is nothing, or it is paused.</summary>
    public static Charge? Noteable(Holding holding, Instant at) =>
        Obligations.Of(holding, at) is { Next: { Amount.IsZero: false } charge, State: not HoldingState.Paused } ? charge : null;

    async Task Write(Membership m, Holding holding, Charge charge, CameIn came, long? order, Instant at, CancellationToken ct)
    {
        var attempt = await db.NextAttempt(holding.Id, charge, ct);
        var asked = new Asking(charge, attempt, Asking.KeyFor(holding.Id, charge.Purpose, charge.Turn, attempt), came.Label) { Way = came.Way, Order = order };
        books.Paid(m, holding, asked, new(ChargeOutcome.Approved, came.Ref, null, charge.Amount), at);
    }

    /// <summary>An order that still waits is called off; what was open for it ends.</summary>
    public async Task<Result> CallOff(TeamActor? by, long order, MemberId? own, CancellationToken ct)
    {
        by?.NeedSupport();
        if (await db.Checkouts.AsNoTracking().Where(c => c.Id == order && c.Purpose == CheckoutPurpose.Join).Select(c => c.MemberId).FirstOrDefaultAsync(ct)
            is not { } member || by is null && member != own) return Result.Refused("This order isn’t here any more.");
        return await door.Change(member, async (m, at) =>
        {
            var c = await fulfil.Lock(order, ct);
            if (c.State != CheckoutState.Placed) return Result.Refused("This order doesn’t wait any more.");
            c.State = CheckoutState.CalledOff;
            foreach (var holding in FulfilOrder.OfOrder(c, m)) books.End(m, holding, EndReason.CalledOff, at, by);
            await db.CouponUses.Where(u => u.CheckoutId == order).ExecuteDeleteAsync(ct);
            tell.Of(m.Member, new Event.OrderOver(c.Id, await db.PlanOf(c, ct), c.Asked!.Value, CalledOff: true), at, by);
            return Result.Done;
        }, ct);
    }

    /// <summary>When what falls due next is, isn't settled while it is paused: the pause can end before its time.</summary>
    static Result? Paused(Holding holding, Instant at) => holding.StateAt(at) == HoldingState.Paused
        ? Result.Refused("It is paused. Note the money when it goes on, or end the pause first.") : null;

    Result? Wrong(LocalDate? day) => day is { } d && (d > Now.Calendar.Date(clock.GetCurrentInstant()) || d.Year < 2000)
        ? Result.Refused("The day it came is today or before.", "Day") : null;

    string Label(PayWay way, LocalDate day) => $"{(way == PayWay.Transfer ? "transfer" : "by hand")}, {day.ToString("d MMM uuuu", Now.Culture)}";
}
