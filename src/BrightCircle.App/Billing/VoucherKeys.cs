using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

static class VoucherKeys
{
    /// <summary>The voucher a payment was for, if it wasn't used, can't be any more.</summary>
    /// <returns>False where it was used, or the payment was for none.</returns>
    public static async Task<bool> RevokeVoucher(this BrightContext db, Payment payment, Instant at, CancellationToken ct)
    {
        if (!payment.IsOfVoucher) return false;
        var key = await db.KeyLinks.FirstOrDefaultAsync(k => k.OrderId == payment.OrderId && k.RevokedAt == null, ct);
        if (key is null || await db.Holdings.AnyAsync(h => h.Source == HoldingSource.Key && h.Through == key.Id, ct)) return false;
        key.RevokedAt = at;
        return true;
    }
}
