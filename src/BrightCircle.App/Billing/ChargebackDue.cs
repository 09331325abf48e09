using System.Text.Json;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>Notes from a callback that a bank took money back.</summary>
public sealed class NoteChargeback(BrightContext db, Ids ids, IClock clock, Wake wake)
{
    /// <summary>The same one told twice is noted once.</summary>
    public async Task Do(string chargeRef, Money amount, CancellationToken ct, GatewayDispute? dispute = null)
    {
        var key = DueRows.KeyOf("chargeback", chargeRef);
        if (await db.Refunds.AnyAsync(r => r.Key == key, ct) || await db.PaymentsToLookAt.AnyAsync(p => p.Key == key, ct)) return;
        await Put(DueKind.Chargeback, key, new ChargebackOrder(chargeRef, amount.Minor, amount.Currency.Code, dispute), ct);
    }

    /// <summary>A bank has decided: written down once, however often it is told.</summary>
    public async Task Decided(string disputeRef, bool won, CancellationToken ct)
    {
        if (await db.Disputes.AnyAsync(d => d.Ref == disputeRef && d.DecidedAt != null, ct)) return;
        await Put(DueKind.DisputeDecided, DueRows.KeyOf("decided", disputeRef), new DecidedOrder(disputeRef, won), ct);
    }

    async Task Put<T>(DueKind kind, string key, T order, CancellationToken ct)
    {
        await db.PutDueOnce(ids, kind, clock.GetCurrentInstant(), key, JsonSerializer.Serialize(order, CoreJson.Options), ct);
        wake.Up();
    }
}

/// <summary>A decision as kept with its due work.</summary>
public sealed record DecidedOrder(string DisputeRef, bool Won);

/// <summary>A chargeback as kept with its due work.</summary>
public sealed record ChargebackOrder(string ChargeRef, long Minor, string Currency, GatewayDispute? Dispute = null);

/// <summary>A bank took a payment back, or a part of it: the money is gone, the holding ends, and somebody has to look at it.</summary>
public sealed class ChargebackDue(BrightContext db, Ids ids, Books books, Memberships door, Tell tell, Catalogue catalogue) : IDueHandler
{
    /// <summary>So long a charge may be unknown: the payment's own record may be on its way.</summary>
    static readonly Duration KnownWithin = Duration.FromHours(2);

    public DueKind Kind => DueKind.Chargeback;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var order = JsonSerializer.Deserialize<ChargebackOrder>(item.Row.Payload!, CoreJson.Options)!;
            var amount = new Money(order.Minor, new(order.Currency));
            var of = await db.Payments.AsNoTracking().Where(p => p.ChargeRef == order.ChargeRef && p.Outcome == ChargeOutcome.Approved)
                .OrderBy(p => p.Id).Select(p => new { p.Id, p.MemberId }).FirstOrDefaultAsync(ct);
            if (of is null)
            {
                if (item.Moment < item.Row.DueAt + KnownWithin)
                {
                    item.Postpone("No payment is known for this charge yet.");
                    continue;
                }
                books.LookAt(PaymentConcern.DisputeOfUnknown, null, null,
                    $"A bank took {Show(amount)} back for the charge {order.ChargeRef}, and no payment here has that reference. Look for it at the payment "
                    + $"service.", item.Row.Key, item.Moment);
                continue;
            }
            await door.Lock([of.MemberId], ct);
            if (await db.ChargeAsks.AnyAsync(a => a.MemberId == of.MemberId, ct))
            {
                item.Postpone("A charge of this member is still open.");
                continue;
            }
            var m = (await db.LoadMemberships([of.MemberId], ct))[of.MemberId];
            // One charge can have paid for several things of an order.
            var payments = await db.Payments.Where(p => p.ChargeRef == order.ChargeRef && p.Outcome == ChargeOutcome.Approved).OrderBy(p => p.Id)
                .ToListAsync(ct);
            foreach (var p in payments) await db.Entry(p).ReloadAsync(ct);
            await Take(m, payments, amount, order.Dispute, item, ct);
            await door.Leave([m], item.Moment, ct);
            happened.Add("charged back");
        }
    }

    async Task Take(Membership m, IReadOnlyList<Payment> payments, Money amount, GatewayDispute? told, DueItem item, CancellationToken ct)
    {
        // Never more than is left of it: what the team gave back already can't be taken a second time in these books.
        var rest = amount;
        var n = 0;
        var answerBy = told is null ? (Instant?)null : catalogue.Now.Calendar.PlusDays(item.Moment, told.AnswerDays);
        var how = answerBy is { } by
            ? $"You can answer it until {catalogue.Now.Calendar.Date(by).ToString("d MMMM", catalogue.Now.Culture)}, on the payment’s page."
            : "Answer at the payment service if it was a mistake.";
        foreach (var payment in payments)
        {
            var left = payment.Refundable;
            var taken = rest.Currency == left.Currency && rest < left ? rest : left;
            if (taken.IsZero || rest.IsZero) continue;
            if (rest.Currency == taken.Currency) rest -= taken;
            var holding = payment.HoldingId is { } held ? m.Find(held) : null;
            var plan = holding?.PlanId ?? catalogue.Now.PriceById[payment.PriceId].PlanId;
            var key = n++ == 0 ? item.Row.Key : $"{item.Row.Key}-{n}";
            books.GivenBack(payment, taken, chargeback: true, "Charged back by the bank", key, item.Moment);
            tell.Of(m.Member, new Event.ChargedBack(payment.Id, holding?.Id, plan, taken, AlreadyRefunded: false), item.Moment);
            var ended = holding is null ? !payment.IsOfVoucher ? "It had paid for nothing."
                : await db.RevokeVoucher(payment, item.Moment, ct) ? "The voucher it paid for isn’t good any more." : "The voucher it paid for has been used."
                : holding.Ending is null ? "What it paid for has ended." : "What it paid for had ended already.";
            books.LookAt(PaymentConcern.Dispute, m.Member.Id, payment.Id,
                $"{m.Member.Name}’s bank took {Show(taken)} back. {ended} {how}", key, item.Moment);
            if (holding is not null) books.End(m, holding, EndReason.ChargedBack, item.Moment);
        }
        if (n > 0)
        {
            if (told is not null && answerBy is { } until && amount.Currency == payments[0].Amount.Currency && !(amount - rest).IsZero)
                db.Add(new Dispute
                {
                    Id = ids.Next(),
                    PaymentId = payments[0].Id,
                    MemberId = m.Member.Id,
                    Ref = told.Ref,
                    Amount = amount - rest,
                    OpenedAt = item.Moment,
                    AnswerBy = until,
                    Reason = told.Reason,
                });
            return;
        }
        var first = payments[0];
        tell.Of(m.Member, new Event.ChargedBack(first.Id, first.HoldingId, catalogue.Now.PriceById[first.PriceId].PlanId, amount, AlreadyRefunded: true),
            item.Moment);
        books.LookAt(PaymentConcern.DisputeAfterRefund, m.Member.Id, first.Id,
            $"{m.Member.Name}’s bank took {Show(amount)} back, but this payment had been refunded before. Tell the payment service, or the money goes "
            + $"back twice.", item.Row.Key, item.Moment);
    }

    string Show(Money money) => money.Format(catalogue.Now.Culture);
}
