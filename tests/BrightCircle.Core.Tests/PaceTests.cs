using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using NodaTime.TimeZones;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>When the parts of a piece open one after the other: by the calendar alone, and as decisions.</summary>
public class PaceTests
{
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant At(int year, int month, int day, int hour = 9, int minute = 0) => London.At(new(year, month, day, hour, minute));
    static string Utc(Instant? i) => i is { } at ? at.ToString("uuuu-MM-dd HH:mm'Z'", System.Globalization.CultureInfo.InvariantCulture) : "never";
    static string Opens(Pace pace, Instant anchor, int k, params (Instant, Instant)[] pauses) => Utc(pace.Opens(k, null, anchor, London, pauses));
    static readonly LocalTime Nine = new(9, 0);

    // The table of worked cases, computed there independently.
    [Fact]
    public void Parts_open_as_the_worked_cases_say()
    {
        var a = At(2026, 11, 12, 20, 15);
        var weekly = new Pace.Steps(7, PaceUnit.Days, Nine);
        Assert.Equal(["2026-11-12 20:15Z", "2026-11-19 09:00Z", "2026-11-26 09:00Z", "2027-01-07 09:00Z"],
            new[] { 0, 1, 2, 8 }.Select(k => Opens(weekly, a, k)));
        var c = new Pace.Steps(7, PaceUnit.Days);
        Assert.Equal(["2027-03-27 10:00Z", "2027-04-03 09:00Z"], new[] { 1, 2 }.Select(k => Opens(c, At(2027, 3, 20, 10), k)));
        var d = new Pace.Steps(1, PaceUnit.Days, new LocalTime(1, 30));
        Assert.Equal(["2027-03-27 01:30Z", "2027-03-28 01:00Z", "2027-03-29 00:30Z"], new[] { 1, 2, 3 }.Select(k => Opens(d, At(2027, 3, 26, 12), k)));
        var e = new Pace.Steps(1, PaceUnit.Months, Nine);
        Assert.Equal(["2027-02-28 09:00Z", "2027-03-31 08:00Z", "2027-04-30 08:00Z"], new[] { 1, 2, 3 }.Select(k => Opens(e, At(2027, 1, 31, 8), k)));
        var g = new Pace.Steps(1, PaceUnit.FirstsOfMonth, Nine);
        Assert.Equal(["2026-11-01 09:00Z", "2026-12-01 09:00Z", "2027-01-01 09:00Z"], new[] { 1, 2, 3 }.Select(k => Opens(g, At(2026, 10, 12, 9, 30), k)));
        Assert.Equal("2026-10-25 00:30Z", Utc(At(2026, 10, 25, 1, 30)));
        (Instant, Instant) pause = (At(2026, 11, 10), At(2026, 11, 24));
        Assert.Equal(["2026-11-08 09:00Z", "2026-11-29 09:00Z"], new[] { 1, 2 }.Select(k => Opens(weekly, At(2026, 11, 1, 10), k, pause)));
    }

    // Common practice of working calendars: Monday to Friday. By hand: 12 November 2026 is a Thursday.
    [Theory]
    [InlineData(12, 1, 1, "2026-11-13 09:00Z")]
    [InlineData(12, 1, 2, "2026-11-16 09:00Z")]
    [InlineData(12, 1, 6, "2026-11-20 09:00Z")]
    [InlineData(12, 1, 7, "2026-11-23 09:00Z")]
    [InlineData(13, 2, 1, "2026-11-17 09:00Z")]
    [InlineData(14, 1, 1, "2026-11-16 09:00Z")]
    [InlineData(15, 1, 5, "2026-11-20 09:00Z")]
    [InlineData(15, 1, 6, "2026-11-23 09:00Z")]
    public void Weekdays_leave_out_the_weekend(int day, int every, int k, string opens) =>
        Assert.Equal(opens, Opens(new Pace.Steps(every, PaceUnit.Weekdays, Nine), At(2026, 11, day, 8), k));

    [Fact]
    public void A_pause_never_pushes_a_weekday_onto_the_weekend()
    {
        // Thursday 19 November, pushed by two days of pause, would be Saturday.
        var pace = new Pace.Steps(1, PaceUnit.Weekdays, Nine);
        Assert.Equal("2026-11-23 09:00Z", Opens(pace, At(2026, 11, 12, 8), 5, (At(2026, 11, 16, 12), At(2026, 11, 18, 12))));
    }

    [Fact]
    public void The_first_may_wait_and_a_part_moved_by_hand_has_its_own_day()
    {
        var a = At(2026, 11, 12, 20, 15);
        var led = new Pace.Steps(1, PaceUnit.Weeks, Nine, Lead: 3);
        Assert.Equal(["2026-11-15 09:00Z", "2026-11-22 09:00Z"], new[] { 0, 1 }.Select(k => Opens(led, a, k)));
        Assert.Equal(["2026-11-12 20:15Z", "2026-11-22 09:00Z"], new[] { 0, 10 }.Select(m => Utc(led.Opens(5, m, a, London, []))));
        var dates = new Pace.OnDates([new(2026, 12, 1, 9, 0), new(2026, 12, 24, 18, 0)]);
        Assert.Equal(["2026-12-01 09:00Z", "2026-12-24 18:00Z", "never"], new[] { 0, 1, 2 }.Select(k => Opens(dates, a, k, (a, At(2027, 1, 1)))));
        Assert.Equal("2026-11-14 20:15Z", Utc(dates.Opens(0, 2, a, London, [])));
        Assert.Equal("2026-11-12 20:15Z", Opens(new Pace.AtOnce(true), a, 7));
        Assert.Equal("2026-11-14 20:15Z", Utc(new Pace.AtOnce(true).Opens(7, 2, a, London, [])));
    }

