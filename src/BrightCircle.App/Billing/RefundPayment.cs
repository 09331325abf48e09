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
public sealed class RefundPayment(BrightContext db, Ids ids, IClock clock, RunDue due, Wake wake)
{
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
