using System.Text.Json;
using BrightCircle.App.House;
using BrightCircle.App.Letters;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>A refund on its way, as kept with its due work.</summary>
public sealed record RefundOrder(long Minor, bool EndHolding, string Reason, string? By)
{
    public static string Write(RefundOrder order) => JsonSerializer.Serialize(order, CoreJson.Options);
    public static RefundOrder Read(string json) => JsonSerializer.Deserialize<RefundOrder>(json, CoreJson.Options)!;
}

/// <summary>The team gives money back: written down first, then asked of the payment service, so that a crash between loses nothing.</summary>
public sealed class RefundPayment(BrightContext db, Books books, IClock clock, RunDue due, Wake wake)
{
    public async Task<Result> Do(TeamActor by, PaymentId id, Money amount, bool endHolding, string? reason, CancellationToken ct)
    {
        by.NeedOwner();
        var payment = await db.Payments.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id, ct);
        if (payment is null) return Result.Refused("There is no such payment.");
        if (!payment.IsPaid) return Result.Refused("Nothing was paid, so nothing can go back.");
        if (amount.Minor <= 0) return Result.Refused("How much goes back?", "Amount");
        if (amount > payment.Refundable) return Result.Refused($"At most {payment.Refundable} is left of it.", "Amount");
        if (reason?.Length > 400) return Result.Refused("The reason is too long; 400 letters are the most.", "Reason");
        var under = await db.DueWork.CountAsync(d => d.Kind == DueKind.Refund && d.SubjectId == id.Value, ct);
        if (under > 0) return Result.Refused("A refund of this payment is under way. Look again in a moment.");
        var number = await db.Refunds.CountAsync(r => r.PaymentId == id, ct) + 1;
        var key = $"refund-{id.Value}-{number}";
        books.Due(DueKind.Refund, id.Value, clock.GetCurrentInstant(), key, payload: RefundOrder.Write(new(amount.Minor, endHolding, reason?.Trim() ?? "", by.Name)));
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (e.InnerException is Npgsql.PostgresException { SqlState: "23505" })
        {
            return Result.Refused("A refund of this payment is under way. Look again in a moment.");
        }
        await due.Row(key, ct);
        wake.Up();
        return Result.Done;
    }
}

/// <summary>Asks the payment service to give money back, and records it with what follows.</summary>
public sealed class RefundDue(BrightContext db, Ids ids, Books books, IPaymentGateway gateway, Catalogue catalogue) : IDueHandler
{
    public DueKind Kind => DueKind.Refund;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var order = RefundOrder.Read(item.Row.Payload!);
            // Locked first, read second: a query from SQL doesn't know the columns of an amount.
            await db.Database.ExecuteSqlAsync($"select 1 from payments where id = {item.Row.SubjectId} for update", ct);
            var payment = await db.Payments.SingleAsync(p => p.Id == new PaymentId(item.Row.SubjectId), ct);
            var amount = new Money(order.Minor, payment.Amount.Currency);
            if (amount > payment.Refundable) continue;
            var s = (await db.LoadSubjects([payment.HoldingId], catalogue.Now, ct))[payment.HoldingId];
            switch (await gateway.Refund(item.Row.Key, payment.ChargeRef, amount, ct))
            {
                case RefundResult.Done:
                    books.GivenBack(payment, amount, chargeback: false, order.Reason, item.Row.Key, item.Moment);
                    books.Journal(s.Member.Id, item.Moment, JournalKind.Refunded, $"got {amount.Format(catalogue.Now.Culture)} back{(order.Reason.Length > 0 ? ": " + order.Reason : "")}",
                        order.By is null ? null : new(0, order.By, TeamRole.Owner), payment.Id);
                    var ends = order.EndHolding && s.Holding.Ending is null;
                    new Letterbox(db, ids, catalogue).Refund(s.Member, catalogue.Now.PlanById[s.Holding.PlanId], payment, amount, ends, item.Row.Id, item.Moment);
                    if (ends)
                    {
                        await db.DropDue(s.Holding.Id, ct);
                        books.End(s.Member, s.Holding, s.All, EndReason.Refunded, item.Moment);
                    }
                    happened.Add("refunded");
                    break;
                case RefundResult.Refused refused:
                    books.Journal(s.Member.Id, item.Moment, JournalKind.Team, $"could not be refunded: {refused.Why}", payment: payment.Id);
                    break;
                case RefundResult.Unknown unknown:
                    item.Postpone(unknown.Why);
                    break;
            }
        }
    }
}

/// <summary>A bank took a payment back: the money is gone and the holding ends.</summary>
public sealed class ChargebackDue(BrightContext db, Books books, Catalogue catalogue) : IDueHandler
{
    public DueKind Kind => DueKind.Chargeback;

    /// <summary>Notes a chargeback from a callback; the same one told twice is noted once.</summary>
    public static async Task Note(BrightContext db, Ids ids, string chargeRef, Instant at, CancellationToken ct)
    {
        var key = $"chargeback-{chargeRef}";
        var exists = await db.Refunds.AnyAsync(r => r.Key == key, ct);
        if (exists) return;
        await db.Database.ExecuteSqlAsync($"""
            insert into due_work (id, kind, subject_id, turn, attempt, due_at, ready_at, key, payload, tries)
            values ({ids.Next()}, {nameof(DueKind.Chargeback)}, 0, 0, 0, {at}, {at}, {key}, {System.Text.Json.JsonSerializer.Serialize(chargeRef)}::jsonb, 0) on conflict (key) do nothing
            """, ct);
    }

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var chargeRef = JsonSerializer.Deserialize<string>(item.Row.Payload!)!;
            await db.Database.ExecuteSqlAsync($"select 1 from payments where charge_ref = {chargeRef} for update", ct);
            var payment = await db.Payments.FirstOrDefaultAsync(p => p.ChargeRef == chargeRef && p.Outcome == ChargeOutcome.Approved, ct);
            if (payment is null)
            {
                item.Postpone($"No payment is known for the charge {chargeRef} yet.");
                continue;
            }
            if (payment.ChargedBack || payment.Refundable.IsZero) continue;
            var s = (await db.LoadSubjects([payment.HoldingId], catalogue.Now, ct))[payment.HoldingId];
            var amount = payment.Refundable;
            books.GivenBack(payment, amount, chargeback: true, "Charged back by the bank", item.Row.Key, item.Moment);
            books.Journal(s.Member.Id, item.Moment, JournalKind.ChargedBack, $"charged {amount.Format(catalogue.Now.Culture)} back through the bank", payment: payment.Id);
            if (s.Holding.Ending is null)
            {
                await db.DropDue(s.Holding.Id, ct);
                books.End(s.Member, s.Holding, s.All, EndReason.ChargedBack, item.Moment);
            }
            happened.Add("charged back");
        }
    }
}