    [Fact]
    public void What_is_open_when_a_pause_begins_isnt_pushed_and_what_opens_a_moment_later_is()
    {
        var (a, pace) = (At(2026, 11, 1, 9), new Pace.Steps(7, PaceUnit.Days, Nine));
        var eighth = At(2026, 11, 8, 9);
        Assert.Equal("2026-11-08 09:00Z", Opens(pace, a, 1, (eighth, At(2026, 11, 10))));
        Assert.Equal("2026-11-10 09:00Z", Opens(pace, a, 1, (eighth - Duration.FromMilliseconds(1), At(2026, 11, 10))));
        // Two pauses; of one that began before the anchor only the part after it counts.
        Assert.Equal("2026-11-13 09:00Z", Opens(pace, a, 1, (At(2026, 11, 2), At(2026, 11, 4)), (At(2026, 11, 9), At(2026, 11, 12))));
        Assert.Equal("2026-11-10 09:00Z", Opens(pace, a, 1, (At(2026, 10, 1), At(2026, 11, 3))));
        Assert.Equal("2026-11-08 09:00Z", Opens(pace, a, 1, (At(2026, 10, 1), a)));
    }

    static readonly string[] Zones =
        ["Europe/London", "America/New_York", "Australia/Lord_Howe", "Pacific/Apia", "Asia/Kathmandu", "Etc/UTC", "Africa/Casablanca"];

    [Fact]
    public void A_local_time_is_resolved_as_the_library_does() => Gen.Select(
        Gen.OneOf([.. Zones.Select(Gen.Const)]),
        Gen.Int[2000, 2037], Gen.Int[1, 366], Gen.Int[0, 24 * 60 - 1]).Sample((zone, year, day, minute) =>
    {
        var calendar = SiteCalendar.For(zone);
        var local = new LocalDate(year, 1, 1).PlusDays(day - 1).AtMidnight().PlusMinutes(minute);
        Assert.Equal(calendar.Zone.ResolveLocal(local, Resolvers.CreateMappingResolver(Resolvers.ReturnEarlier, Resolvers.ReturnStartOfIntervalAfter))
            .ToInstant(), calendar.At(local));
    }, iter: Make.Tries(20_000));

    // ---- As decisions. ----

    /// <summary>A course of lessons 1, 2, 3 … released on 1 March, the second and third in module 1.</summary>
    static Piece Course(int lessons = 4, Instant? released = null, Action<Lesson>? with = null, Action<Piece>? whole = null)
    {
        var at = released ?? At(2026, 3, 1);
        var p = new Piece { Id = new(1), ShelfId = new(1), Title = "Wintering", Ready = true };
        p.Release(at);
        whole?.Invoke(p);
        var all = Enumerable.Range(1, lessons).Select(n =>
        {
            var l = new Lesson
            {
                Id = new(n),
                PieceId = p.Id,
                Position = n,
                Title = $"Lesson {n}",
                Ready = true,
                ModuleId = n is 2 or 3 ? new(1) : n > 3 ? new(2) : null
            };
            l.Release(at);
            with?.Invoke(l);
            return l;
        }).ToArray();
        p.Attach(Outline.Of([new() { Id = new(1), PieceId = p.Id, Position = 1 }, new() { Id = new(2), PieceId = p.Id, Position = 2 }], all));
        return p;
    }

    static readonly Pace Weekly = new Pace.Steps(7, PaceUnit.Days, Nine);
    static Inclusion Of(Pace? pace = null, Keep? keep = null, Reach? reach = null, Period? ends = null, params Need[] needs) =>
        new(new Coverage.OnePiece(new(1)), reach ?? new Reach.EverythingReleased(), keep ?? new Keep.Nothing(), pace, ends, needs);

    static AccessBook Book(Piece piece, Plan plan, IEnumerable<PieceTimeline>? timelines = null, IEnumerable<Cohort>? cohorts = null,
        params Plan[] more) => new([plan, .. more], [piece], [], [], London, timelines, cohorts);

    /// <summary>Of lessons 1, 2, 3 …: open, the day it opens, or the rule that keeps it closed.</summary>
    static string Say(AccessBook book, Instant now, MemberFacts facts, int lessons = 4) =>
        string.Join(" | ", Enumerable.Range(1, lessons).Select(n => book.Decide(facts, new LessonId(n), now) switch
        {
            { IsOpen: true } => "open",
            { State: AccessState.OpensAt } d => $"{London.Local(d.OpensAt):d MMM HH:mm}",
            var d => d.Rule.ToString(),
        }));

    static readonly Instant Joined = At(2026, 11, 12, 20, 15);
    static Holding Hold(long plan = 1, Instant? start = null, params HoldingFact[] facts) =>
        Make.Holding(plan, start ?? Joined, facts: facts.Length == 0 ? [Make.Paid(start ?? Joined, null)] : facts);
    static string Say(AccessBook book, Instant now, params Holding[] held) => Say(book, now, MemberFacts.From(held, now));

