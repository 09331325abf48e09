using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Access;

/// <summary>A part of a piece along the days of a pace.</summary>
/// <param name="Day">Days from the start; null where it has no moment.</param>
/// <param name="Usual">Where it would be by the pattern, for one moved by hand; null for the others.</param>
public sealed record PaceRow(Lesson Lesson, int? Day, int? Usual, Instant? At);

/// <summary>A piece laid out along the time by a pace, with what a look at it should notice.</summary>
public sealed class PaceLayout
{
    PaceLayout(IReadOnlyList<PaceRow> rows, bool countsModules) => (Rows, this.countsModules) = (rows, countsModules);
    readonly bool countsModules;

    /// <summary>All parts in their order.</summary>
    public IReadOnlyList<PaceRow> Rows { get; }

    /// <summary>
    /// Each lesson's place in a pattern that counts lessons, and in one that counts modules, from 0: the present one, or an earlier one it was settled at.
    /// </summary>
    /// <param name="anew">Only the present places count.</param>
    public static IEnumerable<(Lesson Lesson, int Step, int ModuleStep)> Turns(Outline outline, bool anew = false)
    {
        var (lessons, modules) = (0, 0);
        int Settled(int step, int present) => !anew && step >= 0 && step < present ? step : present;
        foreach (var part in outline.Parts)
        {
            foreach (var l in part.Lessons) yield return (l, Settled(l.Step, lessons++), Settled(part.Module?.Step ?? -1, modules));
            modules++;
        }
    }

    /// <param name="moves">Days from the start, of parts moved by hand.</param>
    /// <param name="start">From when it is counted; a list of dates is drawn from its first one.</param>
    public static PaceLayout Of(Pace pace, Outline outline, IReadOnlyDictionary<LessonId, int> moves, Instant start, SiteCalendar calendar, bool anew = false)
    {
        if (pace is Pace.OnDates { Dates: [var first, ..] }) start = calendar.At(first);
        var day0 = calendar.Date(start);
        int? Day(Instant? at) => at is { } i ? NodaTime.Period.DaysBetween(day0, calendar.Date(i)) : null;
        return new([.. Turns(outline, anew).Select(turn =>
        {
            var step = pace.CountsModules ? turn.ModuleStep : turn.Step;
            int? moved = moves.TryGetValue(turn.Lesson.Id, out var days) ? days : null;
            var at = pace.Opens(step, moved, start, calendar, []);
            return new PaceRow(turn.Lesson, Day(at), moved is null ? null : Day(pace.Opens(step, null, start, calendar, [])), at);
        })], pace.CountsModules);
    }

    /// <summary>Parts that open at one moment although the pattern has a step for each; the lessons of one module may.</summary>
    public IEnumerable<IReadOnlyList<PaceRow>> Together => Rows.Select(r => r.At).Distinct().Count() < 2 ? []
        : Rows.Where(r => r.At is not null).GroupBy(r => r.At).Select(g => (IReadOnlyList<PaceRow>)[.. g])
            .Where(g => g.Count > 1 && !(countsModules && g.All(r => r.Lesson.ModuleId == g[0].Lesson.ModuleId)));

    /// <summary>Stretches of days in which nothing opens, longer than one and a half of what is usual here.</summary>
    public IEnumerable<(int From, int To)> Gaps
    {
        get
        {
            int[] days = [.. Rows.Where(r => r.Day is not null).Select(r => r.Day!.Value).Distinct().Order()];
            if (days.Length < 3) return [];
            var steps = days.Zip(days.Skip(1)).ToArray();
            var usual = steps.Select(s => s.Second - s.First).Order().ElementAt((steps.Length - 1) / 2);
            return steps.Where(s => (s.Second - s.First) * 2 > usual * 3);
        }
    }

    /// <summary>How many parts have no moment.</summary>
    public int Undated => Rows.Count(r => r.At is null);
}
