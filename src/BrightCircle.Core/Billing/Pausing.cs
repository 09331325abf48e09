using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Billing;

/// <summary>Why a pause isn't possible.</summary>
public enum PauseRefusal { NotOffered, NotRunning, NotRecurring, Leaving, TooShort, TooLong, TooOften }

/// <summary>What a pause would do.</summary>
/// <param name="Until">When it goes on, UTC: the start of a day.</param>
/// <param name="Days">Calendar days it moves everything by.</param>
/// <param name="PaidThrough">The end of the paid time then.</param>
public sealed record PausePreview(Instant Until, int Days, Instant PaidThrough);

public static class Pausing
{
    /// <summary>The longest pause there is at all, in days.</summary>
    public const int Longest = 730;

    /// <summary>Why a holding can't be paused until a day; null where it can.</summary>
    /// <param name="day">The day on which it goes on.</param>
    /// <param name="rule">What its price lets members do; null where only the team pauses it.</param>
    public static PauseRefusal? Refuses(Holding holding, LocalDate day, PauseRule? rule, bool byTeam, Instant moment)
    {
        if (!holding.IsPaidFor || !holding.Agreement.Renews) return PauseRefusal.NotRecurring;
        if (holding.Timeline.Leaving is not null) return PauseRefusal.Leaving;
        if (Obligations.Of(holding, moment) is not { State: HoldingState.Active or HoldingState.Trial } owes || owes.DueAt(moment) is not null)
            return PauseRefusal.NotRunning;
        var days = NodaTime.Period.DaysBetween(holding.Agreement.Calendar.Date(moment), day);
        if (days < 1) return PauseRefusal.TooShort;
        if (days > Longest) return PauseRefusal.TooLong;
        if (byTeam) return null;
        if (rule is null) return PauseRefusal.NotOffered;
        if (days > rule.MostDays) return PauseRefusal.TooLong;
        return days + DaysPaused(holding, day) > rule.DaysAYear ? PauseRefusal.TooOften : null;
    }

    /// <summary>Days of its pauses in the year before a day.</summary>
    static int DaysPaused(Holding holding, LocalDate day)
    {
        var calendar = holding.Agreement.Calendar;
        var from = day.PlusYears(-1);
        return holding.Timeline.Pauses.Sum(p =>
            Math.Max(0, NodaTime.Period.DaysBetween(LocalDate.Max(from, calendar.Date(p.From)), LocalDate.Min(day, calendar.Date(p.To)))));
    }

    public static PausePreview Preview(Holding holding, LocalDate day, Instant moment)
    {
        var calendar = holding.Agreement.Calendar;
        var until = calendar.At(day.AtMidnight());
        var paused = holding.Copy();
        paused.Paused(moment, until);
        return new(until, calendar.DaysBetween(moment, until), paused.Timeline.PaidThrough!.Value);
    }
}

public static class PauseRefusals
{
    public static string Words(this PauseRefusal refusal, PauseRule? rule) => refusal switch
    {
        PauseRefusal.NotOffered => "This one can’t be paused by yourself. Write to us, and we’ll see.",
        PauseRefusal.NotRunning => "It can be paused while it runs and nothing is open.",
        PauseRefusal.NotRecurring => "Only what is paid again and again can be paused.",
        PauseRefusal.Leaving => "It ends or changes soon, so there is nothing to pause.",
        PauseRefusal.TooShort => "A pause lasts at least until tomorrow.",
        PauseRefusal.TooLong => $"A pause lasts at most {rule?.MostDays ?? Pausing.Longest} days.",
        PauseRefusal.TooOften => $"That would be more than {rule?.DaysAYear} days of pause within a year.",
    };
}
