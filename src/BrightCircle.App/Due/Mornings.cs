using BrightCircle.Core.Time;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Due;

/// <summary>Rows that come every morning, at a time of the site's clock.</summary>
static class Mornings
{
    /// <summary>Puts the next morning's row in, where it isn't there.</summary>
    public static Task PutNext(BrightContext db, Ids ids, DueKind kind, string key, LocalTime time, SiteCalendar calendar, Instant at, CancellationToken ct)
    {
        var next = calendar.At(calendar.Date(at) + time);
        if (next <= at) next = calendar.At(calendar.Date(at).PlusDays(1) + time);
        return db.PutDueOnce(ids, kind, next, $"{key}-{calendar.Date(next).ToString("uuuu-MM-dd", null)}", null, ct);
    }
}

/// <summary>The row that comes every morning for the letter to the owner about the day before.</summary>
public static class OwnerMorning
{
    public static LocalTime Time { get; } = new(8, 0);

    /// <summary>Puts the next morning's row in, where it isn't there.</summary>
    public static Task PutNext(BrightContext db, Ids ids, SiteCalendar calendar, Instant at, CancellationToken ct) =>
        Mornings.PutNext(db, ids, DueKind.OwnerMorning, "owner-day", Time, calendar, at, ct);
}

/// <summary>The row that comes every morning for routines that rest on a day.</summary>
public static class RoutineDawn
{
    public static LocalTime Time { get; } = new(7, 0);

    /// <summary>Puts the next morning's row in, where it isn't there.</summary>
    public static Task PutNext(BrightContext db, Ids ids, SiteCalendar calendar, Instant at, CancellationToken ct) =>
        Mornings.PutNext(db, ids, DueKind.RoutineDay, "routine-day", Time, calendar, at, ct);
}