    [Fact]
    public void One_lesson_a_week_opens_one_lesson_a_week()
    {
        var book = Book(Course(), Make.Pass(1, Of(Weekly)));
        Assert.Equal("open | 19 Nov 09:00 | 26 Nov 09:00 | 3 Dec 09:00", Say(book, Joined, Hold()));
        var second = At(2026, 11, 19);
        Assert.Equal("open | 19 Nov 09:00 | 26 Nov 09:00 | 3 Dec 09:00", Say(book, second - Duration.Epsilon, Hold()));
        Assert.Equal("open | open | 26 Nov 09:00 | 3 Dec 09:00", Say(book, second, Hold()));
        Assert.Equal(AccessRule.Paced, book.Decide(MemberFacts.From([Hold()], Joined), new LessonId(2), Joined).Rule);
        // The piece itself, its page and outline, waits for nothing; its module opens with its first lesson.
        Assert.True(book.Decide(MemberFacts.From([Hold()], Joined), new PieceId(1), Joined).IsOpen);
        Assert.Equal(second, book.Decide(MemberFacts.From([Hold()], Joined), new ModuleId(1), Joined).OpensAt);
        // Where it counts modules, a module's lessons come together.
        var modules = Book(Course(), Make.Pass(1, Of(new Pace.Steps(7, PaceUnit.Days, Nine, PacePart.Module))));
        Assert.Equal("open | 19 Nov 09:00 | 19 Nov 09:00 | 26 Nov 09:00", Say(modules, Joined, Hold()));
    }

    [Fact]
    public void All_at_once_skips_it_and_the_most_generous_of_two_wins()
    {
        var book = Book(Course(), Make.Pass(1, Of(Weekly)), more: Make.Tier(2, 1, Of(new Pace.Steps(2, PaceUnit.Days, Nine))));
        var atOnce = new Holding { Id = new(9), PlanId = new(1), StartsAt = Joined, AllAtOnce = true, Agreement = Agreement.ForNothing(Joined, Make.London) };
        atOnce.Given(Joined);
        Assert.Equal("open | open | open | open", Say(book, Joined, atOnce));
        Assert.Equal("open | 14 Nov 09:00 | 16 Nov 09:00 | 18 Nov 09:00", Say(book, Joined, Hold(), Hold(2)));
        Assert.Equal("open | 14 Nov 09:00 | 16 Nov 09:00 | 18 Nov 09:00", Say(book, Joined, Hold(2), Hold()));
        // What ends before its turn opens nothing.
        var leaving = Hold(2, null, Make.Paid(Joined, At(2026, 11, 16)), Make.Leaving(Joined, At(2026, 11, 16)));
        Assert.Equal("open | 14 Nov 09:00 | 26 Nov 09:00 | 3 Dec 09:00", Say(book, Joined, Hold(), leaving));
        Assert.Equal("open | 14 Nov 09:00 | EndsBefore | EndsBefore", Say(book, Joined, leaving));
    }

    [Fact]
    public void Whoever_returns_goes_on_where_they_were()
    {
        var book = Book(Course(), Make.Pass(1, Of(Weekly, new Keep.Nothing())));
        var first = Hold(1, At(2026, 11, 1, 10), Make.Paid(At(2026, 11, 1, 10), null), Make.Ended(At(2026, 11, 10)));
        Assert.Equal("HoldingOver | HoldingOver | HoldingOver | HoldingOver", Say(book, At(2026, 11, 20), first));
        var again = Hold(1, At(2026, 11, 24), Make.Paid(At(2026, 11, 24), null));
        Assert.Equal("open | open | 29 Nov 09:00 | 6 Dec 09:00", Say(book, At(2026, 11, 24), first, again));
        // Held through in another way meanwhile, it is no pause; another plan is.
        Assert.Equal("open | open | open | open", Say(book, At(2026, 11, 24), first, Hold(1, At(2026, 11, 9)), again));
        var other = Book(Course(), Make.Pass(1, Of(Weekly)), more: Make.Tier(2, 1, Of(Weekly)));
        Assert.Equal("open | open | 29 Nov 09:00 | 6 Dec 09:00",
            Say(other, At(2026, 11, 24), first, Hold(2, At(2026, 11, 9), Make.Paid(At(2026, 11, 9), null), Make.Ended(At(2026, 11, 20))), again));
    }

    [Fact]
    public void A_course_that_comes_out_later_is_counted_from_its_release_and_no_part_opens_before_its_own()
    {
        var book = Book(Course(released: At(2026, 12, 1)), Make.Tier(1, 1, Of(Weekly)));
        Assert.Equal("open | 8 Dec 09:00 | 15 Dec 09:00 | 22 Dec 09:00", Say(book, At(2026, 12, 1), Hold()));
        var late = Course();
        late.Outline.Lessons[2].Withdraw();
        late.Outline.Lessons[2].Release(At(2026, 12, 20));
        Assert.Equal("open | open | 20 Dec 09:00 | open", Say(Book(late, Make.Tier(1, 1, Of(Weekly))), At(2026, 12, 10), Hold()));
    }

    [Fact]
    public void Nothing_that_is_added_or_moved_closes_an_open_lesson()
    {
        // The third lesson stood second once, and keeps that turn; what was put before it takes the same.
        var book = Book(Course(with: l => l.Step = l.Id.Value switch { 3 => 1, 4 => 2, _ => -1 }), Make.Pass(1, Of(Weekly)));
        Assert.Equal("open | 19 Nov 09:00 | 19 Nov 09:00 | 26 Nov 09:00", Say(book, Joined, Hold()));
        // A later turn than the present place never counts.
        Assert.Equal("open | 19 Nov 09:00 | 26 Nov 09:00 | 3 Dec 09:00",
            Say(Book(Course(with: l => l.Step = 9), Make.Pass(1, Of(Weekly))), Joined, Hold()));
    }

