using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>Who may read in a space, and who may write.</summary>
public class SpaceAccessTests
{
    static readonly SpaceId Bench = new(5), Other = new(6);
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant At(int month, int day, int hour = 0) => London.At(new LocalDateTime(2026, month, day, hour, 0));
    static Inclusion To(Coverage covers, Keep? keep = null, Pace? pace = null) => new(covers, new Reach.EverythingReleased(), keep ?? new Keep.Nothing(), pace);

    static AccessBook Book(bool forGuests, params Inclusion[] promise) =>
        new([Make.Tier(1, 1, promise)], [], [], null, London, spaces: [(Bench, forGuests), (Other, false)]);

    static MemberFacts Holds(Instant from, Instant? to = null) =>
        MemberFacts.From([Make.Holding(1, from, facts: to is { } end ? [Make.Paid(from, end), Make.Ended(end)] : [Make.Paid(from, null)])], At(12, 31));

    static bool Reads(AccessBook book, MemberFacts facts, Instant at, SpaceId? space = null) => book.Decide(facts, space ?? Bench, at).IsOpen;
    static bool Writes(AccessBook book, MemberFacts facts, Instant at) => book.Decide(facts, Thing.WritingIn(Bench), at).IsOpen;

    [Fact]
    public void Whoever_holds_what_promises_it_reads_and_writes_until_it_ends()
    {
        var book = Book(false, To(new Coverage.OneSpace(Bench)));
        var facts = Holds(At(3, 1), At(6, 1));
        Instant[] moments = [At(3, 1), At(6, 1) - Duration.Epsilon, At(6, 1)];
        Assert.Equal([true, true, false], moments.Select(at => Reads(book, facts, at)));
        Assert.Equal([true, true, false], moments.Select(at => Writes(book, facts, at)));
        // Another space isn't theirs for that.
        Assert.False(Reads(book, facts, At(4, 1), Other));
        Assert.False(Reads(book, MemberFacts.Nobody, At(4, 1)));
        Assert.True(Reads(book, MemberFacts.Team, At(4, 1), Other));
    }

    [Fact]
    public void To_read_along_is_not_to_write_and_who_keeps_it_after_leaving_reads()
    {
        var along = Book(false, To(new Coverage.OneSpace(Bench, ReadOnly: true)));
        Assert.True(Reads(along, Holds(At(3, 1)), At(4, 1)));
        Assert.False(Writes(along, Holds(At(3, 1)), At(4, 1)));
        // The more generous of two lines counts.
        var both = Book(false, To(new Coverage.OneSpace(Bench, ReadOnly: true)), To(new Coverage.OneSpace(Bench)));
        Assert.True(Writes(both, Holds(At(3, 1)), At(4, 1)));

        var kept = Book(false, To(new Coverage.OneSpace(Bench), new Keep.ForPeriod(Period.Months(1))));
        var left = Holds(At(3, 1), At(6, 1));
        Assert.Equal((true, true), (Reads(kept, left, At(5, 31)), Writes(kept, left, At(5, 31))));
        Assert.Equal((true, false), (Reads(kept, left, At(6, 30)), Writes(kept, left, At(6, 30))));
        Assert.False(Reads(kept, left, At(7, 1)));
    }

    [Fact]
    public void Everything_on_the_shelves_is_no_space_and_guests_come_in_where_they_may()
    {
        var everything = Book(false, To(new Coverage.Everything()), To(new Coverage.OnShelf(new(5))), To(new Coverage.OnePiece(new(5))),
            To(new Coverage.OneTally(new(5))), To(new Coverage.OneLesson(new(5))), To(new Coverage.OneModule(new(5))));
        Assert.False(Reads(everything, Holds(At(3, 1)), At(4, 1)));
        Assert.False(Writes(everything, Holds(At(3, 1)), At(4, 1)));
        var open = Book(true);
        Assert.True(Reads(open, MemberFacts.Nobody, At(4, 1)));
        Assert.True(Writes(open, MemberFacts.Nobody, At(4, 1)));
        Assert.False(Reads(open, MemberFacts.Nobody, At(4, 1), Other));
    }

