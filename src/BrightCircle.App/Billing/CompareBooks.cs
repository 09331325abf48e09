using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>How a charge at the payment service and a payment in the books don't agree.</summary>
public enum Difference
{
    /// <summary>The payment service took money that no payment here stands for.</summary>
    NotInBooks,
    /// <summary>A payment here names a charge that the payment service doesn’t have.</summary>
    NotAtService,
    AmountDiffers,
    /// <summary>What was given back differs.</summary>
    RefundDiffers,
}

public sealed record BookDifference(Difference Kind, string Ref, Instant At, Money? Service, Money? Books, Payment? Payment);

/// <param name="Charges">How many charges the payment service has in the time, and what they come to less what was given back.</param>
public sealed record Comparison(int Charges, Money Service, int Payments, Money Books, IReadOnlyList<BookDifference> Differences);

/// <summary>Compares the books of a month with the payment service's own list, charge by charge.</summary>
public sealed class CompareBooks(BrightContext db, IPaymentGateway gateway, Catalogue catalogue)
{
    /// <summary>What is asked about midnight may be written down after it.</summary>
    static readonly Duration Around = Duration.FromDays(2);

    /// <returns>Null where the payment service gives no answer.</returns>
    public async Task<Comparison?> Of(YearMonth month, CancellationToken ct)
    {
        var now = catalogue.Now;
        var (from, to) = (now.Calendar.FirstOf(month, LocalTime.Midnight), now.Calendar.FirstOf(month.PlusMonths(1), LocalTime.Midnight));
        if (await gateway.List(from - Around, to + Around, ct) is not { } listed) return null;
        var byRef = listed.GroupBy(c => c.Ref).ToDictionary(g => g.Key, g => g.First());
        var refs = listed.Select(c => c.Ref).ToArray();
        var meant = db.Payments.AsNoTracking().Where(p => p.Outcome == ChargeOutcome.Approved && p.Way == PayWay.Card
            && (p.At >= from && p.At < to || refs.Contains(p.ChargeRef)));
        var trip = new OneTrip(db);
        var found = trip.List(meant);
        var back = trip.List(db.Refunds.AsNoTracking().Where(r => !r.IsChargeback && meant.Any(p => p.Id == r.PaymentId))
            .GroupBy(r => r.PaymentId).Select(g => new { g.Key, Sum = g.Sum(r => r.Amount.Minor) }));
        await trip.Ask(ct);
        var payments = found.Value;
        var backs = back.Value.ToDictionary(x => x.Key, x => x.Sum);
        // One charge can have paid for several things of an order.
        var known = payments.GroupBy(p => p.ChargeRef).ToDictionary(g => g.Key, g => g.OrderBy(p => p.Id.Value).ToArray());
        var differences = new List<BookDifference>();
        var inMonth = listed.Where(c => c.At >= from && c.At < to).ToArray();
        foreach (var c in inMonth)
        {
            if (!known.TryGetValue(c.Ref, out var those))
            {
                differences.Add(new(Difference.NotInBooks, c.Ref, c.At, c.Amount, null, null));
                continue;
            }
            var sum = new Money(those.Sum(p => p.Amount.Minor), those[0].Amount.Currency);
            var gone = new Money(those.Sum(p => backs.GetValueOrDefault(p.Id)), sum.Currency);
            if (sum != c.Amount) differences.Add(new(Difference.AmountDiffers, c.Ref, c.At, c.Amount, sum, those[0]));
            else if (gone != c.Refunded) differences.Add(new(Difference.RefundDiffers, c.Ref, c.At, c.Refunded, gone, those[0]));
        }
        var mine = payments.Where(p => p.At >= from && p.At < to).ToArray();
        foreach (var p in mine.Where(p => !byRef.ContainsKey(p.ChargeRef)))
            differences.Add(new(Difference.NotAtService, p.ChargeRef, p.At, null, p.Amount, p));
        Money Sum(IEnumerable<long> minor) => new(minor.Sum(), now.Currency);
        return new(inMonth.Length, Sum(inMonth.Select(c => c.Amount.Minor - c.Refunded.Minor)), mine.Length,
            Sum(mine.Select(p => p.Amount.Minor - backs.GetValueOrDefault(p.Id))), [.. differences.OrderBy(d => d.At)]);
    }
}