    [Fact]
    public void The_closest_pace_counts()
    {
        var daily = new Pace.Steps(1, PaceUnit.Days, Nine);
        var none = new Dictionary<LessonId, int>();
        PieceTimeline Line(Pace pace, long? plan = null, long? price = null, Dictionary<LessonId, int>? moves = null) =>
            new(new(1), plan is { } p ? new PlanId(p) : null, price is { } r ? new PriceId(r) : null, null, pace, moves ?? none);
        var plan = Make.Pass(1, Of());
        plan.PaceOf = new Dictionary<PriceId, Pace> { [new(7)] = Weekly, [new(8)] = new Pace.AtOnce() };
        Holding By(long? price) => new()
        {
            Id = new(1),
            PlanId = new(1),
            StartsAt = Joined,
            PriceId = price is { } p ? new PriceId(p) : null,
            Agreement = Agreement.ForNothing(Joined, Make.London),
        };
        Holding Held(long? price = null)
        {
            var h = By(price);
            h.Given(Joined);
            return h;
        }
        var book = Book(Course(), plan, [Line(daily)]);
        Assert.Equal("open | 13 Nov 09:00 | 14 Nov 09:00 | 15 Nov 09:00", Say(book, Joined, Held()));
        Assert.Equal("open | 19 Nov 09:00 | 26 Nov 09:00 | 3 Dec 09:00", Say(book, Joined, Held(7)));
        Assert.Equal("open | open | open | open", Say(book, Joined, Held(8)));
        var two = new Pace.Steps(2, PaceUnit.Days, Nine);
        var three = new Pace.Steps(3, PaceUnit.Days, Nine);
        book = Book(Course(), plan, [Line(daily), Line(two, plan: 1), Line(three, price: 7, moves: new() { [new(3)] = 0, [new(4)] = 30 })]);
        Assert.Equal("open | 14 Nov 09:00 | 16 Nov 09:00 | 18 Nov 09:00", Say(book, Joined, Held(8)));
        Assert.Equal("open | 15 Nov 09:00 | open | 12 Dec 09:00", Say(book, Joined, Held(7)));
        // An inclusion that says “at once” isn't held back by the piece's own pace for everybody.
        Assert.Equal("open | open | open | open", Say(Book(Course(), Make.Pass(1, Of(new Pace.AtOnce())), [Line(daily)]), Joined, Hold()));
        Assert.Equal("open | 14 Nov 09:00 | 16 Nov 09:00 | 18 Nov 09:00",
            Say(Book(Course(), Make.Pass(1, Of(new Pace.AtOnce())), [Line(daily), Line(two, plan: 1), Line(three, plan: 2)]), Joined, Hold()));
    }

    [Fact]
    public void A_cohort_starts_together()
    {
        var pace = new Pace.Steps(1, PaceUnit.Days, Nine, From: PaceFrom.Cohort);
        Cohort[] cohorts = [new(new(2), new(1), "December", At(2026, 12, 1)), new(new(1), new(1), "November", At(2026, 11, 1))];
        var book = Book(Course(), Make.Pass(1, Of(pace)), cohorts: cohorts);
        // Early: also the first part waits. Late, put into the one that began: what is past is open at once.
        Assert.Equal("1 Dec 09:00 | 2 Dec 09:00 | 3 Dec 09:00 | 4 Dec 09:00", Say(book, Joined, Hold()));
        Assert.Equal("open | open | open | open", Say(book, Joined, MemberFacts.From([Hold()], Joined, cohorts: new HashSet<CohortId> { new(1) })));
        Assert.Equal("open | open | open | 4 Dec 09:00", Say(book, At(2026, 12, 3, 12), Hold(1, At(2026, 12, 3, 12))));
        Assert.Equal("open | 2 Dec 09:00 | 3 Dec 09:00 | 4 Dec 09:00", Say(book, At(2026, 12, 1), Hold(1, At(2026, 12, 1))));
        Assert.Equal("NoDateYet | NoDateYet | NoDateYet | NoDateYet", Say(Book(Course(), Make.Pass(1, Of(pace))), Joined, Hold()));
        Assert.Equal("open | NoDateYet | NoDateYet | NoDateYet",
            Say(Book(Course(), Make.Pass(1, Of(new Pace.OnDates([new(2026, 11, 1, 9, 0)])))), Joined, Hold()));
        // Its own timeline.
        var own = new PieceTimeline(new(1), null, null, new(2), Weekly, new Dictionary<LessonId, int>());
        Assert.Equal("open | 19 Nov 09:00 | 26 Nov 09:00 | 3 Dec 09:00", Say(Book(Course(), Make.Pass(1, Of(pace)), [own], cohorts), Joined, Hold()));
        Assert.Equal("open | open | open | open",
            Say(Book(Course(), Make.Pass(1, Of(pace)), [own], cohorts), Joined, MemberFacts.From([Hold()], Joined, cohorts: new HashSet<CohortId> { new(1) })));
    }

