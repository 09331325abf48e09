using System.Globalization;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.App.Community;

/// <summary>When somebody has time for one member at a time, as it is typed.</summary>
/// <param name="Week">From Monday to Sunday: “9-12, 14-16”, or nothing.</param>
/// <param name="Days">Days that are otherwise, a line each: “2026-12-24” for a day off, “2026-12-27: 10-12” for other times.</param>
public sealed record HoursDraft(IReadOnlyList<string?>? Week, string? Days, string? Buffer, string? Notice, string? Ahead, string? MostEach, long? HostId)
{
    public static HoursDraft Of(LiveSeries s, long host)
    {
        string Number(int? n, int usual) => (n ?? usual).ToString(CultureInfo.InvariantCulture);
        var t = s.Hours;
        return new([.. Enumerable.Range(1, 7).Select(d => t?.Week.FirstOrDefault(w => w.Day == (IsoDayOfWeek)d) is { } w ? FreeTimes.Write(w.Spans) : "")],
            string.Join('\n', (t?.Days ?? []).Select(d => LocalDatePattern.Iso.Format(d.Day) + (d.Spans.Count == 0 ? "" : ": " + FreeTimes.Write(d.Spans)))),
            Number(t?.BufferMinutes, 10), Number(t?.NoticeHours, 24), Number(t?.AheadDays, 28), Number(t?.MostEach, 1), s.HostId ?? host);
    }
}

/// <summary>Hours that a host has for one member at a time: said when, and ended.</summary>
public sealed class SaveHours(BrightContext db, Catalogue catalogue, Deeds deeds, IClock clock)
{
    public async Task<Result> Do(TeamActor by, LiveSeriesId id, HoursDraft draft, CancellationToken ct)
    {
        by.NeedEditor();
        var week = new List<WeekdayFree>();
        for (var d = 0; d < 7; d++)
        {
            if (!FreeTimes.TryRead(draft.Week?.ElementAtOrDefault(d), out var spans)) return Result.Refused(Unreadable, $"Week{d}");
            if (spans.Count > 0) week.Add(new((IsoDayOfWeek)(d + 1), spans));
        }
        var days = new List<DayFree>();
        foreach (var line in (draft.Days ?? "").Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            var colon = line.IndexOf(':', StringComparison.Ordinal);
            var (day, rest) = colon < 0 ? (line, "") : (line[..colon].Trim(), line[(colon + 1)..]);
            if (LocalDatePattern.Iso.Parse(day) is not { Success: true, Value: var date } || !FreeTimes.TryRead(rest, out var spans))
                return Result.Refused($"“{Bounded.To(line, 40)}” isn’t a day with its times: 2026-12-24, or 2026-12-27: 10-12.", "Days");
            if (days.Any(x => x.Day == date)) return Result.Refused($"{day} stands there twice.", "Days");
            days.Add(new(date, spans));
        }
        if (days.Count > FreeTimes.MostDays) return Result.Refused($"{FreeTimes.MostDays} days are the most.", "Days");
        static int? Read(string? typed, int from, int to) =>
            int.TryParse(typed?.Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out var n) && n >= from && n <= to ? n : null;
        if (Read(draft.Buffer, 0, FreeTimes.MostBuffer) is not { } buffer) return Result.Refused($"From 0 to {FreeTimes.MostBuffer} minutes.", "Buffer");
        if (Read(draft.Notice, 0, FreeTimes.MostNotice) is not { } notice) return Result.Refused($"From 0 to {FreeTimes.MostNotice} hours.", "Notice");
        if (Read(draft.Ahead, 1, FreeTimes.MostAhead) is not { } ahead) return Result.Refused($"From 1 to {FreeTimes.MostAhead} days.", "Ahead");
        if (Read(draft.MostEach, 1, FreeTimes.MostOfOne) is not { } most) return Result.Refused($"From 1 to {FreeTimes.MostOfOne}.", "MostEach");
        if (!await db.Users.AnyAsync(a => a.Id == draft.HostId && a.Role != null, ct))
            return Result.Refused("Choose whose time it is, among the team.", "HostId");
        if (await db.LiveSeries.FirstOrDefaultAsync(s => s.Id == id, ct) is not { } series) return Gone;
        if (week.Count == 0 && days.All(d => d.Spans.Count == 0)) return Result.Refused("Say when there is time: on one weekday at least.", "Week0");
        series.Hours = new(week, [.. days.OrderBy(d => d.Day)], buffer, notice, ahead, most);
        series.HostId = draft.HostId;
        deeds.Note(by, $"said when there is time for {series.Name}", $"/desk/sessions/series/{id.Value}/hours");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>No more hours are booked; those that are stay.</summary>
    public async Task<Result> End(TeamActor by, LiveSeriesId id, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.LiveSeries.FirstOrDefaultAsync(s => s.Id == id, ct) is not { } series) return Gone;
        var at = clock.GetCurrentInstant();
        if (await db.HourBookings.AnyAsync(h => h.SeriesId == id && h.CancelledAt == null && h.EndsAt > at, ct))
            return Result.Refused("Some are still ahead. Cancel those first, so that whoever has one is told.");
        series.Hours = null;
        deeds.Note(by, $"ended the hours of {series.Name}", $"/desk/sessions/series/{id.Value}");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    const string Unreadable = "Times of day, as 9-12 or 9:30-12, 14-16; in order, and without overlapping.";
    static Result Gone => Result.Refused("These sessions aren’t here any more.");
}
