using System.Text.Json.Serialization;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Offer;

/// <summary>In what the steps of a pace are counted.</summary>
public enum PaceUnit
{
    Days,
    /// <summary>Monday to Friday; weekends aren't counted.</summary>
    Weekdays,
    Weeks,
    Months,
    /// <summary>The first of each month after the one in which it begins.</summary>
    FirstsOfMonth,
}

/// <summary>What opens at each step.</summary>
public enum PacePart { Lesson, Module }

/// <summary>From when steps are counted.</summary>
public enum PaceFrom
{
    /// <summary>Since the holding began, or since the piece came out where that was later.</summary>
    Joining,
    /// <summary>Since the start of the member's cohort.</summary>
    Cohort,
}

/// <summary>How the parts of a piece open one after the other.</summary>
/// <param name="AfterPrevious">A part also waits until the one before it is completed.</param>
[JsonDerivedType(typeof(AtOnce), "at-once")]
[JsonDerivedType(typeof(Steps), "steps")]
[JsonDerivedType(typeof(OnDates), "dates")]
public abstract record Pace(bool AfterPrevious)
{
    /// <summary>A step, a lead and a single part's offset are never further than this many of their unit.</summary>
    public const int Most = 1000;
    /// <summary>A list of dates is never longer.</summary>
    public const int MostDates = 400;

    /// <summary>All parts as soon as they are out; with <see cref="Pace.AfterPrevious"/> each as soon as the one before it is done.</summary>
    public sealed record AtOnce(bool AfterPrevious = false) : Pace(AfterPrevious);

    /// <summary>Part k opens k steps after the anchor.</summary>
    /// <param name="Every">How many of the unit a step has, from 1 to <see cref="Most"/>.</param>
    /// <param name="At">The local time of day of all parts but one that opens with the anchor itself; null for the anchor's own.</param>
    /// <param name="Lead">Days from the anchor to the first part; 0 for at once.</param>
    public sealed record Steps(int Every, PaceUnit Unit, LocalTime? At = null, PacePart Part = PacePart.Lesson, PaceFrom From = PaceFrom.Joining,
        int Lead = 0, bool AfterPrevious = false) : Pace(AfterPrevious);

    /// <summary>Part k opens at the k-th local date and time, the same for everybody; a part without one has no moment yet.</summary>
    public sealed record OnDates(IReadOnlyList<LocalDateTime> Dates, PacePart Part = PacePart.Lesson, bool AfterPrevious = false) : Pace(AfterPrevious)
    {
        public bool Equals(OnDates? other) =>
            other is not null && Part == other.Part && AfterPrevious == other.AfterPrevious && Dates.SequenceEqual(other.Dates);
        public override int GetHashCode() => HashCode.Combine(Part, AfterPrevious, Dates.Count);
    }

    /// <summary>Nothing waits for anything.</summary>
    [JsonIgnore] public bool IsNone => this is AtOnce { AfterPrevious: false };

    [JsonIgnore] public bool CountsModules => this is Steps { Part: PacePart.Module } or OnDates { Part: PacePart.Module };

    /// <summary>
    /// When part <paramref name="k"/> opens by the calendar. Steps are counted from the anchor, never chained; a pause pushes a part that isn't
    /// open yet by as many calendar days as it has. Dates of everybody aren't pushed by anybody's pause.
    /// </summary>
    /// <param name="k">The part's place in the pattern, from 0.</param>
    /// <param name="moved">Its own offset in days from the anchor, where it was moved by hand.</param>
    /// <param name="pauses">By their start, each with its end.</param>
    /// <returns>Null where the pattern has no moment for it.</returns>
    public Instant? Opens(int k, int? moved, Instant anchor, SiteCalendar calendar, ReadOnlySpan<(Instant From, Instant To)> pauses)
    {
        switch (this)
        {
            case Steps s:
                var from = calendar.Local(anchor);
                return Pushed(moved is { } days ? s.Unpaused(from, days) : s.Unpaused(from, s.Lead, k), anchor, calendar, pauses,
                    s.Unit == PaceUnit.Weekdays && moved is null);
            case OnDates d:
                if (moved is { } by) return calendar.At(calendar.Local(anchor).PlusDays(by));
                return k < d.Dates.Count ? calendar.At(d.Dates[k]) : null;
            case AtOnce:
                return moved is { } own ? Pushed(calendar.Local(anchor).PlusDays(own), anchor, calendar, pauses) : anchor;
            default:
                throw new InvalidOperationException($"No such pace: {this}");
        }
    }