    [Fact]
    public void After_the_previous_one_waits_for_it_and_for_its_date()
    {
        MemberFacts Done(Instant now, params (long Lesson, Instant At)[] done) =>
            MemberFacts.From([Hold()], now, completed: done.ToDictionary(d => new LessonId(d.Lesson), d => d.At));
        var book = Book(Course(), Make.Pass(1, Of(new Pace.AtOnce(true))));
        Assert.Equal("open | PreviousFirst | PreviousFirst | PreviousFirst", Say(book, Joined, Hold()));
        var soon = Joined + Duration.FromHours(1);
        Assert.Equal("open | open | PreviousFirst | PreviousFirst", Say(book, soon, Done(soon, (1, soon))));
        // What becomes known later isn't known yet.
        Assert.Equal("open | PreviousFirst | PreviousFirst | PreviousFirst", Say(book, Joined, Done(Joined, (1, soon))));
        var both = Book(Course(), Make.Pass(1, Of(new Pace.Steps(7, PaceUnit.Days, Nine, AfterPrevious: true))));
        Assert.Equal("open | 19 Nov 09:00 | PreviousFirst | PreviousFirst", Say(both, soon, Done(soon, (1, soon))));
        Assert.Equal("open | open | 26 Nov 09:00 | PreviousFirst", Say(both, At(2026, 11, 20), Done(At(2026, 11, 20), (1, soon), (2, At(2026, 11, 20)))));
        Assert.Equal("open | PreviousFirst | PreviousFirst | PreviousFirst", Say(both, At(2026, 11, 20), Hold()));
        // A part that isn't out holds back nobody.
        var gap = Course(with: l => { if (l.Id.Value == 2) { l.Withdraw(); l.Ready = false; } });
        Assert.Equal("open | NotReleased | open | PreviousFirst", Say(Book(gap, Make.Pass(1, Of(new Pace.AtOnce(true)))), soon, Done(soon, (1, soon))));
        Assert.Equal(new LessonId(1), Book(gap, Make.Pass(1, Of())).Before(new LessonId(3)));
        Assert.Null(book.Before(new LessonId(1)));
    }

    [Fact]
    public void A_part_may_open_later_and_close_again()
    {
        var (opens, closes) = (At(2026, 11, 20), At(2026, 11, 25));
        var book = Book(Course(with: l => l.Window = l.Id.Value switch { 2 => new(opens), 3 => new(null, closes), 4 => new(Days: 5), _ => null }),
            Make.Pass(1, Of(new Pace.Steps(1, PaceUnit.Days, Nine))));
        Assert.Equal("open | 20 Nov 09:00 | 14 Nov 09:00 | 15 Nov 09:00", Say(book, Joined, Hold()));
        Assert.Equal(AccessRule.OpensLater, book.Decide(MemberFacts.From([Hold()], Joined), new LessonId(2), Joined).Rule);
        Assert.Equal("open | open | open | WindowOver", Say(book, closes - Duration.Epsilon, Hold()));
        Assert.Equal("open | open | WindowOver | WindowOver", Say(book, closes, Hold()));
        Assert.Equal("open | 20 Nov 09:00 | open | open", Say(book, At(2026, 11, 20, 9) - Duration.Epsilon, Hold()));
        Assert.Equal("open | open | open | WindowOver", Say(book, At(2026, 11, 20), Hold()));
        // What can't open before it closes never does; a stranger hears the same.
        var joinsLate = At(2026, 11, 24);
        Assert.Equal("open | 25 Nov 09:00 | WindowOver | 27 Nov 09:00", Say(book, joinsLate, Hold(1, joinsLate)));
        Assert.Equal(AccessRule.WindowOver, book.Decide(MemberFacts.Nobody, new LessonId(3), closes).Rule);
        // The whole piece's window closes it for everybody, whoever keeps it too.
        var whole = Book(Course(whole: p => p.Window = new(null, closes)), Make.Pass(1, Of(keep: new Keep.WhatHadOpened())));
        Assert.Equal(AccessRule.WindowOver, whole.Decide(MemberFacts.From([Hold()], closes), new PieceId(1), closes).Rule);
    }

    [Fact]
    public void What_is_open_to_all_is_open_with_what_is_added_later()
    {
        var book = Book(Course(whole: p => p.OpenToAll = true), Make.Pass(1, Of(Weekly)));
        Assert.Equal("open | open | open | open", Say(book, Joined, MemberFacts.Nobody));
        Assert.Equal(AccessRule.OpenToAll, book.Decide(MemberFacts.Nobody, new PieceId(1), Joined).Rule);
        var coming = Book(Course(released: At(2026, 12, 1), whole: p => p.OpenToAll = true), Make.Pass(1, Of(Weekly)));
        Assert.Equal("1 Dec 09:00 | 1 Dec 09:00 | 1 Dec 09:00 | 1 Dec 09:00", Say(coming, Joined, MemberFacts.Nobody));
    }

