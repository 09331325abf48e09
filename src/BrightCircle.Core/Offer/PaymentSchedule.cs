using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Offer;

/// <summary>What someone who joins at a moment pays, and when. Every price shown anywhere is computed here, from the agreement it would make.</summary>
public sealed record PaymentSchedule
{
    /// <summary>The first payments, in order; all of them where the schedule is finite.</summary>
    public required IReadOnlyList<Charge> Payments { get; init; }
    /// <summary>The sum of all payments where it is finite: one payment.</summary>
    public Money? Total { get; init; }
    /// <summary>The recurring amount as it would be per month (year ÷ 12, week × 52 ÷ 12, day × 365 ÷ 12), rounded once, or null where nothing
    /// recurs.</summary>
    public Money? EffectiveMonthly { get; init; }
    /// <summary>The recurring amount as it would be per year, rounded once, or null where nothing recurs.</summary>
    public Money? EffectiveYearly { get; init; }
    /// <summary>It goes on until the member leaves.</summary>
    public bool GoesOn { get; init; }

    /// <param name="count">How many payments of an endless schedule to list, from 1 to 1,000.</param>
    public static PaymentSchedule For(Agreement agreement, int count = 12)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(count, 1);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(count, 1000);
        Charge[] charges = [.. agreement.Charges().Take(count)];
        return new()
        {
            Payments = charges,
            GoesOn = agreement.Renews,
            Total = agreement.Renews || charges.Length == 0 ? null : charges.Skip(1).Aggregate(charges[0].Amount, (sum, c) => sum + c.Amount),
            EffectiveMonthly = PerYear(agreement.Terms, 12),
            EffectiveYearly = PerYear(agreement.Terms, 1),
        };
    }

    /// <summary>For somebody who has the right to the trial, if there is one.</summary>
    public static PaymentSchedule For(PriceTerms terms, Instant start, SiteCalendar calendar, int count = 12) =>
        For(new Agreement(terms, true, start, calendar.Zone.Id), count);

    static Money? PerYear(PriceTerms terms, int dividedBy)
    {
        if (terms is not PriceTerms.Recurring recurring) return null;
        var perYear = recurring.Every.Unit switch
        {
            PeriodUnit.Days => 365,
            PeriodUnit.Weeks => 52,
            PeriodUnit.Months => 12,
            PeriodUnit.Years => 1,
            _ => throw new InvalidOperationException($"No such unit: {recurring.Every.Unit}"),
        };
        return recurring.Amount.Times(perYear, (long)recurring.Every.Count * dividedBy);
    }
}
