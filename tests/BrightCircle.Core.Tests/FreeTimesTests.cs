using BrightCircle.Core.Community;
using BrightCircle.Core.Time;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>When a host has time for one member at a time.</summary>
public class FreeTimesTests
{
    static readonly SiteCalendar London = SiteCalendar.For("Europe/London");
    // A Monday.
    static readonly LocalDate Monday = new(2026, 11, 2);
    static readonly Instant Now = London.At(Monday.At(new LocalTime(8, 0)));
    static Instant At(LocalDate day, int hour, int minute = 0) => London.At(day.At(new LocalTime(hour, minute)));

    static FreeTimes Times(string monday, int buffer = 0, int notice = 0, int ahead = 0, params (LocalDate Day, string Spans)[] days)
    {
        static IReadOnlyList<FreeSpan> Read(string typed) => FreeTimes.TryRead(typed, out var spans) ? spans : throw new FormatException(typed);
        return new([new(IsoDayOfWeek.Monday, Read(monday))], [.. days.Select(d => new DayFree(d.Day, Read(d.Spans)))], buffer, notice, ahead, 1);
    }

    static string Shown(IEnumerable<Instant> starts) => string.Join(' ', starts.Select(s => London.Local(s).ToString("d.HH:mm",
        System.Globalization.CultureInfo.InvariantCulture)));

    [Theory]
    [InlineData("9-12", 60, 0, "2.09:00 2.10:00 2.11:00")]
    // A whole one has to fit.
    [InlineData("9-11:59", 60, 0, "2.09:00 2.10:00")]
    [InlineData("9-9:59", 60, 0, "")]
    // With time between; the last needs none after it.
    [InlineData("9-12", 45, 15, "2.09:00 2.10:00 2.11:00")]
    [InlineData("9-12", 60, 1, "2.09:00 2.10:01")]
    [InlineData("9-10, 22:30-24", 30, 0, "2.09:00 2.09:30 2.22:30 2.23:00 2.23:30")]
    [InlineData("", 30, 0, "")]
    public void A_stretch_is_cut_into_hours_with_the_buffer_between(string spans, int minutes, int buffer, string expected) =>
        Assert.Equal(expected, Shown(Times(spans, buffer).Starts(minutes, London, Now, [])));

    [Fact]
    public void What_begins_sooner_than_the_notice_or_later_than_how_far_ahead_isnt_among_them()
    {
        Assert.Equal("2.10:00 2.11:00", Shown(Times("9-12", notice: 2).Starts(60, London, Now, [])));
        Assert.Equal("2.09:00 2.10:00 2.11:00", Shown(Times("9-12", notice: 1).Starts(60, London, Now, [])));
        Assert.Equal("9.09:00", Shown(Times("9-10", notice: 2, ahead: 7).Starts(60, London, Now, [])));
        Assert.Equal("", Shown(Times("9-10", notice: 2, ahead: 6).Starts(60, London, Now, [])));
    }

    [Fact]
    public void A_day_can_be_otherwise_or_off()
    {
        var times = Times("9-10", 0, 0, 14, (Monday.PlusDays(1), "14-15"), (Monday.PlusDays(7), ""), (Monday.PlusDays(14), "8-9"));
        Assert.Equal("2.09:00 3.14:00 16.08:00", Shown(times.Starts(60, London, Now, [])));
        Assert.True(times.Offers(At(Monday, 9), 60, London, Now, []));
        Assert.False(times.Offers(At(Monday, 9, 1), 60, London, Now, []));
        Assert.False(times.Offers(At(Monday, 9), 61, London, Now, []));
    }

