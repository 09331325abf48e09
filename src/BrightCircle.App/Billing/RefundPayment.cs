using System.Text.Json;
using BrightCircle.App.Due;
using BrightCircle.Core;
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
public sealed class RefundPayment(BrightContext db, Ids ids, Memberships door, Books books, IClock clock, RunDue due, Wake wake)
{
    /// <summary>Instead of giving it back: the next charges of what it paid for use it first. No money moves.</summary>
    public async Task<Result> ToCredit(TeamActor by, PaymentId id, Money amount, string? reason, CancellationToken ct)
    {
        by.NeedOwner();
        if (reason?.Length > 400) return Result.Refused("The reason is too long; 400 letters are the most.", "Reason");
        if (await db.Payments.AsNoTracking().Where(p => p.Id == id).Select(p => (MemberId?)p.MemberId).FirstOrDefaultAsync(ct) is not { } member)
            return Result.Refused("There is no such payment.");
        return await door.Change(member, async (m, at) =>
        {
            var payment = await db.Payments.SingleAsync(p => p.Id == id, ct);
            await db.Entry(payment).ReloadAsync(ct);
            if (amount.Minor <= 0) return Result.Refused("How much?", "Amount");
            if (amount.Currency != payment.Amount.Currency || amount > payment.Refundable)
                return Result.Refused($"At most {payment.Refundable} is left of it.", "Amount");
            if (await db.DueWork.AnyAsync(d => d.Kind == DueKind.Refund && d.SubjectId == id.Value, ct)) return UnderWay;
            if (payment.HoldingId is not { } held) return Result.Refused("It paid for nothing that goes on here, so credit would never be used. Give it back "
                + "instead.");
            var holding = m.Find(held)!;
            // Where the price was changed meanwhile, what goes on is what took its place.
            while (m.Holdings.FirstOrDefault(h => h.Continues == holding.Id && h.StateAt(at) != Core.Members.HoldingState.NotYet) is { } next) holding = next;
            if (Core.Billing.Obligations.Of(holding, at).Next is null)
                return Result.Refused("Nothing more is charged for it, so credit would never be used. Give it back instead.");
            books.ToCredit(m, holding, payment, amount, reason?.Trim() ?? "", at, by);
            return Result.Done;
        }, ct);
    }

    public async Task<Result> Do(TeamActor by, PaymentId id, Money amount, bool endHolding, string? reason, CancellationToken ct)
    {
        by.NeedOwner();
        var payment = await db.Payments.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id, ct);
        if (payment is null) return Result.Refused("There is no such payment.");
        if (!payment.IsPaid) return Result.Refused("Nothing was paid, so nothing can go back.");
        if (amount.Minor <= 0) return Result.Refused("How much goes back?", "Amount");
        if (amount.Currency != payment.Amount.Currency || amount > payment.Refundable)
            return Result.Refused($"At most {payment.Refundable} is left of it.", "Amount");
        if (reason?.Length > 400) return Result.Refused("The reason is too long; 400 letters are the most.", "Reason");
        var under = await db.DueWork.CountAsync(d => d.Kind == DueKind.Refund && d.SubjectId == id.Value, ct);
        if (under > 0) return UnderWay;
        var number = await db.Refunds.CountAsync(r => r.PaymentId == id, ct) + 1;
        var key = $"refund-{id.Value}-{number}";
        var at = clock.GetCurrentInstant();
        db.PutDue(ids, DueKind.Refund, id.Value, at, key, RefundOrder.Write(new(amount.Minor, endHolding, reason?.Trim() ?? "", by.Name)));
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Races.Lost(e))
        {
            return UnderWay;
        }
        await due.Row(key, ct);
        wake.Up();
        return Result.Done;
    }

    static Result UnderWay => Result.Refused("A refund of this payment is under way. Look again in a moment.");
}