    [Fact]
    public void An_inclusion_may_end_and_what_it_opened_may_stay_for_a_while()
    {
        var ends = At(2026, 11, 26, 20, 15);
        var book = Book(Course(), Make.Tier(1, 1, Of(Weekly, new Keep.ForPeriod(Period.Days(10)), ends: Period.Weeks(2))));
        Assert.Equal("open | 19 Nov 09:00 | 26 Nov 09:00 | EndsBefore", Say(book, Joined, Hold()));
        Assert.Equal("open | open | open | InclusionOver", Say(book, ends, Hold()));
        Assert.Equal("open | open | open | InclusionOver", Say(book, At(2026, 12, 6, 20, 15) - Duration.Epsilon, Hold()));
        Assert.Equal("InclusionOver | InclusionOver | InclusionOver | InclusionOver", Say(book, At(2026, 12, 6, 20, 15), Hold()));
        // Left before: what had opened by then stays for ten days from the end; from a refund nothing does.
        var left = At(2026, 11, 20);
        HoldingFact[] facts = [Make.Paid(Joined, left), Make.Leaving(Joined, left), Make.Ended(left)];
        Assert.Equal("open | open | HoldingOver | HoldingOver", Say(book, At(2026, 11, 29), Hold(1, Joined, facts)));
        Assert.Equal("HoldingOver | HoldingOver | HoldingOver | HoldingOver", Say(book, At(2026, 11, 30), Hold(1, Joined, facts)));
        Assert.Equal("HoldingOver | HoldingOver | HoldingOver | HoldingOver",
            Say(book, At(2026, 11, 21), Hold(1, Joined, Make.Paid(Joined, null), Make.Ended(left, EndReason.Refunded))));
    }

    [Fact]
    public void A_promise_may_ask_for_something_else_as_well()
    {
        var plan = Make.Pass(1, Of(needs: [new Need.HoldingPlan(new(2)), new Need.DoneLesson(new(1))]));
        // Lesson 1 itself is open through plan 2.
        var other = Make.Tier(2, 1, new Inclusion(new Coverage.OneLesson(new(1)), new Reach.EverythingReleased(), new Keep.Nothing()));
        var book = Book(Course(), plan, more: other);
        var done = new Dictionary<LessonId, Instant> { [new(1)] = Joined };
        Assert.Equal("NeedUnmet | NeedUnmet | NeedUnmet | NeedUnmet", Say(book, Joined, Hold()));
        Assert.Equal("NeedUnmet | NeedUnmet | NeedUnmet | NeedUnmet", Say(book, Joined, MemberFacts.From([Hold()], Joined, completed: done)));
        Assert.Equal("open | NeedUnmet | NeedUnmet | NeedUnmet", Say(book, Joined, Hold(), Hold(2)));
        Assert.Equal("open | open | open | open", Say(book, Joined, MemberFacts.From([Hold(), Hold(2)], Joined, completed: done)));
        var ended = Hold(2, null, Make.Paid(Joined, null), Make.Ended(At(2026, 11, 20)));
        Assert.Equal("NeedUnmet | NeedUnmet | NeedUnmet | NeedUnmet",
            Say(book, At(2026, 11, 20), MemberFacts.From([Hold(), ended], At(2026, 11, 20), completed: done)));
        // A whole piece counts as done when all of it that is out is.
        var whole = Book(Course(2), Make.Pass(1, Of(needs: [new Need.DonePiece(new(1))])));
        Assert.Equal("NeedUnmet | NeedUnmet", Say(whole, Joined, MemberFacts.From([Hold()], Joined, completed: done), 2));
        done[new(2)] = Joined;
        Assert.Equal("open | open", Say(whole, Joined, MemberFacts.From([Hold()], Joined, completed: done), 2));
    }

    [Fact]
    public void A_holding_lives_by_the_version_it_was_made_with_until_it_is_moved()
    {
        var plan = Make.Pass(1, Of(Weekly));
        plan.PromiseNumber = 2;
        plan.Earlier = [new(new(1), 1, At(2026, 1, 1), [Of(new Pace.AtOnce())], PromiseVersion.NoPaces)];
        var book = Book(Course(), plan);
        Holding By(int version)
        {
            var h = new Holding
            {
                Id = new(1),
                PlanId = new(1),
                StartsAt = Joined,
                PromiseNumber = version,
                Agreement = Agreement.ForNothing(Joined, Make.London)
            };
            h.Given(Joined);
            return h;
        }
        const string AtOnce = "open | open | open | open", Paced = "open | 19 Nov 09:00 | 26 Nov 09:00 | 3 Dec 09:00";
        Assert.Equal(AtOnce, Say(book, Joined, By(1)));
        Assert.Equal(Paced, Say(book, Joined, By(2)));
        var moved = By(1);
        var at = At(2026, 11, 13);
        moved.Moved(at, 2);
        Assert.Equal(AtOnce, Say(book, at - Duration.Epsilon, moved));
        Assert.Equal(Paced, Say(book, at, moved));
        moved.Moved(At(2026, 11, 14), 1);
        Assert.Equal(AtOnce, Say(book, At(2026, 11, 14), moved));
        Assert.Equal(1, moved.LivesBy);
        Assert.Equal(Paced, Say(book, Joined, MemberFacts.Imagined(plan, Joined)));
        Assert.Equal(AtOnce, Say(book, Joined, MemberFacts.Imagined(plan, Joined, promise: 1)));
        Assert.Equal(AtOnce, Say(book, Joined, MemberFacts.Imagined(plan, Joined, allAtOnce: true)));
    }

