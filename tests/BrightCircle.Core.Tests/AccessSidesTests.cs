using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>Each side of what access compares: which rules open, which of two refusals is told, what a book asks for, and what a change does.</summary>
public class AccessSidesTests
{
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant At(int month, int day, int hour = 9) => London.At(new(2026, month, day, hour, 0));
    static readonly Inclusion All = new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing());

    static readonly AccessRule[] Opening = [AccessRule.Team, AccessRule.Teaser, AccessRule.OpenToAll, AccessRule.EverythingReleased, AccessRule.SinceJoining,
        AccessRule.CurrentWhenJoining, AccessRule.StandingContent, AccessRule.InPaidTime, AccessRule.InLatestEditions, AccessRule.KeptAfterLeaving,
        AccessRule.WhileHeld];
    /// <summary>Refusals, each nearer to opening than the one before.</summary>
    static readonly AccessRule[] Refusals = [AccessRule.NothingHeld, AccessRule.NotCovered, AccessRule.BeforeJoining, AccessRule.OutOfLatest,
        AccessRule.OutsidePaidTime, AccessRule.EndsBefore, AccessRule.HoldingOver, AccessRule.InclusionOver, AccessRule.WindowOver, AccessRule.NeedUnmet,
        AccessRule.NoDateYet, AccessRule.PreviousFirst, AccessRule.NoPlace];

    [Fact]
    public void Every_rule_opens_or_refuses_and_refusals_have_their_order()
    {
        foreach (var rule in Enum.GetValues<AccessRule>())
        {
            Assert.Equal(Opening.Contains(rule), rule.Opens());
            if (!Refusals.Contains(rule)) Assert.Throws<ArgumentOutOfRangeException>(() => rule.Nearness());
        }
        Assert.Equal(Enumerable.Range(0, Refusals.Length), Refusals.Select(r => r.Nearness()));
        Assert.Equal([AccessRule.NeedUnmet, AccessRule.NoDateYet, AccessRule.PreviousFirst, AccessRule.NoPlace],
            Enum.GetValues<AccessRule>().Where(r => r.IsHeldBack()));
    }

    static Piece Course(long id, Instant out_, Window? window = null, params Window?[] lessons)
    {
        var piece = new Piece { Id = new(id), ShelfId = new(1), Title = $"Piece {id}", Ready = true, Window = window };
        piece.Release(out_);
        piece.Attach(Outline.Of([], (lessons.Length == 0 ? [null] : lessons).Select((w, i) =>
        {
            var l = new Lesson { Id = new(id * 10 + i), PieceId = piece.Id, Position = i, Ready = true, Window = w };
            l.Release(out_);
            return l;
        })));
        return piece;
    }

    static AccessBook Book(Inclusion line, PieceTimeline? timeline = null, Piece? piece = null, params Inclusion[] earlier)
    {
        var plan = Make.Tier(1, 1, line);
        if (earlier.Length > 0) (plan.PromiseNumber, plan.Earlier) = (2, [new(plan.Id, 1, default, earlier, PromiseVersion.NoPaces)]);
        return new([plan, Make.Tier(2, 2, All)], [piece ?? Course(1, At(1, 1))], [], [], London, timeline is null ? [] : [timeline]);
    }

    static PieceTimeline Timeline(Pace pace, PlanId? plan = null) => new(new(1), plan, null, null, pace, new Dictionary<LessonId, int>());
    static readonly Pace Weekly = new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0)), Whenever = new Pace.Steps(7, PaceUnit.Days);

    [Fact]
    public void A_book_knows_for_which_plans_the_start_matters_and_whether_it_asks_what_is_done()
    {
        PlanId one = new(1), two = new(2);
        void Knows(AccessBook book, PlanId[] paced, PlanId[] exact, bool done) =>
            Assert.Equal((paced, exact, done), ([.. book.Paced.OrderBy(p => p.Value)], [.. book.ExactPlans.Distinct().OrderBy(p => p.Value)],
                book.AsksForDone), SameKnown);
        Knows(Book(All), [], [], false);
        Knows(Book(All with { Pace = new Pace.AtOnce() }), [], [], false);
        Knows(Book(All with { Pace = Weekly }), [one], [], false);
        Knows(Book(All with { Pace = Whenever }), [one], [one], false);
        Knows(Book(All with { Pace = new Pace.AtOnce(AfterPrevious: true) }), [one], [one], true);
        Knows(Book(All with { Pace = new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0), AfterPrevious: true) }), [one], [], true);
        Knows(Book(All with { Ends = Period.Months(1) }), [], [one], false);
        Knows(Book(All with { Keep = new Keep.ForPeriod(Period.Days(3)) }), [], [one], false);
        Knows(Book(All with { Needs = [new Need.HoldingPlan(two)] }), [], [], false);
        Knows(Book(All with { Needs = [new Need.DoneLesson(new(10))] }), [], [], true);
        Knows(Book(All with { Needs = [new Need.HoldingPlan(two), new Need.DonePiece(new(1))] }), [], [], true);
        Knows(Book(All, Timeline(Weekly)), [one, two], [], false);
        Knows(Book(All, Timeline(Weekly, two)), [two], [], false);
        Knows(Book(All, Timeline(Whenever, one)), [one], [one], false);
        Knows(Book(All, null, Course(1, At(1, 1), new Window(Days: 3))), [], [one, two], false);
        // What somebody may still live by counts as well.
        Knows(Book(All, null, null, All with { Pace = Whenever }), [one], [one], false);
        Knows(Book(All, null, null, All with { Needs = [new Need.DoneLesson(new(10))] }), [], [], true);
    }

    static bool SameKnown((PlanId[] Paced, PlanId[] Exact, bool Done) a, (PlanId[] Paced, PlanId[] Exact, bool Done) b) =>
        a.Paced.SequenceEqual(b.Paced) && a.Exact.SequenceEqual(b.Exact) && a.Done == b.Done;

    static MemberFacts Since(Instant start, Instant now) => MemberFacts.From([Holding.Imagined(Make.Tier(1, 1), null, start, Make.London)], now);

    [Fact]
    public void What_will_open_is_told_soonest_first_without_what_is_open_or_has_no_date()
    {
        var now = At(11, 20);
        var course = Course(1, At(10, 1), null, null, new Window(From: At(12, 24)), new Window(From: At(12, 1)), new Window(Until: At(11, 1)));
        var alone = new Piece { Id = new(2), ShelfId = new(1), Ready = true, OpensAt = At(12, 10) };
        AccessBook book = new([Make.Tier(1, 1, All)], [course, alone], [], [], London);
        var found = book.OpeningsOf(Since(At(11, 1), now), now);
        Assert.Equal([(ThingKind.Lesson, 12L, At(12, 1)), (ThingKind.Piece, 2L, At(12, 10)), (ThingKind.Lesson, 11L, At(12, 24))],
            found.Select(o => (o.Thing.Kind, o.Thing.Id, o.At)));
        Assert.Empty(book.OpeningsOf(MemberFacts.Nobody, now));
        // At the very moment it is open and not told any more.
        Assert.Equal(2, book.OpeningsOf(Since(At(11, 1), At(12, 1)), At(12, 1)).Count);
        Assert.Equal(3, book.OpeningsOf(Since(At(11, 1), At(12, 1) - Duration.FromSeconds(1)), At(12, 1) - Duration.FromSeconds(1)).Count);
        // By a pace parts that are out open later too.
        AccessBook paced = new([Make.Tier(1, 1, All with { Pace = Weekly })], [Course(1, At(10, 1), null, null, null, null)], [], [], London);
        Assert.Equal([11L, 12L], paced.OpeningsOf(Since(At(11, 18), now), now).Select(o => o.Thing.Id));
    }

    /// <summary>Opens, closes, sooner, later, and the longest move in days, of changing from one line to another.</summary>
    static (int, int, int, int, double) Change(Inclusion before, Inclusion after, Instant joined, params Window?[] lessons)
    {
        var now = At(11, 20);
        AccessBook Of(Inclusion line) => new([Make.Tier(1, 1, line)], [Course(1, At(10, 1), null, lessons)], [], [new TallyId(5)], London);
        var difference = new AccessDifference(Of(before), Of(after), now);
        var effect = difference.Of(Since(joined, now));
        var changes = difference.ChangesFor(Since(joined, now)).ToArray();
        Assert.Equal(effect.Opens + effect.Closes + effect.Moves, changes.Length);
        Assert.Equal(effect.IsNone, changes.Length == 0);
        return (effect.Opens, effect.Closes, effect.Sooner, effect.Later, effect.Furthest.TotalDays);
    }

    [Fact]
    public void A_change_opens_closes_and_moves_sooner_and_later_by_so_much()
    {
        Inclusion Every(int days) => All with { Pace = new Pace.Steps(days, PaceUnit.Days, new LocalTime(9, 0)) };
        Window?[] three = [null, null, null];
        var joined = At(11, 20, 8);
        var lesson = All with { Covers = new Coverage.OneLesson(new(12)) };
        Assert.Equal((0, 0, 0, 0, 0), Change(Every(7), Every(7), joined, three));
        // The second and the third part: by four and by eight days.
        Assert.Equal((0, 0, 2, 0, 8), Change(Every(7), Every(3), joined, three));
        Assert.Equal((0, 0, 0, 2, 8), Change(Every(3), Every(7), joined, three));
        Assert.Equal((2, 0, 0, 0, 0), Change(Every(7), All, joined, three));
        Assert.Equal((0, 2, 0, 0, 0), Change(All, Every(7), joined, three));
        // From never to a day, and back: moved, by no length that could be told; the piece itself, its first part and the tally open and close.
        Assert.Equal((3, 0, 2, 0, 0), Change(All with { Covers = new Coverage.OnShelf(new(9)) }, Every(7), joined, three));
        Assert.Equal((0, 3, 0, 2, 0), Change(Every(7), All with { Covers = new Coverage.OnShelf(new(9)) }, joined, three));
        Assert.Equal((0, 4, 0, 0, 0), Change(All, lesson, joined, three));
    }

    [Fact]
    public void People_are_decided_together_only_where_nothing_can_tell_them_apart()
    {
        var now = At(11, 20);
        int Decided(AccessBook before, params MemberFacts[] people)
        {
            var difference = new AccessDifference(before, Book(All), now);
            foreach (var p in people) difference.Of(p);
            return difference.Decided;
        }
        Piece[] pieces = [Course(1, At(10, 1)), Course(2, At(11, 1))];
        AccessBook Reaching(Reach reach) => new([Make.Tier(1, 1, All with { Reach = reach })], pieces, [], [], London);
        // Between two releases it doesn't matter when; on either side, and at the very moment, it does.
        Assert.Equal(1, Decided(Reaching(new Reach.FromJoining()), Since(At(10, 2), now), Since(At(10, 30), now)));
        Assert.Equal(2, Decided(Reaching(new Reach.FromJoining()), Since(At(10, 30), now), Since(At(11, 2), now)));
        Assert.Equal(3, Decided(Reaching(new Reach.FromJoining()), Since(At(11, 1) - Duration.FromTicks(1), now), Since(At(11, 1), now),
            Since(At(11, 1) + Duration.FromTicks(1), now)));
        // By a pace with a time of day the day counts, by one without it the moment.
        Assert.Equal(1, Decided(Book(All with { Pace = Weekly }), Since(At(11, 2, 8), now), Since(At(11, 2, 20), now)));
        Assert.Equal(2, Decided(Book(All with { Pace = Weekly }), Since(At(11, 2), now), Since(At(11, 3), now)));
        Assert.Equal(2, Decided(Book(All with { Pace = Whenever }), Since(At(11, 2, 8), now), Since(At(11, 2, 20), now)));
        // What is done only where it is asked for; places and the team always.
        MemberFacts Done(Instant at) => MemberFacts.From([Holding.Imagined(Make.Tier(1, 1), null, At(11, 2), Make.London)], now, null,
            new Dictionary<LessonId, Instant> { [new(10)] = at });
        Assert.Equal(1, Decided(Book(All), Done(At(11, 3)), Done(At(11, 4))));
        Assert.Equal(2, Decided(Book(All with { Needs = [new Need.DoneLesson(new(10))] }), Done(At(11, 3)), Done(At(11, 4))));
        MemberFacts Placed(params PieceId[] places) =>
            MemberFacts.From([Holding.Imagined(Make.Tier(1, 1), null, At(11, 2), Make.London)], now, places.ToHashSet());
        Assert.Equal(2, Decided(Book(All), Placed(), Placed(new PieceId(1)), Placed(new PieceId(1))));
        Assert.Equal(2, Decided(Book(All), MemberFacts.Team, MemberFacts.Team, MemberFacts.Nobody));
    }
}