    [Fact]
    public void What_overlaps_what_is_taken_isnt_free_and_what_touches_it_is()
    {
        var times = Times("9-13", 15);
        // 9:00, 10:15, 11:30 begin; each takes an hour and a quarter.
        Assert.Equal("2.09:00 2.10:15 2.11:30", Shown(times.Starts(60, London, Now, [])));
        Assert.Equal("2.09:00 2.11:30", Shown(times.Starts(60, London, Now, [new(At(Monday, 10, 15), At(Monday, 11, 30))])));
        // Until a minute later, and it reaches into the next; from a minute sooner, and it reaches back.
        Assert.Equal("2.09:00", Shown(times.Starts(60, London, Now, [new(At(Monday, 10, 15), At(Monday, 11, 31))])));
        Assert.Equal("2.11:30", Shown(times.Starts(60, London, Now, [new(At(Monday, 10, 14), At(Monday, 11, 30))])));
        Assert.Equal("2.10:15 2.11:30", Shown(times.Starts(60, London, Now, [new(At(Monday, 8), At(Monday, 10))])));
    }

    [Fact]
    public void A_time_that_the_clock_leaves_out_isnt_offered_and_one_that_comes_twice_is_once()
    {
        // 29 March 2026, 01:00 to 02:00 isn't there; 25 October 2026, 01:00 to 02:00 comes twice (tz database, Europe/London).
        var (spring, autumn) = (new LocalDate(2026, 3, 29), new LocalDate(2026, 10, 25));
        FreeTimes On(LocalDate day) => Times("", 0, 0, 0, (day, "0-4"));
        Assert.Equal("29.00:00 29.02:00 29.03:00", Shown(On(spring).Starts(60, London, London.At(spring.AtMidnight()), [])));
        var twice = On(autumn).Starts(60, London, London.At(autumn.AtMidnight()), []).ToArray();
        Assert.Equal("25.00:00 25.01:00 25.02:00 25.03:00", Shown(twice));
        Assert.Equal(Instant.FromUtc(2026, 10, 25, 0, 0), twice[1]);
    }

    [Theory]
    [InlineData("9-12", "09:00-12:00")]
    [InlineData(" 9:30 - 12 ; 14.15–16 ", "09:30-12:00, 14:15-16:00")]
    [InlineData("14-16, 9-10", "09:00-10:00, 14:00-16:00")]
    [InlineData("9-10,10-11", "09:00-10:00, 10:00-11:00")]
    [InlineData("22-24", "22:00-24:00")]
    [InlineData("0-24:00", "00:00-24:00")]
    [InlineData("", "")]
    [InlineData(null, "")]
    public void Times_of_day_are_read_as_people_type_them(string? typed, string written)
    {
        Assert.True(FreeTimes.TryRead(typed, out var spans));
        Assert.Equal(written, FreeTimes.Write(spans));
        Assert.True(FreeTimes.TryRead(FreeTimes.Write(spans), out var again));
        Assert.Equal(spans, again);
    }

    [Theory]
    [InlineData("9")]
    [InlineData("12-9")]
    [InlineData("9-9")]
    [InlineData("9-10, 9:59-11")]
    [InlineData("25-26")]
    [InlineData("9-24:30")]
    [InlineData("9:5-10")]
    [InlineData("9:60-10")]
    [InlineData("nine-ten")]
    [InlineData("9-10-11")]
    [InlineData("-1-2")]
    [InlineData("1-2,3-4,5-6,7-8,9-10,11-12,13-14")]
    public void What_isnt_a_time_of_day_is_refused(string typed) => Assert.False(FreeTimes.TryRead(typed, out _));

    [Fact]
    public void However_hours_are_booked_none_offered_ever_overlaps_another()
    {
        var r = new Random(20261128);
        for (var n = 0; n < 200; n++)
        {
            var (minutes, buffer) = (r.Next(5, 120), r.Next(0, 40));
            var times = Times($"{r.Next(0, 8)}-{r.Next(9, 14)}, {r.Next(15, 18)}-{r.Next(19, 24)}", buffer, r.Next(0, 3), r.Next(0, 30));
            var taken = new List<Interval>();
            while (times.Starts(minutes, London, Now, taken).ToArray() is { Length: > 0 } free && taken.Count < 30)
            {
                var start = free[r.Next(free.Length)];
                var busy = new Interval(start, start + Duration.FromMinutes(minutes + buffer));
                Assert.DoesNotContain(taken, t => t.Start < busy.End && busy.Start < t.End);
                taken.Add(busy);
            }
        }
    }
}
