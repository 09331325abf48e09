using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Offer;

/// <summary>What someone who joins at a moment pays, and when. Every price shown anywhere is computed here, from the agreement it would make.</summary>
public sealed record PaymentSchedule
{
    /// <summary>The first payments, in order; all of them where the schedule is finite.</summary>
    public required IReadOnlyList<Charge> Payments { get; init; }
    /// <summary>The sum of all payments where it is finite; null where nothing is paid or it goes on.</summary>
    public Money? Total { get; init; }
    /// <summary>The recurring amount as it would be per month (year ÷ 12, week × 52 ÷ 12, day × 365 ÷ 12), rounded once, or null where nothing
    /// recurs.</summary>
    public Money? EffectiveMonthly { get; init; }
    /// <summary>The recurring amount as it would be per year, rounded once, or null where nothing recurs.</summary>
    public Money? EffectiveYearly { get; init; }
    /// <summary>It goes on until the member leaves.</summary>
    public bool GoesOn { get; init; }
    /// <summary>When access ends, UTC, whatever is paid; null where it doesn't end by itself.</summary>
    public Instant? AccessEnds { get; init; }

    /// <param name="balance">Credit that the first charges use up; null for none.</param>
    /// <param name="count">How many payments of an endless schedule to list, from 1 to 1,000.</param>
    public static PaymentSchedule For(Agreement agreement, Money? balance = null, int count = 12)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(count, 1);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(count, 1000);
        var charges = new List<Charge>();
        foreach (var plain in agreement.Charges().Take(agreement.Renews ? count : 1000))
        {
            var charge = plain.Using(balance);
            balance -= charge.CreditUsed;
            charges.Add(charge);
        }
        return new()
        {
            Payments = charges,
            GoesOn = agreement.Renews,
            Total = agreement.Renews || charges.Count == 0 ? null : charges.Skip(1).Aggregate(charges[0].Amount, (sum, c) => sum + c.Amount),
            EffectiveMonthly = PerYear(agreement, 12),
            EffectiveYearly = PerYear(agreement, 1),
            AccessEnds = agreement.AccessEnds,
        };
    }

    /// <summary>For somebody who has the right to the trial, if there is one.</summary>
    public static PaymentSchedule For(PriceTerms terms, Instant start, SiteCalendar calendar, int count = 12) =>
        For(new Agreement(terms, true, start, calendar.Zone.Id), count: count);

    /// <summary>
    /// What it comes to beside another way to pay: of finite ones their totals, of recurring ones a year; null where they can't be compared.
    /// </summary>
    public PriceComparison? Beside(PaymentSchedule other)
    {
        var (mine, theirs) = GoesOn && other.GoesOn ? (EffectiveYearly, other.EffectiveYearly) : (Total, other.Total);
        return mine is { } m && theirs is { Minor: > 0 } t && m.Currency == t.Currency && GoesOn == other.GoesOn ? new(m, t, GoesOn) : null;
    }

    static Money? PerYear(Agreement agreement, int dividedBy)
    {
        if (agreement.Terms is not PriceTerms.Recurring { Every: var every } terms) return null;
        var perYear = every.Unit switch
        {
            PeriodUnit.Days => 365,
            PeriodUnit.Weeks => 52,
            PeriodUnit.Months => 12,
            PeriodUnit.Years => 1,
            _ => throw new InvalidOperationException($"No such unit: {every.Unit}"),
        };
        // What every later payment costs: a sale of the first one alone says nothing about a year.
        return terms.Payment(1, agreement.Start).Times(perYear, (long)every.Count * dividedBy);
    }
}

/// <summary>Two ways to pay side by side.</summary>
/// <param name="Mine">The total, or what a year comes to.</param>
/// <param name="Theirs">The same of the other; above zero.</param>
/// <param name="OverAYear">Both recur: it is about a year.</param>
public readonly record struct PriceComparison(Money Mine, Money Theirs, bool OverAYear)
{
    /// <summary>Positive where it costs more than the other.</summary>
    public Money Difference => Mine - Theirs;
    /// <summary>The difference as a share of the other, in tenths of a percent, rounded once half away from zero: 182 for 18.2 %.</summary>
    public long PerMille => Difference.Times(1000, Theirs.Minor).Minor;
}
