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

/// <summary>Access in detail: what tells two people apart, what facts become, which parts of a piece count, and what the whys name.</summary>
public class AccessDetailTests
{
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant At(int month, int day, int hour = 9) => London.At(new(2026, month, day, hour, 0));
    static readonly Duration Tick = Duration.FromTicks(1);
    static readonly Inclusion All = new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing());
    static readonly Pace Weekly = new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0)), Whenever = new Pace.Steps(7, PaceUnit.Days);

    static Piece Course(long id, Instant? released, int lessons = 3, bool ready = true, Action<Lesson>? each = null, long? edition = null)
    {
        var piece = new Piece { Id = new(id), ShelfId = new(1), Title = $"Piece {id}", Ready = ready, EditionId = edition is { } e ? new(e) : null };
        if (released is { } at) piece.Release(at);
        piece.Attach(Outline.Of([], Enumerable.Range(0, lessons).Select(i =>
        {
            var l = new Lesson { Id = new(id * 10 + i), PieceId = piece.Id, Position = i, Ready = true };
            if (released is { } out_) l.Release(out_);
            each?.Invoke(l);
            return l;
        })));
        return piece;
    }

    static AccessBook Book(Inclusion line, params Piece[] pieces) => new([Make.Tier(1, 1, line), Make.Tier(2, 2, All)], pieces, [],
        [new TallyId(5), new TallyId(6)], London);

    static MemberFacts.Held Held(Instant start) => MemberFacts.Joining(new(1), start) with { Promise = 1 };
    static MemberFacts Facts(params MemberFacts.Held[] held) => With(null, null, null, held);
    static MemberFacts Done(IReadOnlyDictionary<LessonId, Instant>? done) => With(null, done, null);
    static MemberFacts With(IReadOnlySet<PieceId>? places, IReadOnlyDictionary<LessonId, Instant>? done, IReadOnlySet<CohortId>? cohorts,
        params MemberFacts.Held[] held) => new(held, At(12, 1), false, places ?? new HashSet<PieceId>(), done ?? new Dictionary<LessonId, Instant>(),
            cohorts ?? new HashSet<CohortId>());

    static void Alike(AccessBook book, bool alike, MemberFacts a, MemberFacts b)
    {
        var key = new FactsKey(book, Book(All, [.. Pieces]));
        Assert.True(alike == (key.Of(a) == key.Of(b)), $"{key.Of(a)} and {key.Of(b)}");
    }

    static readonly Piece[] Pieces = [Course(1, At(10, 1)), Course(2, At(11, 1))];

    [Fact]
    public void What_no_decision_can_tell_apart_has_one_name_and_all_else_its_own()
    {
        var plain = Book(All, Pieces);
        var start = At(10, 10);
        var held = Held(start);
        // Between two moments that matter; before the first, on it, between, on the next, after the last.
        Alike(plain, true, Facts(held), Facts(Held(start + Tick)));
        Instant[] places = [At(9, 1), At(10, 1), At(10, 15), At(11, 1), At(12, 15)];
        foreach (var (a, i) in places.Select((a, i) => (a, i)))
            foreach (var (b, j) in places.Select((b, j) => (b, j))) Alike(plain, i == j, Facts(Held(a)), Facts(Held(b)));
        Alike(plain, false, Facts(held), Facts(held with { Promise = 2 }));
        Alike(plain, false, Facts(held), Facts(held with { Plan = new(2) }));
        Alike(plain, false, Facts(held), Facts(held with { Price = new PriceId(4) }));
        Alike(plain, false, Facts(held), Facts(held with { AllAtOnce = true }));
        Alike(plain, false, Facts(held), Facts(held with { KeepsNothing = true }));
        Alike(plain, false, Facts(held), Facts(held with { Begins = At(12, 5) }));
        Alike(plain, false, Facts(held with { Until = At(10, 15) }), Facts(held with { Until = At(11, 15) }));
        Alike(plain, true, Facts(held with { Until = At(10, 15) }), Facts(held with { Until = At(10, 16) }));
        Alike(plain, false, Facts(held with { LastPaid = At(10, 15) }), Facts(held with { LastPaid = At(11, 15) }));
        Alike(plain, true, Facts(held with { LastPaid = At(10, 15) }), Facts(held with { LastPaid = At(10, 16) }));
        MemberFacts.Held Paid(Instant from, Instant to) => held with { Paid = [new(from, to)] };
        Alike(plain, false, Facts(Paid(At(9, 1), At(10, 15))), Facts(Paid(At(10, 1), At(10, 15))));
        Alike(plain, false, Facts(Paid(At(9, 1), At(10, 15))), Facts(Paid(At(9, 1), At(11, 15))));
        Alike(plain, true, Facts(Paid(At(9, 1), At(10, 15))), Facts(Paid(At(9, 2), At(10, 16))));
        // Whose the stretches are, of two that are held.
        Alike(plain, false, Facts(held with { Paid = [] }, Paid(At(9, 1), At(10, 15))), Facts(Paid(At(9, 1), At(10, 15)), held with { Paid = [] }));
        Alike(plain, false, Facts(held), Facts(held, held));
        Alike(plain, false, Facts(), Facts(held));
        Alike(plain, true, With(new HashSet<PieceId> { new(1), new(2) }, null, null), With(new HashSet<PieceId> { new(2), new(1) }, null, null));
        Alike(plain, false, With(new HashSet<PieceId> { new(1) }, null, null), With(new HashSet<PieceId> { new(2) }, null, null));
        Alike(plain, false, With(null, null, new HashSet<CohortId> { new(1) }), With(null, null, new HashSet<CohortId> { new(2) }));
        Alike(plain, true, Facts(held with { Pauses = [(At(10, 1), At(10, 5))] }), Facts(held));
    }

    [Fact]
    public void By_a_pace_the_moments_themselves_tell_people_apart()
    {
        var paced = Book(All with { Pace = Weekly }, Pieces);
        var held = Held(At(10, 10));
        Alike(paced, true, Facts(held), Facts(held with { PaceFrom = At(10, 10, 20) }));
        Alike(paced, false, Facts(held), Facts(held with { PaceFrom = At(10, 11) }));
        Alike(paced, false, Facts(held with { Until = At(10, 15) }), Facts(held with { Until = At(10, 15) + Tick }));
        Alike(paced, false, Facts(held with { LastPaid = At(10, 15) }), Facts(held with { LastPaid = At(10, 15) + Tick }));
        Alike(paced, false, Facts(held with { Pauses = [(At(10, 1), At(10, 5))] }), Facts(held));
        Alike(paced, false, Facts(held with { Pauses = [(At(10, 1), At(10, 5))] }), Facts(held with { Pauses = [(At(10, 1), At(10, 6))] }));
        Alike(paced, false, Facts(held with { Pauses = [(At(10, 1), At(10, 5))] }), Facts(held with { Pauses = [(At(10, 2), At(10, 5))] }));
        // Of a plan without a pace nobody's moment counts.
        var other = MemberFacts.Joining(new(2), At(10, 10)) with { Promise = 1 };
        Alike(paced, true, Facts(other), Facts(other with { PaceFrom = At(10, 11), Until = Instant.MaxValue }));

        var exact = Book(All with { Pace = Whenever }, Pieces);
        Alike(exact, false, Facts(held), Facts(held with { PaceFrom = held.PaceFrom + Tick }));
        Alike(exact, false, Facts(Held(At(10, 10))), Facts(Held(At(10, 10)) with { Start = At(10, 10) + Tick }));
        // A length from joining: the start and the end to the tick, the paid stretches as ever.
        var lasting = Book(All with { Ends = Period.Months(1) }, Pieces);
        Alike(lasting, false, Facts(held), Facts(held with { Start = held.Start + Tick }));
        Alike(lasting, false, Facts(held with { Until = At(10, 15) }), Facts(held with { Until = At(10, 15) + Tick }));
        Alike(lasting, false, Facts(held with { Until = At(10, 15) }), Facts(held with { Until = Instant.MaxValue }));
        Alike(lasting, true, Facts(held with { Paid = [new(At(9, 1), At(10, 15))] }), Facts(held with { Paid = [new(At(9, 2), At(10, 16))] }));
        Alike(lasting, true, Facts(held with { PaceFrom = At(10, 10) }), Facts(held with { PaceFrom = At(10, 11) }));
    }

    [Fact]
    public void What_is_done_is_named_in_one_order_where_it_is_asked_for()
    {
        var asks = Book(All with { Needs = [new Need.DoneLesson(new(10))] }, Pieces);
        Dictionary<LessonId, Instant> one = new() { [new(10)] = At(10, 1), [new(11)] = At(10, 2) },
            other = new() { [new(11)] = At(10, 2), [new(10)] = At(10, 1) };
        Alike(asks, true, Done(one), Done(other));
        Alike(asks, false, Done(one), Done(new Dictionary<LessonId, Instant> { [new(10)] = At(10, 1) }));
        Alike(Book(All, Pieces), true, Done(one), Done(null));
    }

    [Fact]
    public void The_second_book_counts_as_much_as_the_first()
    {
        // Only the book after has a pace, an exact length, or another edge.
        var plain = Book(All, Course(1, At(10, 1)));
        var held = Held(At(10, 10));
        string Key(AccessBook after, MemberFacts f) => new FactsKey(plain, after).Of(f);
        var paced = Book(All with { Pace = Weekly }, Course(1, At(10, 1)));
        Assert.NotEqual(Key(paced, Facts(held)), Key(paced, Facts(held with { PaceFrom = At(10, 12) })));
        var lasting = Book(All with { Ends = Period.Months(1) }, Course(1, At(10, 1)));
        Assert.NotEqual(Key(lasting, Facts(held)), Key(lasting, Facts(held with { Start = held.Start + Tick })));
        var more = Book(All, Course(1, At(10, 1)), Course(2, At(10, 12)));
        Assert.NotEqual(Key(more, Facts(Held(At(10, 11)))), Key(more, Facts(Held(At(10, 13)))));
        Assert.Equal(Key(plain, Facts(Held(At(10, 11)))), Key(plain, Facts(Held(At(10, 13)))));
    }

    [Fact]
    public void An_effect_is_none_only_where_all_its_parts_are()
    {
        Assert.True(new AccessEffect(0, 0, 0, 0, Duration.Zero).IsNone);
        Assert.False(new AccessEffect(1, 0, 0, 0, Duration.Zero).IsNone);
        Assert.False(new AccessEffect(0, 1, 0, 0, Duration.Zero).IsNone);
        Assert.False(new AccessEffect(0, 0, 1, 0, Duration.Zero).IsNone);
        Assert.False(new AccessEffect(0, 0, 0, 1, Duration.Zero).IsNone);
        Assert.False(new AccessEffect(1, 1, 1, 1, Duration.Zero).IsNone);
        Assert.False(new AccessEffect(1, 0, 1, 2, Duration.Zero).IsNone);
        Assert.False(new AccessEffect(0, 2, 2, 0, Duration.Zero).IsNone);
    }

    static MemberFacts From(Instant asOf, params HoldingFact[] facts) => MemberFacts.From([Make.Holding(1, At(9, 12), facts: facts)], asOf);

    [Fact]
    public void Facts_become_stretches_that_end_where_it_ends()
    {
        var now = At(11, 20);
        MemberFacts.Held Of(params HoldingFact[] facts) => Assert.Single(From(now, facts).held);
        // Going on: paid on until a fact says otherwise, also where one stretch ended before.
        var goesOn = Of(Make.Paid(At(9, 12), At(10, 12)), Make.Paid(At(11, 12), At(12, 12)));
        Assert.Equal([(At(9, 12), At(10, 12)), (At(11, 12), Instant.MaxValue)], goesOn.Paid.Select(p => (p.From, p.To)));
        Assert.Equal((Instant.MaxValue, Instant.MaxValue), (goesOn.Until, goesOn.LastPaid));
        // Leaving: known, so not taken to go on.
        var leaves = Of(Make.Paid(At(9, 12), At(12, 12)), Make.Leaving(At(11, 1), At(12, 12)));
        Assert.Equal([(At(9, 12), At(12, 12))], leaves.Paid.Select(p => (p.From, p.To)));
        Assert.Equal((At(12, 12), At(12, 12)), (leaves.Until, leaves.LastPaid));
        // Ended in the middle of a paid stretch, and before another one that never came to be.
        var ended = Of(Make.Paid(At(9, 12), At(12, 12)), Make.Paid(At(12, 12), At(12, 30), At(9, 12)), Make.Ended(At(11, 1)));
        Assert.Equal([(At(9, 12), At(11, 1))], ended.Paid.Select(p => (p.From, p.To)));
        Assert.Equal((At(11, 1), At(11, 1)), (ended.Until, ended.LastPaid));
        // Ended long after the paid time: nothing is made longer.
        var late = Of(Make.Paid(At(9, 12), At(10, 12)), Make.Grace(At(10, 12), At(10, 19)), Make.Ended(At(10, 19), EndReason.Lapsed));
        Assert.Equal((At(10, 12), At(10, 19), At(10, 12)), (late.Paid[0].To, late.Until, late.LastPaid));
        // In grace it is held, and not paid on.
        var grace = Of(Make.Paid(At(9, 12), At(11, 15)), Make.Grace(At(11, 15), At(11, 25)));
        Assert.Equal((At(11, 15), Instant.MaxValue), (grace.Paid[0].To, grace.Until));
        // Nothing paid at all.
        var nothing = Of(Make.Ended(At(10, 1)));
        Assert.Equal((0, At(9, 12)), (nothing.Paid.Length, nothing.LastPaid));
        foreach (var (reason, keeps) in new[] { (EndReason.Left, true), (EndReason.Lapsed, true), (EndReason.RanOut, true), (EndReason.Replaced, true),
            (EndReason.Refunded, false), (EndReason.ChargedBack, false), (EndReason.EndedByTeam, false) })
            Assert.Equal(!keeps, Of(Make.Paid(At(9, 12), null), Make.Ended(At(11, 1), reason)).KeepsNothing);
    }

    [Fact]
    public void Something_is_held_until_the_moment_it_is_over()
    {
        HoldingFact[] facts = [Make.Paid(At(9, 12), At(12, 12)), Make.Leaving(At(10, 1), At(12, 12))];
        Assert.True(From(At(12, 12) - Tick, facts).HoldsAnything);
        Assert.False(From(At(12, 12), facts).HoldsAnything);
        Assert.False(MemberFacts.Nobody.HoldsAnything);
        Assert.True(Facts(Held(At(1, 1)) with { Until = At(2, 1) }, Held(At(1, 1))).HoldsAnything);
    }

    [Fact]
    public void Coming_back_to_a_plan_is_a_pause_and_another_plan_isnt()
    {
        var first = Make.Holding(1, At(9, 1), facts: [Make.Paid(At(9, 1), null), Make.Ended(At(9, 20))]);
        var again = Make.Holding(1, At(10, 5), facts: Make.Paid(At(10, 5), null));
        var other = Make.Holding(2, At(8, 1), facts: Make.Paid(At(8, 1), null));
        var held = MemberFacts.From([first, again, other], At(11, 1)).held;
        Assert.Equal([At(9, 1), At(9, 1), At(8, 1)], held.Select(h => h.PaceFrom));
        Assert.Equal((At(9, 20), At(10, 5)), Assert.Single(held[1].Pauses));
        Assert.Empty(held[0].Pauses);
        Assert.Empty(held[2].Pauses);
        // Two that follow each other without a gap, and two that began together.
        var next = Make.Holding(1, At(9, 20), facts: Make.Paid(At(9, 20), null));
        Assert.Empty(MemberFacts.From([first, next], At(11, 1)).held[1].Pauses);
        var twin = Make.Holding(1, At(9, 1), facts: Make.Paid(At(9, 1), null));
        Assert.All(MemberFacts.From([first, twin], At(11, 1)).held, h => Assert.Empty(h.Pauses));
    }

    [Fact]
    public void Whoever_is_moved_lives_by_the_present_promise_and_nobody_else()
    {
        var plan = Make.Tier(1, 1, All);
        (plan.PromiseNumber, plan.Earlier) = (2, [new(plan.Id, 1, default, [All], PromiseVersion.NoPaces)]);
        AccessBook book = new([plan, Make.Tier(2, 2, All)], Pieces, [], [], London);
        var facts = Facts(Held(At(10, 1)), MemberFacts.Joining(new(2), At(10, 1)) with { Promise = 1 });
        Assert.Same(facts, facts.MovedTo(book, new HashSet<PlanId>()));
        Assert.Same(facts, facts.MovedTo(book, new HashSet<PlanId> { new(9) }));
        Assert.Equal([2, 1], facts.MovedTo(book, new HashSet<PlanId> { new(1) }).held.Select(h => h.Promise));
    }

    [Fact]
    public void A_part_of_a_piece_is_open_by_itself_or_by_a_lesson_that_is_no_teaser()
    {
        var now = At(11, 20);
        var taste = Course(1, At(10, 1), each: l => l.Teaser = l.Position == 1);
        var alone = Course(2, At(10, 1), lessons: 0);
        AccessBook Of(Coverage covers) => Book(All with { Covers = covers }, taste, alone);
        bool Opens(Coverage covers, long piece) => Of(covers).OpensPartOf(Since(1), new(piece), now);
        MemberFacts Since(long plan) => MemberFacts.From([Make.Holding(plan, At(10, 5), facts: Make.Paid(At(10, 5), null))], now);
        Assert.True(Opens(new Coverage.OnePiece(new(1)), 1));
        Assert.True(Opens(new Coverage.OneLesson(new(10)), 1));
        Assert.True(Opens(new Coverage.OneLesson(new(12)), 1));
        // What everybody may taste isn't a part of theirs.
        Assert.False(Opens(new Coverage.OnShelf(new(9)), 1));
        Assert.False(Opens(new Coverage.OneLesson(new(12)), 2));
        Assert.True(Opens(new Coverage.OnePiece(new(2)), 2));
    }

    [Fact]
    public void What_a_plan_gives_of_a_piece_counts_its_lessons_and_what_is_to_come()
    {
        var now = At(11, 20);
        var out_ = Course(1, At(10, 1));
        var draft = Course(2, null, ready: false);
        bool Gives(Inclusion line, long piece) => Book(line, out_, draft).GivesPartOf(new(1), new(piece), now);
        Assert.True(Gives(All with { Covers = new Coverage.OneLesson(new(12)) }, 1));
        Assert.True(Gives(All with { Covers = new Coverage.OneLesson(new(22)) }, 2));
        Assert.False(Gives(All with { Covers = new Coverage.OneLesson(new(12)) }, 2));
        Assert.False(Gives(All with { Covers = new Coverage.OneLesson(new(22)) }, 1));
        // From joining: what is out was before; what comes is after.
        AccessBook dated = new([Make.Tier(1, 1, All with { Reach = new Reach.FromJoining() })], [Dated(1, At(10, 1)), Dated(2, null)], [], [], London);
        Assert.False(dated.GivesPartOf(new(1), new(1), now));
        Assert.True(dated.GivesPartOf(new(1), new(2), now));
        static Piece Dated(long id, Instant? at)
        {
            var p = new Piece { Id = new(id), ShelfId = new(1), Dated = true, Ready = at is not null };
            if (at is { } released) p.Release(released);
            return p;
        }
    }

    [Fact]
    public void Plans_that_open_stand_by_rank_and_tallies_are_among_what_is_opened()
    {
        var now = At(11, 20);
        Plan[] plans = [Make.Tier(3, 3, All), Make.Tier(1, 1, All with { Covers = new Coverage.OneTally(new(5)) }),
            Make.Tier(2, 2, All with { Covers = new Coverage.OnePiece(new(1)) })];
        AccessBook book = new(plans, Pieces, [], [new TallyId(5), new TallyId(6)], London);
        Assert.Equal([1L, 3L], book.PlansThatOpen(new TallyId(5), now).Select(p => p.Id.Value));
        Assert.Equal([3L], book.PlansThatOpen(new TallyId(6), now).Select(p => p.Id.Value));
        Assert.Equal([2L, 3L], book.PlansThatOpen(new PieceId(1), now).Select(p => p.Id.Value));
        Assert.Equal([2L, 3L], book.PlansThatCover(new(1)).Select(p => p.Id.Value));
        Assert.Equal([3L], book.PlansThatCover(new(2)).Select(p => p.Id.Value));
        AccessBook part = new([Make.Tier(1, 1, All with { Covers = new Coverage.OneLesson(new(12)) })], Pieces, [], [], London);
        Assert.Single(part.PlansThatCover(new(1)));
        Assert.Empty(part.PlansThatCover(new(2)));
        // What comes later is told for when it comes.
        var coming = new Piece { Id = new(7), ShelfId = new(1), Ready = true, OpensAt = At(12, 24) };
        AccessBook later = new([Make.Tier(1, 1, All with { Reach = new Reach.FromJoining() })], [coming], [], [], London);
        Assert.Single(later.PlansThatOpen(new PieceId(7), now));
    }

    [Fact]
    public void A_piece_is_done_when_all_that_is_out_of_it_is_and_something_is()
    {
        var now = At(11, 20);
        var needs = All with { Covers = new Coverage.OnePiece(new(1)), Needs = [new Need.DonePiece(new(2))] };
        bool Met(Piece asked, params (long Lesson, Instant At)[] done) => Book(needs, Course(1, At(10, 1)), asked).Decide(
            MemberFacts.From([Make.Holding(1, At(10, 5), facts: Make.Paid(At(10, 5), null))], now, null,
                done.ToDictionary(d => new LessonId(d.Lesson), d => d.At)),
            new PieceId(1), now).IsOpen;
        Assert.True(Met(Course(2, At(10, 1)), (20, At(10, 6)), (21, At(10, 7)), (22, At(10, 8))));
        Assert.False(Met(Course(2, At(10, 1)), (20, At(10, 6)), (21, At(10, 7))));
        Assert.False(Met(Course(2, At(10, 1), lessons: 0)));
        Assert.False(Met(Course(2, null, ready: false), (20, At(10, 6)), (21, At(10, 7)), (22, At(10, 8))));
        Assert.False(Book(needs with { Needs = [new Need.DonePiece(new(99))] }, Course(1, At(10, 1))).Decide(
            MemberFacts.From([Make.Holding(1, At(10, 5), facts: Make.Paid(At(10, 5), null))], now), new PieceId(1), now).IsOpen);
    }

    [Fact]
    public void Whole_parts_are_covered_by_their_own_lines()
    {
        var piece = new Piece { Id = new(1), ShelfId = new(4), Title = "Piece" };
        piece.Attach(Outline.Of([new() { Id = new(7), PieceId = piece.Id }], [new() { Id = new(10), PieceId = piece.Id, ModuleId = new(7) }]));
        bool Covers(Coverage c, ModuleId? module = null, LessonId? lesson = null) => PromiseTable.CoversAll(c, piece, module, lesson);
        Assert.True(Covers(new Coverage.Everything()));
        Assert.True(Covers(new Coverage.OnShelf(new(4))));
        Assert.False(Covers(new Coverage.OnShelf(new(5)), new(7), new(10)));
        Assert.True(Covers(new Coverage.OneModule(new(7)), new(7)));
        Assert.True(Covers(new Coverage.OneModule(new(7)), new(7), new(10)));
        Assert.False(Covers(new Coverage.OneModule(new(7))));
        Assert.False(Covers(new Coverage.OneModule(new(7)), new(8)));
        Assert.True(Covers(new Coverage.OneLesson(new(10)), new(7), new(10)));
        Assert.False(Covers(new Coverage.OneLesson(new(10)), new(7)));
        Assert.False(Covers(new Coverage.OneLesson(new(10)), null, new(11)));
    }

    [Fact]
    public void Of_two_equal_lines_the_one_without_a_pace_is_told()
    {
        var piece = Course(1, At(10, 1));
        PromisedCell Of(params Inclusion[] lines) => PromiseTable.Of(Make.Tier(1, 1, lines), piece, _ => null);
        var paced = All with { Pace = Weekly };
        Assert.Equal(new(PromisedWay.Open, true), Of(paced));
        Assert.Equal(new(PromisedWay.Open, false), Of(paced, All));
        Assert.Equal(new(PromisedWay.Open, false), Of(All, paced));
        Assert.Equal(new(PromisedWay.Open, true), Of(paced, All with { Reach = new Reach.FromJoining() }));
        Assert.Equal(new(PromisedWay.Open, true), Of(All with { Reach = new Reach.FromJoining() }, paced));
        Assert.Equal(new(PromisedWay.Part, false), Of(All with { Covers = new Coverage.OneLesson(new(10)) }));
    }

    [Fact]
    public void A_picture_of_a_pace_tells_what_falls_together_and_where_nothing_opens()
    {
        var outline = Course(1, At(10, 1), lessons: 5).Outline;
        PaceLayout Of(Pace pace, params (long Lesson, int Days)[] moves) =>
            PaceLayout.Of(pace, outline, moves.ToDictionary(m => new LessonId(m.Lesson), m => m.Days), At(11, 1), London);
        Assert.Empty(Of(Weekly).Together);
        Assert.Empty(Of(Weekly).Gaps);
        Assert.Equal([10L, 11L], Assert.Single(Of(Weekly, (11, 0)).Together.Select(t => t.Select(r => r.Lesson.Id.Value).ToArray()).ToArray(), g =>
            g.Length == 2 && g[0] == 10));
        Assert.Equal((21, 40), Assert.Single(Of(Weekly, (14, 40)).Gaps));
        // One and a half times as long as usual is still usual: 7, 7, 7 and 10; then 11.
        Assert.Empty(Of(Weekly, (14, 31)).Gaps);
        Assert.Equal((21, 32), Assert.Single(Of(Weekly, (14, 32)).Gaps));
        // All at one moment isn't told of, nor are two days a stretch.
        Assert.Empty(Of(new Pace.AtOnce()).Together);
        Assert.Empty(PaceLayout.Of(Weekly, Course(1, At(10, 1), lessons: 2).Outline, new Dictionary<LessonId, int> { [new(11)] = 90 }, At(11, 1), London).Gaps);
        Assert.Equal([0, 7, 14, 21, 28], Of(Weekly).Rows.Select(r => r.Day!.Value));
        Assert.Equal((40, 28), (Of(Weekly, (14, 40)).Rows[4].Day!.Value, Of(Weekly, (14, 40)).Rows[4].Usual!.Value));
        Assert.Equal(3, Of(new Pace.OnDates([new(2026, 11, 5, 9, 0), new(2026, 11, 9, 9, 0)])).Undated);
    }

    [Fact]
    public void A_why_names_what_it_rests_on()
    {
        var now = At(11, 20);
        var plan = Make.Tier(1, 1, All with { Keep = new Keep.WhatHadOpened() });
        (plan.PromiseNumber, plan.Earlier) = (2, [new(plan.Id, 1, default, plan.Promise, PromiseVersion.NoPaces)]);
        var piece = Course(1, At(10, 1));
        AccessBook book = new([plan], [piece], [], [], London);
        Why Of(Holding h, Instant? at = null) => Why.Explain(book, MemberFacts.From([h], at ?? now), piece, at ?? now, London);
        Holding Hold(int promise = 2, bool allAtOnce = false, params HoldingFact[] facts)
        {
            var h = new Holding
            {
                Id = new(1),
                PlanId = plan.Id,
                StartsAt = At(9, 12),
                PromiseNumber = promise,
                AllAtOnce = allAtOnce,
                Agreement = new(Make.Monthly(), false, At(9, 12), Make.London)
            };
            foreach (var f in facts) h.Facts.Add(HoldingFact.Stored(h.Id, h.Facts.Count + 1, f.Kind, f.At, f.From, f.To, f.Reason));
            return h;
        }
        string Rests(Why w) => string.Join(" | ", w.RestsOn);
        Assert.Contains("held since 12 September 2026, paid through 12 December 2026", Rests(Of(Hold(facts: Make.Paid(At(9, 12), At(12, 12))))),
            StringComparison.Ordinal);
        Assert.DoesNotContain("paid through", Rests(Of(Hold(facts: Make.Paid(At(9, 12), null)))), StringComparison.Ordinal);
        Assert.DoesNotContain("version", Rests(Of(Hold(facts: Make.Paid(At(9, 12), null)))), StringComparison.Ordinal);
        Assert.Contains("version 1; who joins now gets version 2", Rests(Of(Hold(1, facts: Make.Paid(At(9, 12), null)))), StringComparison.Ordinal);
        Assert.DoesNotContain("all at once", Rests(Of(Hold(facts: Make.Paid(At(9, 12), null)))), StringComparison.Ordinal);
        Assert.Contains("given all at once", Rests(Of(Hold(allAtOnce: true, facts: Make.Paid(At(9, 12), null)))), StringComparison.Ordinal);
        HoldingFact[] left = [Make.Paid(At(9, 12), At(11, 1)), Make.Ended(At(11, 1))];
        Assert.Contains("held from 12 September 2026 to 1 November 2026", Rests(Of(Hold(facts: left))), StringComparison.Ordinal);
        Assert.Contains("held from", Rests(Of(Hold(facts: left), At(11, 1))), StringComparison.Ordinal);
        Assert.Contains("held since", Rests(Of(Hold(facts: left), At(11, 1) - Tick)), StringComparison.Ordinal);
        Assert.Contains("Released 1 October 2026", Rests(Of(Hold(facts: Make.Paid(At(9, 12), null)))), StringComparison.Ordinal);
        // What is planned, and what nobody planned.
        var coming = new Piece { Id = new(1), ShelfId = new(1), Title = "Coming", Ready = true, OpensAt = At(12, 24) };
        AccessBook later = new([plan], [coming], [], [], London);
        var nothing = Why.Explain(later, MemberFacts.Nobody, coming, now, London);
        Assert.Contains("Release planned for 24 December 2026", Rests(nothing), StringComparison.Ordinal);
        Assert.Contains("comes out 24 December", nothing.Answer, StringComparison.OrdinalIgnoreCase);
        Assert.Contains("It comes out on 24 December", nothing.ForMember, StringComparison.Ordinal);
        Assert.Equal("Locked.", Why.Explain(book, MemberFacts.Nobody, piece, now, London).Answer);
        Assert.DoesNotContain("comes out", Why.Explain(book, MemberFacts.Nobody, piece, now, London).ForMember, StringComparison.Ordinal);
        var draft = new Piece { Id = new(1), ShelfId = new(1), Title = "Draft" };
        Assert.Contains("Not released, and no release is planned", Rests(Why.Explain(new([plan], [draft], [], [], London), MemberFacts.Nobody, draft, now,
            London)),
            StringComparison.Ordinal);
        // A gift for a later day.
        var gift = Make.Holding(1, At(12, 1), source: HoldingSource.Gift);
        gift.Given(At(12, 1), null, At(11, 1));
        var waits = Of(gift);
        Assert.Contains("to begin on 1 December 2026", Rests(waits), StringComparison.Ordinal);
        Assert.Contains("begins for you", waits.ForMember, StringComparison.Ordinal);
    }

    [Fact]
    public void Parts_of_a_window_and_an_edition_are_the_nearest_ones()
    {
        var edition = new Edition { Id = new(1), Span = EditionSpan.Month, FirstDay = new(2026, 11, 1), Scheduled = true, ReleaseAt = At(11, 1) };
        var next = new Edition { Id = new(2), Span = EditionSpan.Month, FirstDay = new(2026, 12, 1), Scheduled = true, ReleaseAt = At(12, 1) };
        var piece = Course(1, At(10, 20), edition: 1);
        piece.Window = new(From: At(11, 5), Days: 30);
        var lesson = piece.Outline.Lessons[1];
        lesson.Window = new(Days: 3);
        AccessBook book = new([Make.Tier(1, 1, All)], [piece], [edition, next], [], London);
        var facts = MemberFacts.From([Make.Holding(1, At(10, 1), facts: Make.Paid(At(10, 1), null))], At(11, 20));
        AccessRule Rule(Thing t, Instant at) => book.Decide(facts, t, at).Rule;
        // The piece's own first moment holds for its lessons too; of the days the lesson's own.
        Assert.Equal(AccessRule.OpensLater, Rule(new LessonId(10), At(11, 5) - Tick));
        Assert.Equal(AccessRule.EverythingReleased, Rule(new LessonId(10), At(11, 5)));
        Assert.Equal(AccessRule.EverythingReleased, Rule(new LessonId(11), At(11, 8) - Tick));
        Assert.Equal(AccessRule.WindowOver, Rule(new LessonId(11), At(11, 8)));
        Assert.Equal(AccessRule.EverythingReleased, Rule(new LessonId(12), At(11, 8)));
        Assert.Equal(AccessRule.WindowOver, Rule(new LessonId(12), At(12, 5)));
        // Planned with its edition: when that opens. A draft in it: not.
        var planned = Course(2, null, edition: 2);
        var draft = Course(3, null, ready: false, edition: 2);
        AccessBook coming = new([Make.Tier(1, 1, All)], [planned, draft], [edition, next], [], London);
        Assert.Equal(At(12, 1), coming.ReleaseOf(new PieceId(2)));
        Assert.Equal(At(12, 1), coming.ReleaseOf(new LessonId(21)));
        Assert.Null(coming.ReleaseOf(new PieceId(3)));
        Assert.True(new AccessDecision(AccessState.Locked, AccessRule.NothingHeld).IsKnown);
        Assert.False(new AccessDecision(AccessState.Hidden, AccessRule.NotReleased).IsKnown);
    }
}