    [Fact]
    public void The_latest_editions_drop_out_one_by_one()
    {
        var editions = Enumerable.Range(1, 4).Select(m =>
        {
            var e = new Edition { Id = new(m), FirstDay = new(2026, m, 1), ReleaseAt = At(2026, m, 1), Scheduled = true };
            e.Release(e.ReleaseAt);
            return e;
        }).ToArray();
        Piece Of(long id, Edition? e, Instant at, bool dated = false)
        {
            var p = new Piece { Id = new(id), ShelfId = new(1), EditionId = e?.Id, Ready = true, Dated = dated };
            p.Release(at);
            return p;
        }
        Piece[] pieces = [.. editions.Select(e => Of(e.Id.Value, e, e.ReleaseAt)), Of(10, null, At(2026, 2, 10)), Of(11, null, At(2026, 2, 10), true),
            Of(12, null, At(2025, 12, 10), true)];
        var plan = Make.Tier(1, 1, new Inclusion(new Coverage.Everything(), new Reach.LastEditions(2), new Keep.WhatHadOpened()));
        var book = new AccessBook([plan], pieces, editions, [], London);
        string Now(Instant now, params HoldingFact[] facts) =>
            string.Join(" ", pieces.Select(p => book.Decide(MemberFacts.From([Hold(1, At(2026, 1, 15), facts)], now), p.Id, now).IsOpen ? 1 : 0));
        HoldingFact[] held = [Make.Paid(At(2026, 1, 15), null)];
        // January, February, March, April, standing, dated February, dated before all.
        Assert.Equal("0 1 1 0 1 1 0", Now(At(2026, 4, 1) - Duration.Epsilon, held));
        Assert.Equal("0 0 1 1 1 0 0", Now(At(2026, 4, 1), held));
        Assert.Equal("1 1 0 0 1 1 0", Now(At(2026, 2, 20), held));
        // What had opened by the end and was still in stays.
        HoldingFact[] left = [Make.Paid(At(2026, 1, 15), At(2026, 3, 10)), Make.Ended(At(2026, 3, 10))];
        Assert.Equal("0 1 1 0 1 1 0", Now(At(2026, 6, 1), left));
    }

    [Fact]
    public void Why_says_whose_turn_it_is_and_what_would_change_it()
    {
        var piece = Course();
        var book = Book(piece, Make.Pass(1, Of(Weekly)));
        var facts = MemberFacts.From([Hold()], Joined);
        var why = Why.Explain(book, facts, piece, piece.Outline.Lessons[3], Joined, London);
        Assert.Equal("Opens Thursday, 3 December at 09:00: part 4 of Wintering, one lesson every 7 days at 09:00 since 12 November 2026.", why.ForMember);
        Assert.Contains(why.RestsOn, r => r == "Pace: one lesson every 7 days at 09:00; part 4, counted from 12 November 2026");
        Assert.Equal([new WouldOpen.Waiting(At(2026, 12, 3))], why.WouldOpen);
        var after = Why.Explain(Book(piece, Make.Pass(1, Of(new Pace.AtOnce(true)))), facts, piece, piece.Outline.Lessons[2], Joined, London);
        Assert.Equal([new WouldOpen.Finishing(new(2))], after.WouldOpen);
    }

    // ---- Laid out along the time. ----

    static string Days(PaceLayout layout) => string.Join(
        ' ', layout.Rows.Select(r => (r.Day?.ToString(System.Globalization.CultureInfo.InvariantCulture) ?? "-")
        + (r.Usual is { } u ? $"({u})" : "")));

    [Fact]
    public void A_layout_counts_days_and_notices_what_falls_together_and_what_gapes()
    {
        var outline = Course(6).Outline;
        var none = new Dictionary<LessonId, int>();
        var plain = PaceLayout.Of(Weekly, outline, none, Joined, London);
        Assert.Equal("0 7 14 21 28 35", Days(plain));
        Assert.Empty(plain.Together);
        Assert.Empty(plain.Gaps);
        // Half as long again as usual is no gap yet; a day more is.
        var moved = PaceLayout.Of(new Pace.Steps(2, PaceUnit.Days, Nine), outline, new Dictionary<LessonId, int> { [new(5)] = 9, [new(6)] = 13 }, Joined,
            London);
        Assert.Equal("0 2 4 6 9(8) 13(10)", Days(moved));
        Assert.Equal([(9, 13)], moved.Gaps);
        var same = PaceLayout.Of(Weekly, outline, new Dictionary<LessonId, int> { [new(3)] = 7 }, Joined, London);
        Assert.Equal([2L, 3L], Assert.Single(same.Together).Select(r => r.Lesson.Id.Value));
        // The lessons of one module may; all at once is no coincidence either.
        Assert.Empty(PaceLayout.Of(new Pace.Steps(7, PaceUnit.Days, Nine, PacePart.Module), outline, none, Joined, London).Together);
        Assert.Empty(PaceLayout.Of(new Pace.AtOnce(true), outline, none, Joined, London).Together);
        var dates = PaceLayout.Of(new Pace.OnDates([new(2026, 12, 1, 9, 0), new(2026, 12, 24, 9, 0)]), outline, none, Joined, London);
        Assert.Equal("0 23 - - - -", Days(dates));
        Assert.Equal(4, dates.Undated);
        // An earlier turn is kept until it is laid out anew.
        var settled = Course(4, with: l => l.Step = l.Id.Value == 4 ? 2 : -1).Outline;
        Assert.Equal("0 7 14 14", Days(PaceLayout.Of(Weekly, settled, none, Joined, London)));
        Assert.Equal("0 7 14 21", Days(PaceLayout.Of(Weekly, settled, none, Joined, London, anew: true)));
    }

