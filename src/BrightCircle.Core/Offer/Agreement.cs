using System.Text.Json.Serialization;
using BrightCircle.Core.Time;
using NodaTime;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Offer;

public enum PaymentPurpose { Trial, Once, Recurring }

/// <summary>One charge that an agreement asks for.</summary>
/// <param name="Turn">0 for the first charge of its purpose, then counting; with purpose and holding it names the charge for good.</param>
/// <param name="DueAt">When it is due, UTC: the start of the stretch it pays for.</param>
/// <param name="PaidThrough">The end of that stretch, exclusive; null where it pays for ever.</param>
public sealed record Charge(PaymentPurpose Purpose, int Turn, Instant DueAt, Instant? PaidThrough, Money Amount)
{
    /// <summary>1 for the first of its purpose.</summary>
    [JsonIgnore] public int Number => Turn + 1;
}

/// <summary>
/// The terms as agreed for one holding: the price's terms, whether its trial applies, from when, and in whose calendar. What is owed at any time
/// is computed from it and from the facts; nothing else says what a member pays.
/// </summary>
/// <param name="TrialRight">Whether a trial in the terms applies: it is for those who never held the plan.</param>
/// <param name="Start">The moment of joining, UTC.</param>
/// <param name="ZoneId">The zone in which periods are counted, by the tz database's name.</param>
public sealed record Agreement(PriceTerms Terms, bool TrialRight, Instant Start, string ZoneId)
{
    /// <summary>What is given without payment.</summary>
    public static Agreement ForNothing(Instant start, string zoneId) => new(new PriceTerms.Free(), false, start, zoneId);

    /// <summary>The terms as they are for this person: without a trial that isn't for them.</summary>
    [JsonIgnore] public PriceTerms Applied => TrialRight ? Terms : Terms.WithoutTrial();

    [JsonIgnore] public SiteCalendar Calendar => SiteCalendar.For(ZoneId);

    /// <summary>Nothing is ever charged.</summary>
    [JsonIgnore] public bool IsFree => Terms is PriceTerms.Free;

    /// <summary>It is charged again and again until the member leaves.</summary>
    [JsonIgnore] public bool Renews => Terms is PriceTerms.Recurring;

    /// <summary>Where its periods are counted from, UTC: the start, or the end of the trial.</summary>
    [JsonIgnore]
    public Instant Anchor => Applied is PriceTerms.Recurring { Trial: { } trial } ? Calendar.Boundary(Start, trial.Length, 1) : Start;

    /// <summary>All charges in the order they fall due: as many as the terms ask for, without end where they recur.</summary>
    public IEnumerable<Charge> Charges() => Applied switch
    {
        PriceTerms.Free => [],
        PriceTerms.OnePayment once => [new(PaymentPurpose.Once, 0, Start, null, once.Amount)],
        PriceTerms.Recurring r => Recurring(r, 0),
        _ => throw new InvalidOperationException($"No such terms: {Terms}"),
    };

    /// <summary>What is charged when it begins, by the card page or at once; null where nothing is.</summary>
    [JsonIgnore] public Charge? First => Charges().FirstOrDefault() is { } c && c.DueAt == Start ? c : null;

    /// <summary>The first charge that pays for time at or after a moment; null where none will.</summary>
    public Charge? From(Instant moment) => Applied switch
    {
        PriceTerms.Free => null,
        PriceTerms.OnePayment => null,
        PriceTerms.Recurring r => Recurring(r, TurnBefore(r, moment)).First(c => c.DueAt >= moment),
        _ => throw new InvalidOperationException($"No such terms: {Terms}"),
    };

    /// <summary>The charge whose stretch a moment is in; null where there is none.</summary>
    public Charge? At(Instant moment) => Around(moment).TakeWhile(c => c.DueAt <= moment).LastOrDefault(c => c.PaidThrough is null || moment < c.PaidThrough);

    /// <summary>One named charge; null where the terms don't ask for it.</summary>
    public Charge? Find(PaymentPurpose purpose, int turn) => turn < 0 ? null : Applied switch
    {
        PriceTerms.Recurring r when purpose == PaymentPurpose.Recurring => Recurring(r, turn).First(c => c.Purpose == purpose),
        _ => Charges().Take(turn + 2).FirstOrDefault(c => c.Purpose == purpose && c.Turn == turn),
    };

    IEnumerable<Charge> Around(Instant moment) => Applied is PriceTerms.Recurring r ? Recurring(r, TurnBefore(r, moment)) : Charges();

    /// <summary>From a turn on; from the first one the trial stands before it, where there is one.</summary>
    IEnumerable<Charge> Recurring(PriceTerms.Recurring terms, int from)
    {
        var (calendar, anchor) = (Calendar, Anchor);
        if (from == 0 && terms.Trial is { } trial) yield return new(PaymentPurpose.Trial, 0, Start, anchor, trial.Price);
        for (var k = from; ; k++)
            yield return new(PaymentPurpose.Recurring, k, calendar.Boundary(anchor, terms.Every, k), calendar.Boundary(anchor, terms.Every, k + 1),
                terms.Amount);
    }

    /// <summary>A turn that surely begins before the moment and not long before: a period is never longer than its longest days.</summary>
    int TurnBefore(PriceTerms.Recurring terms, Instant moment)
    {
        var days = (moment - Anchor).TotalDays;
        return Math.Max(0, (int)(days / LongestDays(terms.Every)) - 1);
    }

    static double LongestDays(Period every) => every.Count * every.Unit switch
    {
        PeriodUnit.Days => 1.05,
        PeriodUnit.Weeks => 7.05,
        PeriodUnit.Months => 31.1,
        PeriodUnit.Years => 366.1,
        _ => throw new InvalidOperationException($"No such unit: {every.Unit}"),
    };
}
