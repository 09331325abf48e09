using System.Globalization;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>Live sessions: on which days they are, when the way in is open, and who may come.</summary>
public class SessionRuleTests
{
    static readonly LiveSeriesId Clinic = new(7), Other = new(8);
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant At(int month, int day, int hour = 0, int minute = 0) => London.At(new LocalDateTime(2026, month, day, hour, minute));
    static Inclusion To(Coverage covers, Keep? keep = null, Pace? pace = null) => new(covers, new Reach.EverythingReleased(), keep ?? new Keep.Nothing(), pace);
    static AccessBook Book(bool forGuests, params Inclusion[] promise) =>
        new([Make.Tier(1, 1, promise)], [], [], null, London, series: [(Clinic, forGuests), (Other, false)]);
    static MemberFacts Holds(Instant from, Instant? to = null) =>
        MemberFacts.From([Make.Holding(1, from, facts: to is { } end ? [Make.Paid(from, end), Make.Ended(end)] : [Make.Paid(from, null)])], At(12, 31));
    static bool Comes(AccessBook book, MemberFacts facts, Instant at, LiveSeriesId? series = null) => book.Decide(facts, series ?? Clinic, at).IsOpen;

    [Fact]
    public void Whoever_holds_what_promises_it_may_come_until_it_ends()
    {
        var book = Book(false, To(new Coverage.OneSeries(Clinic)));
        var facts = Holds(At(3, 1), At(6, 1));
        Assert.Equal([true, true, false], new[] { At(3, 1), At(6, 1) - Duration.Epsilon, At(6, 1) }
            .Select(at => Comes(book, facts, at)));
        Assert.False(Comes(book, facts, At(4, 1), Other));
        Assert.False(Comes(book, MemberFacts.Nobody, At(4, 1)));
        Assert.True(Comes(book, MemberFacts.Team, At(4, 1), Other));
        var kept = Book(false, To(new Coverage.OneSeries(Clinic), new Keep.ForPeriod(Period.Months(1))));
        Assert.Equal((true, false), (Comes(kept, facts, At(6, 30)), Comes(kept, facts, At(7, 1))));
    }

