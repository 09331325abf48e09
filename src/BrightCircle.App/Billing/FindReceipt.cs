using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Billing;

/// <summary>What a receipt says: the payment, who paid, and what was given back of it.</summary>
/// <param name="Agreement">What it was paid on.</param>
/// <param name="BillingAddress">What stands with their name.</param>
/// <param name="Order">The order it came with; null for what was charged later.</param>
public sealed record Receipt(Payment Payment, string Name, string Email, IReadOnlyList<Refund> Refunds, Core.Offer.Agreement Agreement,
    Checkout? Order, string BillingAddress = "");

public sealed class FindReceipt(BrightContext db, Catalogue catalogue)
{
    /// <summary>Null where there is no such payment, or no money came.</summary>
    public async Task<Receipt?> Do(PaymentId id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var found = trip.First(db.Payments.AsNoTracking().Where(p => p.Id == id)
            .Join(db.Members, p => p.MemberId, m => m.Id, (p, m) => new { Payment = p, m.Name, m.Email, m.BillingAddress })
            .LeftJoin(db.Holdings, x => x.Payment.HoldingId, h => (HoldingId?)h.Id, (x, h) =>
                new { x.Payment, x.Name, x.Email, x.BillingAddress, Agreement = h == null ? null : h.Agreement })
            .LeftJoin(db.Checkouts, x => x.Payment.OrderId, c => (long?)c.Id, (x, c) =>
                new { x.Payment, x.Name, x.Email, x.BillingAddress, x.Agreement, Order = c }));
        var refunds = trip.List(db.Refunds.AsNoTracking().Where(r => r.PaymentId == id).OrderBy(r => r.At));
        await trip.Ask(ct);
        return found.Value is { } f && f.Payment.IsPaid ? new(f.Payment, f.Name, f.Email, refunds.Value,
            f.Agreement ?? Vouchered.AgreementOf(f.Payment, f.Order, catalogue.Now), f.Order, f.BillingAddress) : null;
    }
}
