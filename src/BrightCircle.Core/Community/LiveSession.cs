using NodaTime;

namespace BrightCircle.Core.Community;

/// <summary>Live meetings that belong together. Plans promise a series like anything else; who may come to one of its sessions is an access decision.</summary>
public sealed class LiveSeries
{
    public const int MostName = 80, MostAbout = 1000, MostHost = 80, MostPlace = 400, MostMinutes = 24 * 60, MostSeats = 10_000;

    public LiveSeriesId Id { get; init; }
    public string Name { get; set; } = "";
    public string About { get; set; } = "";
    /// <summary>Who leads it, as members read it.</summary>
    public string Host { get; set; } = "";
    /// <summary>Where a new session of it takes place: the address of a room, or a place in words.</summary>
    public string Place { get; set; } = "";
    /// <summary>How long a new session of it is.</summary>
    public int Minutes { get; set; } = 60;
    /// <summary>How many can come to a session; null for as many as like.</summary>
    public int? Seats { get; set; }
    /// <summary>Open to everybody who has an account, whatever they hold.</summary>
    public bool ForGuests { get; set; }
    /// <summary>They belong to a piece, and stand on its page for whoever may come; null for none.</summary>
    public PieceId? PieceId { get; set; }
    /// <summary>One member at a time: when there is time for that; null for none.</summary>
    public FreeTimes? Hours { get; set; }
    /// <summary>Whose time it is: an account of the team.</summary>
    public long? HostId { get; set; }
    /// <summary>Nothing more is planned in it; what was stays.</summary>
    public Instant? ClosedAt { get; set; }
    public Instant MadeAt { get; init; }
}

/// <summary>One live meeting.</summary>
public sealed class LiveSession
{
    /// <summary>The way in shows from so long before the beginning; reminders go out a day and ten minutes before.</summary>
    public static readonly Duration DoorBefore = Duration.FromMinutes(15), DayBefore = Duration.FromHours(24), SoonBefore = Duration.FromMinutes(10);

    public const int MostWhy = 300;

    public LiveSessionId Id { get; init; }
    public LiveSeriesId SeriesId { get; init; }
    /// <summary>What this one is about; empty for the series’ name.</summary>
    public string Title { get; set; } = "";
    /// <summary>UTC.</summary>
    public Instant StartsAt { get; set; }
    public int Minutes { get; set; } = 60;
    public string Place { get; set; } = "";
    /// <summary>How many can come; null for as many as like.</summary>
    public int? Seats { get; set; }
    public Instant? CancelledAt { get; set; }
    /// <summary>Why it doesn’t take place, in the words of the team.</summary>
    public string Why { get; set; } = "";
    /// <summary>How often it was moved, changed or cancelled: calendars go by it (RFC 5545, 3.8.7.4).</summary>
    public int Sequence { get; set; }
    /// <summary>What stays of it: a lesson with the recording and notes.</summary>
    public LessonId? LessonId { get; set; }

    public Instant EndsAt => StartsAt + Duration.FromMinutes(Minutes);
    public bool IsOver(Instant at) => at >= EndsAt;
    /// <summary>Something can still be said to it: that one comes, or a question.</summary>
    public bool IsAhead(Instant at) => CancelledAt is null && !IsOver(at);
    /// <summary>Whether the way in shows, for those who may come: from a little before the beginning until the end.</summary>
    public bool DoorIsOpen(Instant at) => CancelledAt is null && at >= StartsAt - DoorBefore && !IsOver(at);

    /// <summary>The address of its room; null where it takes place somewhere else than in a browser.</summary>
    public Uri? Room => RoomOf(Place);

    /// <summary>A place in words is none; an address is one where it is https or http.</summary>
    public static Uri? RoomOf(string place) => Uri.TryCreate(place.Trim(), UriKind.Absolute, out var uri) && uri.Scheme is "https" or "http" ? uri : null;

    public string Titled(LiveSeries series) => Title.Length > 0 ? Title : series.Name;
}

/// <summary>How sessions follow each other.</summary>
public enum SessionRepeat { Once, Weekly, EverySecondWeek, Monthly }

/// <summary>The days of sessions that are made in one act.</summary>
public static class SessionDays
{
    /// <summary>So many are made at once: a year of weeks.</summary>
    public const int Most = 53;

    /// <summary>
    /// The first and those after it, at the same local time. A month later is the same weekday of the month: the second Thursday stays the second Thursday, and
    /// from a fifth on it is the last (RFC 5545, FREQ=MONTHLY with BYDAY=2TH, or BYDAY=-1TH).
    /// </summary>
    /// <param name="count">How many in all, from 1 to <see cref="Most"/>.</param>
    public static IReadOnlyList<LocalDateTime> From(LocalDateTime first, SessionRepeat repeat, int count)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(count, 1);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(count, Most);
        return repeat switch
        {
            SessionRepeat.Once => [first],
            SessionRepeat.Weekly => [.. Enumerable.Range(0, count).Select(n => first.PlusWeeks(n))],
            SessionRepeat.EverySecondWeek => [.. Enumerable.Range(0, count).Select(n => first.PlusWeeks(2 * n))],
            SessionRepeat.Monthly => [.. Enumerable.Range(0, count).Select(n => SameWeekday(first, n))],
            _ => throw new ArgumentOutOfRangeException(nameof(repeat), repeat, "No such repeat."),
        };
    }

    static LocalDateTime SameWeekday(LocalDateTime first, int months)
    {
        var which = (first.Day - 1) / 7;
        var month = first.Date.ToYearMonth().PlusMonths(months);
        var begins = month.OnDayOfMonth(1);
        var day = begins.PlusDays(((int)first.DayOfWeek - (int)begins.DayOfWeek + 7) % 7 + 7 * which);
        // There is a fifth in every month or there isn’t: who began on one means the last.
        if (which == 4)
            for (day = day.PlusWeeks(-1); day.PlusWeeks(1).ToYearMonth() == month; day = day.PlusWeeks(1)) { }
        return day + first.TimeOfDay;
    }

    /// <summary>“on the second Thursday of the month”, for a day that stands for a monthly rhythm.</summary>
    public static string MonthlyWords(LocalDate day, System.Globalization.CultureInfo culture) =>
        $"on the {((day.Day - 1) / 7) switch { 0 => "first", 1 => "second", 2 => "third", 3 => "fourth", _ => "last" }} "
            + $"{day.ToString("dddd", culture)} of the month";
}