    [Fact]
    public void Who_says_the_pace_is_known()
    {
        var daily = new Pace.Steps(1, PaceUnit.Days, Nine);
        var none = new Dictionary<LessonId, int>();
        var plan = Make.Pass(1, Of(Weekly));
        plan.PaceOf = new Dictionary<PriceId, Pace> { [new(7)] = daily };
        PieceTimeline all = new(new(1), null, null, null, daily, none), own = new(new(1), new(1), null, null, daily, none);
        AccessBook With(params PieceTimeline[] lines) => Book(Course(), plan, lines, more: Make.Tier(2, 1, Of()));
        Assert.Equal((Weekly, PaceSaidBy.ThePromise), With(all).PaceOf(new(1), new(1), null));
        Assert.Equal((daily, PaceSaidBy.ThePrice), With(all).PaceOf(new(1), new(1), new(7)));
        Assert.Equal((daily, PaceSaidBy.ThePiece), With(all, own).PaceOf(new(1), new(1), new(7)));
        Assert.Equal((daily, PaceSaidBy.Everybodys), With(all).PaceOf(new(1), new(2), null));
        Assert.Equal((daily, PaceSaidBy.Everybodys), With(all).PaceOf(new(1), null, null));
        Assert.Equal((null, PaceSaidBy.Nobody), With().PaceOf(new(1), new(2), null));
        Assert.Equal((null, PaceSaidBy.Nobody), With().PaceOf(new(1), null, null));
    }

    [Fact]
    public void A_table_says_how_far_each_plan_opens_a_piece()
    {
        var piece = Course();
        static Inclusion On(Coverage covers, Reach? reach = null, Pace? pace = null) =>
            new(covers, reach ?? new Reach.EverythingReleased(), new Keep.Nothing(), pace);
        PromisedCell Cell(params Inclusion[] promise) => PromiseTable.Of(Make.Tier(1, 1, promise), piece, _ => null);
        Assert.Equal(new(PromisedWay.Open, false), Cell(On(new Coverage.Everything())));
        Assert.Equal(new(PromisedWay.Open, true), Cell(On(new Coverage.OnePiece(new(1)), pace: Weekly)));
        Assert.Equal(new(PromisedWay.FromJoining, false), Cell(On(new Coverage.OnShelf(new(1)), new Reach.FromJoining())));
        Assert.Equal(new(PromisedWay.WhilePaid, false), Cell(On(new Coverage.Everything(), new Reach.WhilePaid())));
        Assert.Equal(new(PromisedWay.Latest, false), Cell(On(new Coverage.Everything(), new Reach.LastEditions(2))));
        Assert.Equal(new(PromisedWay.Part, false), Cell(On(new Coverage.OneLesson(new(2)))));
        Assert.Equal(new(PromisedWay.Part, false), Cell(On(new Coverage.OneModule(new(1)))));
        Assert.Equal(new(PromisedWay.Not, false), Cell(On(new Coverage.OnShelf(new(2))), On(new Coverage.OnePiece(new(2))), On(new Coverage.OneLesson(new(99))),
            On(new Coverage.OneModule(new(9))), On(new Coverage.OneTally(new(1)))));
        // The most generous line; of two alike the one without a pace.
        Assert.Equal(new(PromisedWay.Open, false), Cell(On(new Coverage.Everything(), new Reach.FromJoining()), On(new Coverage.OnePiece(new(1)), pace: Weekly),
            On(new Coverage.OnShelf(new(1)))));
    }

    [Fact]
    public void Paces_and_promises_read_aloud()
    {
        Assert.Equal(["all at once", "each as soon as the one before it is done", "one lesson a day at 09:00", "one module every 2 weeks",
            "one lesson each weekday, from the start of their group", "one lesson on the first of each month, the first after 3 days",
            "one lesson a month, when the one before it is done", "one lesson on dates that aren’t named yet", "one lesson on 1 December 2026",
            "one module on 2 dates from 1 December 2026"],
            new Pace[]
            {
                new Pace.AtOnce(), new Pace.AtOnce(true), new Pace.Steps(1, PaceUnit.Days, Nine), new Pace.Steps(2, PaceUnit.Weeks, Part: PacePart.Module),
                new Pace.Steps(1, PaceUnit.Weekdays, From: PaceFrom.Cohort), new Pace.Steps(1, PaceUnit.FirstsOfMonth, Lead: 3),
                new Pace.Steps(1, PaceUnit.Months, AfterPrevious: true), new Pace.OnDates([]), new Pace.OnDates([new(2026, 12, 1, 9, 0)]),
                new Pace.OnDates([new(2026, 12, 1, 9, 0), new(2026, 12, 2, 9, 0)], PacePart.Module),
            }.Select(PaceWords.Describe));
        Assert.Equal("this piece in the latest 2 editions, one lesson every 7 days at 09:00, for 3 months from joining, with another plan as well; "
            + "what has opened stays for 30 days after you leave",
            PromiseWords.Describe(Of(Weekly, new Keep.ForPeriod(Period.Days(30)), new Reach.LastEditions(2), Period.Months(3), new Need.HoldingPlan(new(2)))));
        Assert.Equal(Period.Months(3), PromiseWords.Lasts([Of(ends: Period.Weeks(9)), Of(ends: Period.Months(3))]));
        Assert.Null(PromiseWords.Lasts([Of(ends: Period.Weeks(9)), Of()]));
        Assert.Null(PromiseWords.Lasts([]));
    }
}
