using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Billing;

/// <summary>What came of asking a card for money.</summary>
public enum ChargeOutcome
{
    Approved,
    /// <summary>Refused for now (no funds, limit): worth asking again.</summary>
    DeclinedSoft,
    /// <summary>Refused for good (lost, closed): asking again is pointless, another card is needed.</summary>
    DeclinedHard,
    /// <summary>The bank wants the cardholder to confirm it: nobody else can.</summary>
    NeedsCardholder,
}

/// <summary>What follows a failed payment.</summary>
public abstract record FailureStep
{
    private FailureStep() { }
    /// <summary>Ask the same card again at that moment; access stays open in grace.</summary>
    public sealed record RetryAt(Instant Moment) : FailureStep;
    /// <summary>Nothing more is tried with this card; access stays open in grace until then, waiting for another card or a confirmation.</summary>
    public sealed record AwaitCard(Instant Until) : FailureStep;
    /// <summary>Grace is over: the holding lapses now.</summary>
    public sealed record Lapse : FailureStep;
}

/// <summary>When a failed payment is tried again, and how long access stays open meanwhile.</summary>
public sealed record FailedPaymentRule
{
    /// <summary>Days 1, 3, 5 and 7 after the first failure.</summary>
    public static FailedPaymentRule Default { get; } = new([1, 3, 5, 7]);

    /// <param name="retryDays">Calendar days after the first failure, rising, each from 1 to 60.</param>
    /// <exception cref="ArgumentException">Empty, not rising, or out of range.</exception>
    public FailedPaymentRule(IReadOnlyList<int> retryDays)
    {
        if (!AreDays(retryDays))
            throw new ArgumentException("Retry days rise from 1 to at most 60.", nameof(retryDays));
        RetryDays = retryDays;
    }

    /// <summary>Whether such days can be: some, rising, each from 1 to 60.</summary>
    public static bool AreDays(IReadOnlyList<int> days) =>
        days.Count > 0 && days[0] >= 1 && days[^1] <= 60 && !days.Zip(days.Skip(1)).Any(p => p.First >= p.Second);

    public IReadOnlyList<int> RetryDays { get; }

    /// <summary>The last moment of grace: the last retry.</summary>
    public Instant GraceUntil(Instant firstFailure, SiteCalendar calendar) => calendar.PlusDays(firstFailure, RetryDays[^1]);

    /// <param name="outcome">What the charge just answered; not approved.</param>
    /// <param name="firstFailure">When this period's first charge failed, UTC.</param>
    /// <param name="now">The moment of this answer, UTC.</param>
    public FailureStep Next(ChargeOutcome outcome, Instant firstFailure, Instant now, SiteCalendar calendar)
    {
        var until = GraceUntil(firstFailure, calendar);
        if (now >= until) return new FailureStep.Lapse();
        switch (outcome)
        {
            case ChargeOutcome.DeclinedSoft:
                foreach (var day in RetryDays)
                    if (calendar.PlusDays(firstFailure, day) is var at && at > now) return new FailureStep.RetryAt(at);
                return new FailureStep.Lapse();
            case ChargeOutcome.DeclinedHard or ChargeOutcome.NeedsCardholder:
                return new FailureStep.AwaitCard(until);
            default:
                throw new ArgumentOutOfRangeException(nameof(outcome), outcome, "An approved charge has not failed.");
        }
    }
}
