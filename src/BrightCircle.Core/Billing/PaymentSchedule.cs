using BrightCircle.Core.Time;
using NodaTime;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Billing;

public enum PaymentPurpose { Trial, Once, Recurring }

/// <summary>One payment that a price asks for.</summary>
/// <param name="DueAt">When, UTC.</param>
/// <param name="PaidThrough">The moment up to which it pays, or null where it pays for ever.</param>
/// <param name="Number">1 for the first payment of its purpose, then counting.</param>
public sealed record ScheduledPayment(Instant DueAt, Instant? PaidThrough, PaymentPurpose Purpose, int Number, Money Amount);

/// <summary>What someone who joins at a moment pays, and when. Every price shown anywhere is computed here.</summary>
public sealed record PaymentSchedule
{
    /// <summary>The first payments, in order; all of them where the schedule is finite.</summary>
    public required IReadOnlyList<ScheduledPayment> Payments { get; init; }
    /// <summary>The sum of all payments where it is finite: free and one payment.</summary>
    public Money? Total { get; init; }
    /// <summary>The recurring amount as it would be per month (year ÷ 12, week × 52 ÷ 12, day × 365 ÷ 12), rounded once, or null where nothing recurs.</summary>
    public Money? EffectiveMonthly { get; init; }
    /// <summary>The recurring amount as it would be per year, rounded once, or null where nothing recurs.</summary>
    public Money? EffectiveYearly { get; init; }
    /// <summary>When access ends by itself; null where it goes on while payments do, or for ever.</summary>
    public Instant? AccessEnds { get; init; }

    /// <param name="terms">The price's terms.</param>
    /// <param name="start">The moment of joining, UTC. It anchors the periods; after a trial the anchor is the trial's end.</param>
    /// <param name="calendar">The site's calendar, in which periods are counted.</param>
    /// <param name="count">How many payments of an endless schedule to list, from 1 to 1,000.</param>
    public static PaymentSchedule For(PriceTerms terms, Instant start, SiteCalendar calendar, int count = 12)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(count, 1);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(count, 1000);
        return terms switch
        {
            PriceTerms.Free => new() { Payments = [] },
            PriceTerms.OnePayment p => new() { Payments = [new(start, null, PaymentPurpose.Once, 1, p.Amount)], Total = p.Amount },
            PriceTerms.Recurring r => Recurring(r, start, calendar, count),
            _ => throw new InvalidOperationException($"No such terms: {terms}"),
        };
    }

    static PaymentSchedule Recurring(PriceTerms.Recurring terms, Instant start, SiteCalendar calendar, int count)
    {
        var payments = new List<ScheduledPayment>(count);
        var anchor = Anchor(terms, start, calendar);
        if (terms.Trial is { } trial)
            payments.Add(new(start, anchor, PaymentPurpose.Trial, 1, trial.Price));
        for (var k = 0; payments.Count < count; k++)
            payments.Add(new(calendar.Boundary(anchor, terms.Every, k), calendar.Boundary(anchor, terms.Every, k + 1), PaymentPurpose.Recurring, k + 1, terms.Amount));
        return new()
        {
            Payments = payments,
            EffectiveMonthly = PerYear(terms, 12),
            EffectiveYearly = PerYear(terms, 1),
        };
    }

    /// <summary>The moment from which a recurring price's periods are counted: joining, or the trial's end.</summary>
    public static Instant Anchor(PriceTerms.Recurring terms, Instant start, SiteCalendar calendar) =>
        terms.Trial is { } trial ? calendar.Boundary(start, trial.Length, 1) : start;

    static Money PerYear(PriceTerms.Recurring terms, int dividedBy)
    {
        var perYear = terms.Every.Unit switch
        {
            PeriodUnit.Days => 365,
            PeriodUnit.Weeks => 52,
            PeriodUnit.Months => 12,
            PeriodUnit.Years => 1,
            _ => throw new InvalidOperationException($"No such unit: {terms.Every.Unit}"),
        };
        return terms.Amount.Times(perYear, (long)terms.Every.Count * dividedBy);
    }
}
