using BrightCircle.Core.Time;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Due;

/// <summary>The row that comes every morning for the letter to the owner about the day before.</summary>
public static class OwnerMorning
{
    public static LocalTime Time { get; } = new(8, 0);

    /// <summary>Puts the next morning's row in, where it isn't there.</summary>
    public static Task PutNext(BrightContext db, Ids ids, SiteCalendar calendar, Instant at, CancellationToken ct)
    {
        var next = calendar.At(calendar.Date(at) + Time);
        if (next <= at) next = calendar.At(calendar.Date(at).PlusDays(1) + Time);
        return db.PutDueOnce(ids, DueKind.OwnerMorning, next, $"owner-day-{calendar.Date(next).ToString("uuuu-MM-dd", null)}", null, ct);
    }
}
