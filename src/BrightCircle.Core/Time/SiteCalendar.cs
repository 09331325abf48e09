using NodaTime;

namespace BrightCircle.Core.Time;

/// <summary>Calendars in one named zone. Everything that says "on the 1st at 09:00" or "every month" is computed here.</summary>
/// <remarks>
/// Local times that a spring change skips become the first valid moment after the gap; times that an autumn change repeats
/// become the earlier of the two. Boundaries are counted from the anchor, never chained, so 31 January + 2 months is
/// 31 March (XML Schema 1.1 Part 2, Appendix E.3.3 gives the same clamping: 2000-01-31 + P1M = 2000-02-29).
/// </remarks>
public sealed class SiteCalendar(DateTimeZone zone)
{
    public DateTimeZone Zone { get; } = zone;

    static readonly System.Collections.Concurrent.ConcurrentDictionary<string, SiteCalendar> Known = new();

    /// <exception cref="DateTimeZoneNotFoundException">The tz database has no such zone.</exception>
    public static SiteCalendar For(string zoneId) => Known.GetOrAdd(zoneId, static id => new(DateTimeZoneProviders.Tzdb[id]));

    /// <summary>The calendar in which a member's own days are counted: that of their zone, or this one where they named none or one that is unknown.</summary>
    public SiteCalendar Of(string? zoneId) => zoneId is null || zoneId == Zone.Id
        || DateTimeZoneProviders.Tzdb.GetZoneOrNull(zoneId) is null ? this : For(zoneId);

    public LocalDateTime Local(Instant moment) => moment.InZone(Zone).LocalDateTime;
    public LocalDate Date(Instant moment) => Local(moment).Date;

    /// <summary>The instant of a local time, by the rule for gaps and overlaps above.</summary>
    /// <remarks>The same as a resolver of NodaTime's that returns the earlier, or the start of the interval after; without making anything.</remarks>
    public Instant At(LocalDateTime local)
    {
        var utc = local.InUtc().ToInstant();
        // No zone is a day from UTC: what holds a day before is the earlier of the two that can.
        var interval = Zone.GetZoneInterval(utc - Duration.FromDays(1));
        while (true)
        {
            var at = utc - Duration.FromSeconds(interval.WallOffset.Seconds);
            if (!interval.HasEnd || at < interval.End) return interval.HasStart && at < interval.Start ? interval.Start : at;
            interval = Zone.GetZoneInterval(interval.End);
        }
    }

    /// <summary>
    /// Boundary <paramref name="k"/> of "every <paramref name="every"/> from <paramref name="anchor"/>"; boundary 0 is the anchor itself.
    /// The local time of day stays the anchor's.
    /// </summary>
    public Instant Boundary(Instant anchor, Period every, int k)
    {
        ArgumentOutOfRangeException.ThrowIfNegative(k);
        if (k == 0) return anchor;
        var local = Local(anchor);
        return At(every.AddTo(local.Date, k) + local.TimeOfDay);
    }

    /// <summary>The same local time <paramref name="days"/> calendar days later.</summary>
    public Instant PlusDays(Instant moment, int days)
    {
        var local = Local(moment);
        return At(local.PlusDays(days));
    }

    /// <summary>Calendar days from the local date of one moment to that of another.</summary>
    public int DaysBetween(Instant from, Instant to) => NodaTime.Period.DaysBetween(Date(from), Date(to));

    /// <summary>The 1st of the month at the given local time.</summary>
    public Instant FirstOf(YearMonth month, LocalTime at) => At(month.OnDayOfMonth(1) + at);

    public YearMonth Month(Instant moment) => Date(moment).ToYearMonth();

    /// <summary>Midnight at the start of the local day of <paramref name="moment"/>, or the day's first valid moment.</summary>
    public Instant StartOfDay(Instant moment) => Zone.AtStartOfDay(Date(moment)).ToInstant();
}