    [Fact]
    public void A_space_can_open_some_days_after_joining()
    {
        var book = Book(false, To(new Coverage.OneSpace(Bench), pace: new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0), Lead: 3)));
        var facts = Holds(At(3, 1, 12));
        Assert.False(Reads(book, facts, At(3, 4, 9) - Duration.Epsilon));
        Assert.True(Reads(book, facts, At(3, 4, 9)));
        Assert.Equal(At(3, 4, 9), book.Decide(facts, Bench, At(3, 2)).OpensAt);
        // Nothing that opens is announced as a lesson.
        Assert.Empty(book.OpeningsOf(facts, At(3, 2)));
    }

    [Fact]
    public void A_promise_of_a_space_reads_well()
    {
        Assert.Equal("the space, to read along", PromiseWords.Describe(To(new Coverage.OneSpace(Bench, true))));
        Assert.Equal("the space The bench", PromiseWords.Describe(To(new Coverage.OneSpace(Bench)), _ => "the space The bench"));
        Assert.Equal(PieceCovering.Not, PromiseTable.Covering(new Coverage.OneSpace(Bench), new() { Id = new(5), ShelfId = new(5) }));
        // What stays after leaving is about what stands on the shelves.
        Assert.Equal("When you leave, everything that had opened for you stays open.",
            PromiseWords.AfterLeaving(Make.Tier(1, 1, To(new Coverage.Everything(), new Keep.WhatHadOpened()), To(new Coverage.OneSpace(Bench)))));
    }

    [Fact]
    public void The_team_begins_what_it_announces_and_nobody_begins_in_a_closed_space()
    {
        Assert.True(new Space().TakesThreads(false));
        Assert.Equal((false, true), (new Space { Kind = SpaceKind.Announcements }.TakesThreads(false), new Space
        {
            Kind =
            SpaceKind.Announcements
        }.TakesThreads(true)));
        Assert.False(new Space { ClosedAt = At(3, 1) }.TakesThreads(true));
    }

    /// <summary>A space of a piece opens with it, and to write in: by the piece, or by a promise of the space; whichever is more.</summary>
    [Theory]
    [InlineData(false, false, false, false, false, false)]
    [InlineData(true, false, false, false, true, true)]
    [InlineData(false, true, false, false, true, true)]
    [InlineData(false, true, true, false, true, false)]
    [InlineData(true, true, true, false, true, true)]
    [InlineData(true, false, false, true, true, false)]
    [InlineData(false, true, false, true, true, false)]
    public void A_space_of_a_piece_opens_with_it(bool piece, bool space, bool along, bool closed, bool reads, bool writes)
    {
        var one = new Piece { Id = new(7), ShelfId = new(1), Title = "Checks", Ready = true };
        one.Release(At(1, 1));
        Inclusion[] promise = [.. piece ? [To(new Coverage.OnePiece(one.Id))] : Array.Empty<Inclusion>(),
            .. space ? [To(new Coverage.OneSpace(Bench, along))] : Array.Empty<Inclusion>()];
        var book = new AccessBook([Make.Tier(1, 1, promise)], [one], [], null, London, spaces: [(Bench, false)]);
        var room = new Space { Id = Bench, PieceId = one.Id, ClosedAt = closed ? At(2, 1) : null };
        Assert.Equal((reads, writes), room.OpenTo(book, Holds(At(3, 1)), At(4, 1)));
        Assert.Equal((space && reads, space && writes && !along), new Space { Id = Bench, ClosedAt = room.ClosedAt }.OpenTo(book, Holds(At(3, 1)), At(4, 1)));
        Assert.Equal((false, false), room.OpenTo(book, MemberFacts.Nobody, At(4, 1)));
        Assert.Equal((true, !closed), room.OpenTo(book, MemberFacts.Team, At(4, 1)));
    }

    /// <summary>A course of two lessons, out since January, and a pass for it.</summary>
    static AccessBook Course(Pace? pace, Keep? keep = null, bool toAll = false, IEnumerable<PieceTimeline>? timelines = null)
    {
        var one = new Piece { Id = new(7), ShelfId = new(1), Title = "Checks", Ready = true, OpenToAll = toAll };
        one.Release(At(1, 1));
        var lessons = Enumerable.Range(1, 2).Select(n =>
        {
            var lesson = new Lesson { Id = new(n), PieceId = one.Id, Position = n, Title = $"Lesson {n}", Ready = true };
            lesson.Release(At(1, 1));
            return lesson;
        });
        one.Attach(Outline.Of([], [.. lessons]));
        Cohort[] cohorts = [new(new(1), one.Id, "March", At(3, 10)), new(new(2), one.Id, "May", At(5, 10))];
        return new([Make.Tier(1, 1, To(new Coverage.OnePiece(one.Id), keep, pace))], [one], [], null, London, timelines, cohorts, spaces: [(Bench, false)]);
    }

    static readonly Pace Together = new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0), From: PaceFrom.Cohort);
    static (bool, bool) In(AccessBook book, int cohort, MemberFacts facts, Instant at) =>
        new Space { Id = Bench, PieceId = new(7), CohortId = new(cohort) }.OpenTo(book, facts, at);
    static readonly (bool, bool) Out = (false, false), Talks = (true, true), Along = (true, false);

    [Fact]
    public void A_space_of_a_cohort_opens_to_those_who_start_with_it()
    {
        var book = Course(Together);
        var (march, may) = (Holds(At(3, 1)), Holds(At(3, 11)));
        // Also before it starts, while the first lesson waits.
        Assert.Equal((Talks, Out), (In(book, 1, march, At(3, 1)), In(book, 2, march, At(3, 1))));
        Assert.False(book.Decide(march, new LessonId(1), At(3, 1)).IsOpen);
        Assert.Equal((Out, Talks), (In(book, 1, may, At(4, 1)), In(book, 2, may, At(4, 1))));
        // Whoever joins after the last has begun goes with the last.
        Assert.Equal((Out, Talks), (In(book, 1, Holds(At(6, 1)), At(6, 1)), In(book, 2, Holds(At(6, 1)), At(6, 1))));
        Assert.Equal((Out, Talks), (In(book, 1, MemberFacts.Nobody, At(4, 1)), In(book, 1, MemberFacts.Team, At(4, 1))));
        // Another space of the piece is for all of them.
        Assert.Equal(Talks, new Space { Id = Bench, PieceId = new(7) }.OpenTo(book, may, At(4, 1)));
        Assert.Equal(Out, new Space { Id = Bench, PieceId = new(8), CohortId = new(1) }.OpenTo(book, march, At(4, 1)));
    }

    [Fact]
    public void Who_goes_at_their_own_pace_is_of_no_cohort_unless_they_were_put_into_one()
    {
        foreach (var pace in new Pace?[] { null, new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0)) })
        {
            var book = Course(pace);
            Assert.Equal((Out, Out), (In(book, 1, Holds(At(3, 1)), At(4, 1)), In(book, 2, Holds(At(3, 1)), At(4, 1))));
            var put = MemberFacts.From([Make.Holding(1, At(3, 1), facts: [Make.Paid(At(3, 1), null)])], At(12, 31),
                cohorts: new HashSet<CohortId> { new(2) });
            Assert.Equal((Out, Talks), (In(book, 1, put, At(4, 1)), In(book, 2, put, At(4, 1))));
        }
        // A timeline of the cohort's own is a pace with it.
        var own = new PieceTimeline(new(7), null, null, new(1), new Pace.Steps(1, PaceUnit.Days), new Dictionary<LessonId, int>());
        Assert.Equal((Talks, Out), (In(Course(null, timelines: [own]), 1, Holds(At(3, 1)), At(4, 1)),
            In(Course(null, timelines: [own]), 1, Holds(At(3, 11)), At(4, 1))));
        // What everybody may read makes nobody one of them.
        Assert.Equal(Out, In(Course(Together, toAll: true), 1, MemberFacts.Nobody, At(4, 1)));
        Assert.Equal(Talks, In(Course(Together, toAll: true), 1, Holds(At(3, 1)), At(4, 1)));
    }

    [Fact]
    public void Who_left_and_keeps_the_piece_reads_what_is_said_about_it_and_does_not_write()
    {
        var book = Course(Together, new Keep.WhatHadOpened());
        var left = Holds(At(3, 1), At(6, 1));
        Instant[] moments = [At(6, 1) - Duration.Epsilon, At(6, 1), At(7, 1)];
        Assert.Equal([Talks, Along, Along], moments.Select(at => In(book, 1, left, at)));
        var whole = new Space { Id = Bench, PieceId = new(7) };
        Assert.Equal([Talks, Along, Along], moments.Select(at => whole.OpenTo(book, left, at)));
        // Back again, by another holding: the more generous of the two counts.
        MemberFacts Back(Instant asOf) => MemberFacts.From([Make.Holding(1, At(3, 1), facts: [Make.Paid(At(3, 1), At(6, 1)), Make.Ended(At(6, 1))]),
            Make.Holding(1, At(8, 1), facts: [Make.Paid(At(8, 1), null)])], asOf);
        Assert.Equal((Along, Talks), (whole.OpenTo(book, Back(At(7, 1)), At(7, 1)), whole.OpenTo(book, Back(At(8, 1)), At(8, 1))));
        Assert.Equal(Out, In(Course(Together), 1, left, At(6, 1)));
    }
}