    [Fact]
    public void Everything_on_the_shelves_is_no_session_and_guests_come_where_they_may()
    {
        var everything = Book(false, To(new Coverage.Everything()), To(new Coverage.OneSpace(new(7))), To(new Coverage.OneTally(new(7))),
            To(new Coverage.OnePiece(new(7))), To(new Coverage.OnShelf(new(7))), To(new Coverage.OneLesson(new(7))), To(new Coverage.OneModule(new(7))));
        Assert.False(Comes(everything, Holds(At(3, 1)), At(4, 1)));
        Assert.True(Comes(Book(true), MemberFacts.Nobody, At(4, 1)));
        Assert.False(Comes(Book(true), MemberFacts.Nobody, At(4, 1), Other));
        // A space of the same number isn’t open for a promise of sessions.
        var both = new AccessBook([Make.Tier(1, 1, To(new Coverage.OneSeries(Clinic)))], [], [], null, London, spaces: [(new(7), false)],
            series: [(Clinic, false)]);
        Assert.False(both.Decide(Holds(At(3, 1)), new SpaceId(7), At(4, 1)).IsOpen);
        // And nothing of it is told of as a lesson that opens.
        Assert.Empty(Book(false, To(new Coverage.OneSeries(Clinic), pace: new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0), Lead: 3)))
            .OpeningsOf(Holds(At(3, 1)), At(3, 2)));
    }

    [Fact]
    public void A_promise_of_sessions_reads_well()
    {
        Assert.Equal("the live sessions", PromiseWords.Describe(To(new Coverage.OneSeries(Clinic))));
        Assert.Equal("the live sessions Hive clinic", PromiseWords.Describe(To(new Coverage.OneSeries(Clinic)), _ => "the live sessions Hive clinic"));
        Assert.Equal(PieceCovering.Not, PromiseTable.Covering(new Coverage.OneSeries(Clinic), new() { Id = new(7), ShelfId = new(7) }));
        Assert.Equal("When you leave, everything that had opened for you stays open.",
            PromiseWords.AfterLeaving(Make.Tier(1, 1, To(new Coverage.Everything(), new Keep.WhatHadOpened()), To(new Coverage.OneSeries(Clinic)))));
    }

    [Fact]
    public void The_way_in_is_open_from_a_quarter_of_an_hour_before_to_the_end()
    {
        var session = new LiveSession { StartsAt = At(12, 3, 19, 30), Minutes = 60 };
        Assert.Equal(At(12, 3, 20, 30), session.EndsAt);
        Instant[] moments = [At(12, 3, 19, 15) - Duration.Epsilon, At(12, 3, 19, 15), At(12, 3, 20, 30) - Duration.Epsilon, At(12, 3, 20, 30)];
        Assert.Equal([false, true, true, false], moments.Select(session.DoorIsOpen));
        Assert.Equal([true, true, true, false], moments.Select(session.IsAhead));
        Assert.Equal([false, false, false, true], moments.Select(session.IsOver));
        session.CancelledAt = At(12, 1);
        Assert.DoesNotContain(true, moments.Select(session.DoorIsOpen).Concat(moments.Select(session.IsAhead)));
    }

    [Theory]
    [InlineData("https://room.example/hive", true), InlineData("http://room.example", true), InlineData(" https://room.example ", true)]
    [InlineData("javascript:alert(1)", false), InlineData("mailto:a@room.example", false), InlineData("The barn, Tansy Lane", false), InlineData("", false)]
    [InlineData("/desk", false), InlineData("file:///etc/passwd", false)]
    public void A_room_is_an_address_and_everything_else_a_place(string place, bool isRoom) =>
        Assert.Equal(isRoom, new LiveSession { Place = place }.Room is not null);

    [Fact]
    public void A_session_goes_by_its_own_title_or_the_series_name()
    {
        var series = new LiveSeries { Name = "Hive clinic" };
        Assert.Equal("Hive clinic", new LiveSession().Titled(series));
        Assert.Equal("Varroa", new LiveSession { Title = "Varroa" }.Titled(series));
    }

    static IEnumerable<string> Days(string first, SessionRepeat repeat, int count) =>
        SessionDays.From(LocalDateTime.FromDateTime(DateTime.Parse(first, CultureInfo.InvariantCulture)), repeat, count)
            .Select(d => d.ToString("uuuu-MM-dd HH:mm", CultureInfo.InvariantCulture));

    // By the calendar of 2026 and 2027.
    [Fact]
    public void Sessions_follow_each_other_at_the_same_local_time()
    {
        Assert.Equal(["2026-12-03 19:30"], Days("2026-12-03 19:30", SessionRepeat.Once, 9));
        Assert.Equal(["2026-12-28 19:30", "2027-01-04 19:30", "2027-01-11 19:30"], Days("2026-12-28 19:30", SessionRepeat.Weekly, 3));
        Assert.Equal(["2026-12-28 19:30", "2027-01-11 19:30"], Days("2026-12-28 19:30", SessionRepeat.EverySecondWeek, 2));
        // The first Thursday, whichever day that is.
        Assert.Equal(["2026-12-03 19:30", "2027-01-07 19:30", "2027-02-04 19:30", "2027-03-04 19:30", "2027-04-01 19:30"],
            Days("2026-12-03 19:30", SessionRepeat.Monthly, 5));
        // The fourth Saturday is the 28th at the latest; a fifth is the last.
        Assert.Equal(["2026-11-28 08:00", "2026-12-26 08:00", "2027-01-23 08:00"], Days("2026-11-28 08:00", SessionRepeat.Monthly, 3));
        Assert.Equal(["2026-11-30 08:00", "2026-12-28 08:00", "2027-01-25 08:00", "2027-02-22 08:00", "2027-03-29 08:00"],
            Days("2026-11-30 08:00", SessionRepeat.Monthly, 5));
    }

    [Fact]
    public void Not_none_and_not_more_than_a_year_of_weeks()
    {
        Assert.Throws<ArgumentOutOfRangeException>(() => Days("2026-12-03 19:30", SessionRepeat.Weekly, 0).ToArray());
        Assert.Throws<ArgumentOutOfRangeException>(() => Days("2026-12-03 19:30", SessionRepeat.Weekly, SessionDays.Most + 1).ToArray());
        Assert.Throws<ArgumentOutOfRangeException>(() => Days("2026-12-03 19:30", (SessionRepeat)9, 1).ToArray());
        Assert.Equal(SessionDays.Most, Days("2026-12-03 19:30", SessionRepeat.Weekly, SessionDays.Most).Count());
    }

    [Theory]
    [InlineData(1, "first"), InlineData(7, "first"), InlineData(8, "second"), InlineData(15, "third"), InlineData(28, "fourth"), InlineData(29, "last")]
    public void A_monthly_rhythm_has_words(int day, string which) => Assert.Equal(
        $"on the {which} {new LocalDate(2026, 12, day).ToString("dddd", CultureInfo.GetCultureInfo("en-GB"))} of the month",
        SessionDays.MonthlyWords(new(2026, 12, day), CultureInfo.GetCultureInfo("en-GB")));
}
