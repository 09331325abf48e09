using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Community;

/// <summary>A stretch of a weekday, or of one day, in the site’s time: minutes from midnight, 0 to 1440.</summary>
public readonly record struct FreeSpan(int From, int To);

/// <summary>What is free on a weekday, every week.</summary>
public sealed record WeekdayFree(IsoDayOfWeek Day, IReadOnlyList<FreeSpan> Spans);

/// <summary>What is free on one day, instead of what the week says; nothing on a day off.</summary>
public sealed record DayFree(LocalDate Day, IReadOnlyList<FreeSpan> Spans);

/// <summary>When somebody of the team has time for one member at a time: a weekly pattern, and days that are otherwise.</summary>
/// <param name="Week">What is free on which weekday; a day that isn’t among them has nothing.</param>
/// <param name="Days">Days that are otherwise; an empty list for a day off.</param>
/// <param name="BufferMinutes">Between one meeting and the next, 0 to <see cref="MostBuffer"/>.</param>
/// <param name="NoticeHours">So long before at the latest, 0 to <see cref="MostNotice"/>.</param>
/// <param name="AheadDays">So far ahead at most, 1 to <see cref="MostAhead"/>.</param>
/// <param name="MostEach">So many can one member have ahead at a time, 1 to <see cref="MostOfOne"/>.</param>
public sealed record FreeTimes(IReadOnlyList<WeekdayFree> Week, IReadOnlyList<DayFree> Days, int BufferMinutes, int NoticeHours, int AheadDays, int MostEach)
{
    public const int MostBuffer = 240, MostNotice = 24 * 30, MostAhead = 180, MostOfOne = 10, MostSpans = 6, MostDays = 200;

    static readonly IReadOnlyList<FreeSpan> Nothing = [];

    public IReadOnlyList<FreeSpan> On(LocalDate day) =>
        Days.FirstOrDefault(d => d.Day == day)?.Spans ?? Week.FirstOrDefault(w => w.Day == day.DayOfWeek)?.Spans ?? Nothing;

    /// <summary>
    /// When a meeting can begin: from the beginning of each stretch, one after the other with the buffer between, as long as a whole one fits. What would begin
    /// sooner than the notice, or overlap what is taken, isn’t among them; nor is a time that a clock change leaves out.
    /// </summary>
    /// <param name="minutes">How long one is.</param>
    /// <param name="taken">What the host has already: from its beginning until the host is free again.</param>
    /// <param name="calendar">In the site’s time.</param>
    public IEnumerable<Instant> Starts(int minutes, SiteCalendar calendar, Instant now, IReadOnlyCollection<Interval> taken)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(minutes, 1);
        var (earliest, today) = (now + Duration.FromHours(NoticeHours), calendar.Date(now));
        var busy = Duration.FromMinutes(minutes + BufferMinutes);
        for (var n = 0; n <= AheadDays; n++)
        {
            var day = today.PlusDays(n);
            foreach (var span in On(day))
                for (var from = span.From; from + minutes <= span.To; from += minutes + BufferMinutes)
                {
                    var local = day.At(new LocalTime(from / 60, from % 60));
                    var start = calendar.At(local);
                    if (calendar.Local(start) == local && start >= earliest && !taken.Any(t => t.Start < start + busy && start < t.End)) yield return start;
                }
        }
    }

    /// <summary>Whether a meeting can begin at a moment.</summary>
    public bool Offers(Instant start, int minutes, SiteCalendar calendar, Instant now, IReadOnlyCollection<Interval> taken) =>
        Starts(minutes, calendar, now, taken).Contains(start);

    /// <summary>
    /// Reads a day’s stretches as they are typed: “9-12, 14:30-16”. Nothing typed is nothing free. Stretches don’t overlap and stand in order afterwards;
    /// the end
    /// of a day is 24.
    /// </summary>
    public static bool TryRead(string? typed, out IReadOnlyList<FreeSpan> spans)
    {
        var read = new List<FreeSpan>();
        spans = read;
        foreach (var part in (typed ?? "").Split([',', ';', '\n'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            if (part.Split(['-', '–'], StringSplitOptions.TrimEntries) is not [var a, var b] || Time(a) is not { } from || Time(b) is not { } to || from >= to)
                return false;
            read.Add(new(from, to));
        }
        read.Sort((a, b) => a.From.CompareTo(b.From));
        return read.Count <= MostSpans && read.Zip(read.Skip(1)).All(p => p.First.To <= p.Second.From);
    }

    static int? Time(string typed) => typed.Replace('.', ':').Split(':') switch
    {
        ["24"] or ["24", "00"] => 24 * 60,
        [var h] when Number(h, 23) is { } hour => hour * 60,
        [var h, { Length: 2 } m] when Number(h, 23) is { } hour && Number(m, 59) is { } minute => hour * 60 + minute,
        _ => null,
    };

    static int? Number(string typed, int most) =>
        typed.Length is 1 or 2 && typed.All(char.IsAsciiDigit) && int.Parse(typed, System.Globalization.CultureInfo.InvariantCulture) is var n && n <= most
            ? n : null;

    /// <summary>As it is typed: “09:00-12:00, 14:30-16:00”.</summary>
    public static string Write(IReadOnlyList<FreeSpan> spans) => string.Join(", ", spans.Select(s => $"{Written(s.From)}-{Written(s.To)}"));

    static string Written(int minute) => string.Create(System.Globalization.CultureInfo.InvariantCulture, $"{minute / 60:00}:{minute % 60:00}");
}
