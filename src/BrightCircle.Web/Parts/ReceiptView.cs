using BrightCircle.Core.Billing;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Web.Parts;

/// <summary>A receipt as it is shown and printed.</summary>
public sealed record ReceiptView(Payment Payment, string Name, string Email, IReadOnlyList<Refund> Refunds, BrightPage Page)
{
    public static async Task<ReceiptView?> Load(BrightContext db, BrightPage page, PaymentId id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var found = trip.First(db.Payments.AsNoTracking().Where(p => p.Id == id).Join(db.Members, p => p.MemberId, m => m.Id, (p, m) => new { Payment = p, m.Name, m.Email }));
        var refunds = trip.List(db.Refunds.AsNoTracking().Where(r => r.PaymentId == id).OrderBy(r => r.At));
        await trip.Ask(ct);
        return found.Value is { } f ? new(f.Payment, f.Name, f.Email, refunds.Value, page) : null;
    }
}
