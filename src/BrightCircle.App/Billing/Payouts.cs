using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <param name="Books">What the payments here come to that the payout's charges stand for.</param>
/// <param name="Unknown">Charges in it that no payment here stands for.</param>
public sealed record PayoutRow(GatewayPayout Payout, Money Books, IReadOnlyList<string> Unknown)
{
    public bool Agrees => Unknown.Count == 0 && Books == Payout.Gross;
}

/// <summary>What the payment service sent to the site's bank in a month: with its fees, beside the payments it is made of.</summary>
public sealed class Payouts(BrightContext db, IPaymentGateway gateway, Catalogue catalogue, IClock clock)
{
    /// <returns>The newest first; null where the payment service gives no answer.</returns>
    public async Task<IReadOnlyList<PayoutRow>?> Of(YearMonth month, CancellationToken ct)
    {
        var now = catalogue.Now;
        var (from, to) = (now.Calendar.FirstOf(month, LocalTime.Midnight), now.Calendar.FirstOf(month.PlusMonths(1), LocalTime.Midnight));
        // What the site's own clock hasn't reached hasn't gone.
        if (await gateway.Payouts(from, Instant.Min(to, clock.GetCurrentInstant()), ct) is not { } payouts) return null;
        var refs = payouts.SelectMany(p => p.Charges).Distinct().ToArray();
        var known = (await db.Payments.AsNoTracking().Where(p => refs.Contains(p.ChargeRef) && p.Outcome == ChargeOutcome.Approved && p.Way == PayWay.Card)
            .Select(p => new { p.ChargeRef, p.Amount.Minor, p.Amount.Currency }).ToListAsync(ct)).ToLookup(p => p.ChargeRef);
        return [.. payouts.OrderByDescending(p => p.To).Select(p => new PayoutRow(p,
            new(p.Charges.Sum(c => known[c].Where(k => k.Currency == p.Gross.Currency).Sum(k => k.Minor)), p.Gross.Currency),
            [.. p.Charges.Where(c => !known.Contains(c))]))];
    }
}
