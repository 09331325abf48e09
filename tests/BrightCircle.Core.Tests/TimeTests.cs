using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

public class TimeTests
{
    static readonly SiteCalendar Utc = SiteCalendar.For("UTC");
    static Instant At(int y, int m, int d, int h = 12) => Instant.FromUtc(y, m, d, h, 0);
    static LocalDate Boundary(LocalDate anchor, Period every, int k) => Utc.Date(Utc.Boundary(Utc.At(anchor.AtMidnight()), every, k));

    // XML Schema 1.1 Part 2, Appendix E.3.3 (adding durations to dateTimes): days are clamped to the month's length.
    [Theory]
    [InlineData("2000-01-31", 1, "2000-02-29")]
    [InlineData("2000-03-31", 1, "2000-04-30")]
    [InlineData("2000-01-12", 12, "2001-01-12")]
    public void Months_clamp_as_XML_Schema_says(string from, int months, string to)
    {
        var anchor = NodaTime.Text.LocalDatePattern.Iso.Parse(from).Value;
        Assert.Equal(NodaTime.Text.LocalDatePattern.Iso.Parse(to).Value, Boundary(anchor, Period.Months(months), 1));
    }

    // The worked example of the same appendix: (2000-03-30 + P1D) + P1M = 2000-04-30, (2000-03-30 + P1M) + P1D = 2000-05-01.
    [Fact]
    public void Adding_a_day_and_a_month_does_not_commute()
    {
        var start = new LocalDate(2000, 3, 30);
        Assert.Equal(new LocalDate(2000, 4, 30), Boundary(Boundary(start, Period.Days(1), 1), Period.Months(1), 1));
        Assert.Equal(new LocalDate(2000, 5, 1), Boundary(Boundary(start, Period.Months(1), 1), Period.Days(1), 1));
    }

    [Fact]
    public void Boundaries_are_anchored_never_chained()
    {
        var anchor = new LocalDate(2026, 1, 31);
        Assert.Equal([new(2026, 1, 31), new(2026, 2, 28), new(2026, 3, 31), new LocalDate(2026, 4, 30)],
            Enumerable.Range(0, 4).Select(k => Boundary(anchor, Period.Months(1), k)));
        Assert.Equal([new(2024, 2, 29), new(2025, 2, 28), new(2026, 2, 28), new(2027, 2, 28), new LocalDate(2028, 2, 29)],
            Enumerable.Range(0, 5).Select(k => Boundary(new(2024, 2, 29), Period.Years(1), k)));
    }

    // tz database: Europe/London goes forward on 2026-03-29 at 01:00 and back on 2026-10-25 at 02:00.
    [Fact]
    public void A_skipped_time_becomes_the_first_valid_one_and_a_repeated_time_the_earlier()
    {
        var london = SiteCalendar.For("Europe/London");
        Assert.Equal(Instant.FromUtc(2026, 3, 29, 1, 0), london.At(new(2026, 3, 29, 1, 30)));
        Assert.Equal(Instant.FromUtc(2026, 10, 25, 0, 30), london.At(new(2026, 10, 25, 1, 30)));
    }

    // tz database: Pacific/Apia had no 30 December 2011; Australia/Lord_Howe changes by half an hour.
    [Fact]
    public void Odd_transitions_of_the_tz_database_hold()
    {
        var apia = SiteCalendar.For("Pacific/Apia");
        Assert.Equal(apia.At(new(2011, 12, 31, 0, 0)), apia.At(new(2011, 12, 30, 9, 0)));
        var howe = SiteCalendar.For("Australia/Lord_Howe");
        Assert.Equal(Duration.FromHours(23.5), howe.At(new(2026, 10, 5, 0, 0)) - howe.At(new(2026, 10, 4, 0, 0)));
    }

    [Fact]
    public void The_local_time_of_day_stays_over_a_clock_change()
    {
        var newYork = SiteCalendar.For("America/New_York");
        var anchor = newYork.At(new(2026, 2, 10, 8, 0));
        Assert.Equal(new LocalDateTime(2026, 3, 10, 8, 0), newYork.Local(newYork.Boundary(anchor, Period.Months(1), 1)));
        Assert.Equal(Duration.FromHours(23), newYork.PlusDays(newYork.At(new(2026, 3, 7, 12, 0)), 1) - newYork.At(new(2026, 3, 7, 12, 0)));
    }

    [Fact]
    public void Boundaries_rise_and_agree_with_NodaTime() =>
        Gen.Select(Gen.Int[0, 20000], Gen.Int[1, 24], Gen.Int[0, 3], Gen.Int[0, 200]).Sample((day, count, unit, k) =>
        {
            var anchor = new LocalDate(1990, 1, 1).PlusDays(day);
            var period = new Period(count, (PeriodUnit)unit);
            var noda =
                ((PeriodUnit)unit switch
                {
                    PeriodUnit.Days => NodaTime.Period.FromDays(count * k),
                    PeriodUnit.Weeks => NodaTime.Period.FromWeeks(count * k),
                    PeriodUnit.Months => NodaTime.Period.FromMonths(count * k),
                    _ => NodaTime.Period.FromYears(count * k)
                });
            return Boundary(anchor, period, k) == anchor + noda && Boundary(anchor, period, k) < Boundary(anchor, period, k + 1);
        });

    [Theory]
    [InlineData(0)]
    [InlineData(1001)]
    public void A_period_has_limits(int count) => Assert.Throws<ArgumentOutOfRangeException>(() => Period.Days(count));

    [Fact]
    public void The_first_of_a_month_is_local() => Assert.Equal(At(2026, 7, 1, 8), SiteCalendar.For("Europe/London").FirstOf(new(2026, 7), new(9, 0)));

    [Fact]
    public void Weeks_stand_in_order()
    {
        var (week, same, next) = (IsoWeek.Of(new(2026, 12, 31)), IsoWeek.Of(new(2027, 1, 1)), IsoWeek.Of(new(2027, 1, 4)));
        static (bool, bool, bool, bool) How(IsoWeek a, IsoWeek b) => (a > b, a >= b, a <= b, a < b);
        Assert.Equal((false, false, true, true), How(week, next));
        Assert.Equal((true, true, false, false), How(next, week));
        Assert.Equal((false, true, true, false), How(week, same));
    }

    [Fact]
    public void A_period_is_said_in_the_singular_and_the_plural()
    {
        Assert.Equal(("1 month", "3 months", "month", "3 months"), (Period.Months(1).ToString(), Period.Months(3).ToString(), Period.Months(1).AfterEvery(),
            Period.Months(3).AfterEvery()));
        Assert.Equal(("1 day", "2 weeks", "year"), (Period.Days(1).ToString(), Period.Weeks(2).ToString(), Period.Years(1).AfterEvery()));
    }

    [Fact]
    public void A_person_s_days_are_counted_where_they_are_and_otherwise_where_the_site_is()
    {
        var site = SiteCalendar.For("Europe/London");
        Assert.Same(site, site.Of(null));
        Assert.Same(site, site.Of("Europe/London"));
        Assert.Same(site, site.Of("Nowhere/At_All"));
        Assert.Equal("Pacific/Auckland", site.Of("Pacific/Auckland").Zone.Id);
        Assert.Throws<ArgumentOutOfRangeException>(() => site.Boundary(Instant.FromUtc(2026, 1, 1, 0, 0), Period.Months(1), -1));
    }
}