    static Instant Pushed(LocalDateTime local, Instant anchor, SiteCalendar calendar, ReadOnlySpan<(Instant From, Instant To)> pauses,
        bool weekdays = false)
    {
        var opens = local == calendar.Local(anchor) ? anchor : calendar.At(local);
        if (pauses.IsEmpty) return opens;
        foreach (var (start, end) in pauses)
        {
            var from = Instant.Max(start, anchor);
            if (end <= from || opens <= from) continue;
            local = local.PlusDays(NodaTime.Period.DaysBetween(calendar.Date(from), calendar.Date(end)));
            if (weekdays) local = PaceSteps.OnWeekday(local.Date) + local.TimeOfDay;
            opens = calendar.At(local);
        }
        return opens;
    }
}

static class PaceSteps
{
    /// <summary>A part a number of days after the anchor; on the day of the anchor with the anchor itself.</summary>
    public static LocalDateTime Unpaused(this Pace.Steps pace, LocalDateTime anchor, int days) =>
        days == 0 ? anchor : anchor.Date.PlusDays(days) + (pace.At ?? anchor.TimeOfDay);

    /// <summary>Part k of the pattern whose first part opens a number of days after the anchor.</summary>
    public static LocalDateTime Unpaused(this Pace.Steps pace, LocalDateTime anchor, int lead, int k)
    {
        if (k == 0) return pace.Unpaused(anchor, lead);
        var (first, n) = (anchor.Date.PlusDays(lead), pace.Every * k);
        var date = pace.Unit switch
        {
            PaceUnit.Days => first.PlusDays(n),
            PaceUnit.Weekdays => PlusWeekdays(first, n),
            PaceUnit.Weeks => first.PlusWeeks(n),
            PaceUnit.Months => first.PlusMonths(n),
            PaceUnit.FirstsOfMonth => first.ToYearMonth().PlusMonths(n).OnDayOfMonth(1),
        };
        return date + (pace.At ?? anchor.TimeOfDay);
    }

    public static LocalDate OnWeekday(LocalDate date) => date.DayOfWeek switch
    {
        IsoDayOfWeek.Saturday => date.PlusDays(2),
        IsoDayOfWeek.Sunday => date.PlusDays(1),
        _ => date,
    };

    /// <summary>The n-th weekday after a date.</summary>
    static LocalDate PlusWeekdays(LocalDate date, int n)
    {
        // From a weekend it is counted from the Friday before.
        var back = date.DayOfWeek switch { IsoDayOfWeek.Saturday => 1, IsoDayOfWeek.Sunday => 2, _ => 0 };
        var from = date.PlusDays(-back);
        var (weeks, rest) = (n / 5, n % 5);
        var days = weeks * 7 + rest;
        if ((int)from.DayOfWeek + rest > 5) days += 2;
        return from.PlusDays(days);
    }
}

/// <summary>People who start a piece together at a moment.</summary>
/// <param name="StartsAt">UTC.</param>
public sealed record Cohort(CohortId Id, PieceId Piece, string Name, Instant StartsAt);

/// <summary>A piece's own pace, for everybody or for those who hold it through one plan or price or are in one cohort, with single parts moved by
/// hand.</summary>
/// <param name="Moves">Days from the anchor at which a lesson opens, whatever the pattern says.</param>
public sealed record PieceTimeline(PieceId Piece, PlanId? Plan, PriceId? Price, CohortId? Cohort, Pace Pace, IReadOnlyDictionary<LessonId, int> Moves)
{
    /// <summary>The closest one counts: a cohort's before a price's before a plan's before everybody's.</summary>
    public int Closeness => Cohort is not null ? 3 : Price is not null ? 2 : Plan is not null ? 1 : 0;
}
