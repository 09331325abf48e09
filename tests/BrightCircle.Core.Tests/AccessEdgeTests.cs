using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Releases;
using BrightCircle.Core.Time;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>Access at its edges: the very moment something opens, ends or is counted, and which of several says so. Worked out by hand.</summary>
public class AccessEdgeTests
{
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant At(int month, int day, int hour = 9) => London.At(new(2026, month, day, hour, 0));
    static readonly Duration Tick = Duration.FromTicks(1);
    static readonly Inclusion All = new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing());
    static readonly Inclusion Latest = All with { Reach = new Reach.LastEditions(1) };
    static readonly Pace Weekly = new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0));

    static Edition Edition(long id, Instant opens, Instant? released = null, EditionSpan span = EditionSpan.Month)
    {
        var e = new Edition { Id = new(id), Span = span, FirstDay = London.Date(opens), ReleaseAt = opens, Scheduled = true };
        if (released is { } at) e.Release(at);
        return e;
    }

    static Piece Piece(long id, Instant? released = null, long? edition = null, Action<Piece>? also = null, params Lesson[] lessons)
    {
        var p = new Piece { Id = new(id), ShelfId = new(1), Title = $"Piece {id}", Ready = true, EditionId = edition is { } e ? new(e) : null };
        also?.Invoke(p);
        if (released is { } at) p.Release(at);
        var modules = lessons.Select(l => l.ModuleId).OfType<ModuleId>().Distinct().Select((m, i) => new Module { Id = m, PieceId = p.Id, Position = i });
        p.Attach(Outline.Of([.. modules], lessons));
        return p;
    }

    static Lesson Lesson(long id, Instant? released, int position = 0, long? edition = null, long? module = null, bool ready = true)
    {
        var l = new Lesson
        {
            Id = new(id),
            PieceId = new(1),
            Position = position,
            Ready = ready,
            EditionId = edition is { } e ? new(e) : null,
            ModuleId = module is { } m ? new(m) : null
        };
        if (released is { } at) l.Release(at);
        return l;
    }

    static Lesson[] Three(Instant released) => [Lesson(10, released), Lesson(11, released, 1), Lesson(12, released, 2)];
    static AccessBook Book(Plan[] plans, Piece[] pieces, params Edition[] editions) => new(plans, pieces, editions, [new TallyId(5)], London);
    static AccessBook Book(Inclusion line, Piece piece, params Edition[] editions) => Book([Make.Tier(1, 1, line)], [piece], editions);
    static AccessBook Paced(Inclusion line, Piece piece, IEnumerable<PieceTimeline>? timelines = null, IEnumerable<Cohort>? cohorts = null) =>
        new([Make.Tier(1, 1, line)], [piece], [], [], London, timelines, cohorts);

    static MemberFacts Since(Instant start, Instant? until = null, Instant? asOf = null) => MemberFacts.From([Make.Holding(1, start, facts: until is { } end
        ? [Make.Paid(start, end), Make.Ended(end)] : [Make.Paid(start, null)])], asOf ?? At(12, 31));
    static AccessDecision Decide(AccessBook book, MemberFacts facts, Thing thing, Instant moment) => book.Decide(facts, thing, moment);
    static Thing Of(long piece) => new PieceId(piece);

    [Fact]
    public void What_waits_says_whether_for_its_release_its_window_or_its_turn()
    {
        var planned = Piece(1, also: p => p.OpensAt = At(12, 1));
        AccessRule Rule(AccessBook book, Thing thing, Instant moment) => Decide(book, Since(At(11, 1)), thing, moment).Rule;
        Assert.Equal(AccessRule.ScheduledRelease, Rule(Book(All, planned), Of(1), At(11, 20)));
        var windowed = Piece(1, At(10, 1), also: p => p.Window = new(From: At(12, 1)));
        Assert.Equal(AccessRule.OpensLater, Rule(Book(All, windowed), Of(1), At(11, 20)));
        Assert.Equal(AccessRule.Paced, Rule(Paced(All with { Pace = Weekly }, Piece(1, At(10, 1), lessons: Three(At(10, 1)))), new LessonId(12), At(11, 2)));
    }

    [Fact]
    public void At_the_moment_of_its_turn_it_needs_its_place_and_its_window()
    {
        var placed = Piece(1, At(10, 1), also: p => p.Places = 3, lessons: Three(At(10, 1)));
        var book = Paced(All with { Pace = Weekly }, placed);
        // Part 2 is due a week after 1 November, at nine; without a place it waits, and doesn't open when its time is there.
        Assert.Equal(AccessState.OpensAt, Decide(book, Since(At(11, 1)), new LessonId(11), At(11, 8) - Tick).State);
        Assert.Equal(AccessRule.NoPlace, Decide(book, Since(At(11, 1)), new LessonId(11), At(11, 8)).Rule);
        AccessDecision Until(Instant closes) => Decide(Paced(All with { Pace = Weekly }, Piece(1, At(10, 1), also: p => p.Window = new(Until: closes),
            lessons: Three(At(10, 1)))), Since(At(11, 1)), new LessonId(11), At(11, 5));
        Assert.Equal(AccessRule.WindowOver, Until(At(11, 8)).Rule);
        Assert.Equal(AccessRule.Paced, Until(At(11, 8) + Tick).Rule);
    }

    [Fact]
    public void Whoever_starts_with_a_cohort_is_in_it()
    {
        Pace pace = new Pace.Steps(7, PaceUnit.Days, From: PaceFrom.Cohort);
        Cohort[] cohorts = [new(new(1), new(1), "A", At(10, 1)), new(new(2), new(1), "B", At(11, 1)), new(new(3), new(1), "C", At(12, 1))];
        var book = Paced(All with { Pace = pace }, Piece(1, At(9, 1), lessons: Three(At(9, 1))), cohorts: cohorts);
        Instant First(Instant joined) => Decide(book, Since(joined), new LessonId(10), At(9, 15)).OpensAt;
        Assert.Equal(At(10, 1), First(At(9, 10)));
        Assert.Equal(At(10, 1), First(At(10, 1)));
        Assert.Equal(At(11, 1), First(At(10, 1) + Tick));
        Assert.Equal(At(12, 1), First(At(12, 5)));
    }

    [Fact]
    public void What_has_no_date_yet_ends_with_its_line_and_its_holding()
    {
        // A pace of cohorts without any: there is no date.
        Pace pace = new Pace.Steps(7, PaceUnit.Days, From: PaceFrom.Cohort);
        var book = Paced(All with { Pace = pace, Ends = Period.Months(1) }, Piece(1, At(9, 1), lessons: Three(At(9, 1))));
        AccessRule Rule(MemberFacts facts, Instant moment) => Decide(book, facts, new LessonId(10), moment).Rule;
        var held = Since(At(10, 5), At(11, 20));
        Assert.Equal(AccessRule.NoDateYet, Rule(held, At(11, 5) - Tick));
        Assert.Equal(AccessRule.InclusionOver, Rule(held, At(11, 5)));
        Assert.Equal(AccessRule.InclusionOver, Rule(held, At(11, 20) - Tick));
        Assert.Equal(AccessRule.HoldingOver, Rule(held, At(11, 20)));
    }

    [Fact]
    public void What_was_among_the_latest_to_the_last_moment_stays()
    {
        Edition[] editions = [Edition(1, At(10, 1), At(10, 1)), Edition(2, At(11, 1), At(11, 1))];
        var book = Book(Latest with { Keep = new Keep.WhatHadOpened() }, Piece(1, At(10, 1), edition: 1), editions);
        Assert.Equal(AccessRule.KeptAfterLeaving, Decide(book, Since(At(10, 5), At(11, 1)), Of(1), At(11, 10)).Rule);
        Assert.False(Decide(book, Since(At(10, 5), At(11, 1) + Tick), Of(1), At(11, 10)).IsOpen);
        // What was met to the last moment counts, too.
        var needs = Book(All with { Keep = new Keep.WhatHadOpened(), Needs = [new Need.DoneLesson(new(99))] }, Piece(1, At(10, 1)));
        MemberFacts Done(Instant at) => MemberFacts.From([Make.Holding(1, At(10, 5), facts: [Make.Paid(At(10, 5), At(11, 1)), Make.Ended(At(11, 1))])],
            At(12, 31), null, new Dictionary<LessonId, Instant> { [new(99)] = at });
        Assert.True(Decide(needs, Done(At(11, 1) - Tick), Of(1), At(11, 10)).IsOpen);
        Assert.False(Decide(needs, Done(At(11, 1)), Of(1), At(11, 10)).IsOpen);
    }

    [Fact]
    public void A_part_that_comes_later_neednt_be_done_yet()
    {
        // Of the piece that is asked for the second part comes out on 15 November.
        var asked = Piece(2, At(10, 1), lessons: [Lesson(20, At(10, 1)), Lesson(21, At(11, 15), 1)]);
        foreach (var l in asked.Outline.Lessons) l.PieceId = new(2);
        var book = Book([Make.Tier(1, 1, All with { Covers = new Coverage.OnePiece(new(1)), Needs = [new Need.DonePiece(new(2))] })],
            [Piece(1, At(10, 1)), asked]);
        var facts = MemberFacts.From([Make.Holding(1, At(10, 5), facts: Make.Paid(At(10, 5), null))], At(12, 31), null,
            new Dictionary<LessonId, Instant> { [new(20)] = At(10, 6) });
        Assert.True(Decide(book, facts, Of(1), At(11, 15) - Tick).IsOpen);
        Assert.False(Decide(book, facts, Of(1), At(11, 15)).IsOpen);
    }

    [Fact]
    public void From_joining_begins_with_the_edition_of_that_moment()
    {
        // It was out before its edition, which was current from the moment on at which they joined.
        var book = Book(All with { Reach = new Reach.FromJoining() }, Piece(1, At(10, 1), edition: 2), Edition(2, At(11, 1), At(11, 1)));
        Assert.Equal(AccessRule.CurrentWhenJoining, Decide(book, Since(At(11, 1)), Of(1), At(11, 5)).Rule);
        Assert.Equal(AccessRule.BeforeJoining, Decide(book, Since(At(11, 1) - Tick), Of(1), At(11, 5)).Rule);
    }

    [Fact]
    public void A_paid_stretch_has_its_first_moment_and_not_its_last()
    {
        var book = Book(All with { Reach = new Reach.WhilePaid() }, Piece(1, At(11, 1), also: p => p.Dated = true));
        AccessRule Rule(Instant from, Instant to) => Decide(book, Since(from, to), Of(1), to - Tick).Rule;
        Assert.Equal(AccessRule.InPaidTime, Rule(At(11, 1), At(11, 20)));
        Assert.Equal(AccessRule.OutsidePaidTime, Rule(At(11, 1) + Tick, At(11, 20)));
        Assert.Equal(AccessRule.InPaidTime, Rule(At(10, 1), At(11, 1) + Tick));
        Assert.NotEqual(AccessRule.InPaidTime, Decide(book, Since(At(10, 1), At(11, 1)), Of(1), At(11, 1)).Rule);
    }

    [Fact]
    public void A_turn_is_told_of_the_line_and_the_holding_that_decide()
    {
        var piece = Piece(1, At(10, 1), lessons: [Lesson(10, At(10, 1), module: 7), Lesson(11, At(10, 1), 1, module: 7), Lesson(12, At(10, 1), 2, module: 8)]);
        Pace modules = new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0), PacePart.Module);
        AccessBook book = new([Make.Tier(1, 1, All with { Covers = new Coverage.OneTally(new(5)) }, All with { Pace = modules }),
            Make.Pass(2, All with { Covers = new Coverage.OneTally(new(5)) })], [piece], [], [new TallyId(5)], London);
        var facts = MemberFacts.From([Make.Holding(2, At(11, 1), facts: Make.Paid(At(11, 1), null)),
            Make.Holding(1, At(11, 1), facts: Make.Paid(At(11, 1), null))], At(12, 31));
        var decision = book.Decide(facts, new LessonId(12), At(11, 3));
        Assert.Equal((AccessState.OpensAt, 1, 1), (decision.State, decision.Holding, decision.Inclusion));
        // The third lesson is of the second module.
        Assert.Equal(new Turn(modules, 1, At(11, 1), null), book.TurnOf(facts, decision, new LessonId(12)));
        Assert.Null(book.TurnOf(MemberFacts.Nobody, book.Decide(MemberFacts.Nobody, new LessonId(12), At(11, 3)), new LessonId(12)));
    }

    [Fact]
    public void Who_says_a_pace_is_told_for_everybody_for_a_plan_and_for_a_price()
    {
        var piece = Piece(1, At(10, 1), lessons: Three(At(10, 1)));
        PieceTimeline timeline = new(new(1), new PlanId(1), null, null, Weekly, new Dictionary<LessonId, int>());
        var own = Paced(All, piece, [timeline]);
        Assert.Equal((null, PaceSaidBy.Nobody), own.PaceOf(new(1), null, null));
        Assert.Equal((Weekly, PaceSaidBy.ThePiece), own.PaceOf(new(1), new PlanId(1), null));
        var everybody = Paced(All, piece, [timeline with { Plan = null }]);
        Assert.Equal((Weekly, PaceSaidBy.Everybodys), everybody.PaceOf(new(1), null, null));
        Assert.Equal((Weekly, PaceSaidBy.Everybodys), everybody.PaceOf(new(1), new PlanId(1), null));
        // Who pays all at once has no pace by it, whatever the line says.
        var plan = Make.Tier(1, 1, All with { Pace = Weekly });
        plan.PaceOf = new Dictionary<PriceId, Pace> { [new(4)] = new Pace.AtOnce() };
        var byPrice = Book([plan], [piece]);
        Assert.Equal((null, PaceSaidBy.Nobody), byPrice.PaceOf(new(1), new PlanId(1), new PriceId(4)));
        Assert.Equal((Weekly, PaceSaidBy.ThePromise), byPrice.PaceOf(new(1), new PlanId(1), new PriceId(5)));
    }

    [Fact]
    public void Plans_that_open_something_stand_by_rank_and_then_by_age()
    {
        Plan[] plans = [Make.Tier(3, 1, All), Make.Tier(2, 1, All), Make.Tier(1, 2, All with { Covers = new Coverage.OnePiece(new(1)) },
            All with { Covers = new Coverage.OneTally(new(5)) })];
        var book = Book(plans, [Piece(1, At(10, 1))]);
        Assert.Equal([2L, 3L, 1L], book.PlansThatOpen(Of(1), At(11, 1)).Select(p => p.Id.Value));
        Assert.Contains(book.PlansThatOpen(new TallyId(5), At(11, 1)), p => p.Id.Value == 1);
        // What isn't among the latest any more isn't opened to who joins now.
        Edition[] editions = [Edition(1, At(10, 1), At(10, 1)), Edition(2, At(11, 1), At(11, 1))];
        var latest = Book(Latest, Piece(1, At(10, 1), edition: 1), editions);
        Assert.Single(latest.PlansThatOpen(Of(1), At(10, 20)));
        Assert.Empty(latest.PlansThatOpen(Of(1), At(11, 20)));
        // Of what isn't planned whoever pays gets it when it comes.
        var draft = Piece(1, also: p => p.Ready = false);
        Assert.True(Book(All with { Reach = new Reach.WhilePaid() }, draft).GivesPartOf(new(1), new(1), At(11, 1)));
    }

    [Fact]
    public void An_edition_is_current_from_when_it_really_came_out()
    {
        // Planned for 1 November, brought out on 20 October.
        var book = Book(All with { Reach = new Reach.FromJoining() }, Piece(1, At(10, 2), edition: 2), Edition(2, At(11, 1), At(10, 20)));
        Assert.Equal(AccessRule.CurrentWhenJoining, Decide(book, Since(At(10, 25)), Of(1), At(11, 5)).Rule);
    }

    [Fact]
    public void A_piece_out_on_the_very_moment_of_an_edition_goes_with_it()
    {
        Edition[] editions = [Edition(1, At(10, 1), At(10, 1)), Edition(2, At(11, 1), At(11, 1)), Edition(3, At(12, 1))];
        var book = Book(Latest, Piece(1, At(11, 1), also: p => p.Dated = true), editions);
        Assert.True(Decide(book, Since(At(10, 5)), Of(1), At(11, 15)).IsOpen);
        Assert.True(Decide(book, Since(At(10, 5)), Of(1), At(12, 1) - Tick).IsOpen);
        Assert.Equal(AccessRule.OutOfLatest, Decide(book, Since(At(10, 5)), Of(1), At(12, 1)).Rule);
    }

    [Fact]
    public void A_lesson_with_an_edition_of_its_own_goes_with_that()
    {
        Edition[] editions = [Edition(1, At(10, 1), At(10, 1)), Edition(2, At(11, 1), At(11, 1)), Edition(3, At(12, 1)),
            Edition(8, At(11, 9), At(11, 9), EditionSpan.Week), Edition(9, At(11, 16), At(11, 16), EditionSpan.Week)];
        Lesson[] lessons = [Lesson(10, At(10, 1)), Lesson(11, At(11, 1), 1, edition: 2), Lesson(12, null, 2, edition: 3), Lesson(13, At(11, 9), 3, edition: 8)];
        var inEdition = Book(Latest, Piece(1, At(10, 1), edition: 1, lessons: lessons), editions);
        bool Open(long lesson, Instant at) => Decide(inEdition, Since(At(10, 5)), new LessonId(lesson), at).IsOpen;
        Assert.False(Open(10, At(11, 15)));
        Assert.True(Open(11, At(11, 15)));
        Assert.Equal(At(12, 1), inEdition.ReleaseOf(new LessonId(12)));
        // Among the weeks, not among the months.
        Assert.True(Open(13, At(11, 16) - Tick));
        Assert.False(Open(13, At(11, 16)));
        // Standing content is what is of no edition: the lesson of November isn't.
        var standing = Book(All with { Reach = new Reach.FromJoining() }, Piece(1, At(10, 1), lessons: lessons), editions);
        Assert.Equal(AccessRule.StandingContent, Decide(standing, Since(At(12, 5)), new LessonId(10), At(12, 6)).Rule);
        Assert.Equal(AccessRule.BeforeJoining, Decide(standing, Since(At(12, 5)), new LessonId(11), At(12, 6)).Rule);
    }

    [Fact]
    public void A_module_opens_with_its_first_lesson_and_is_no_lesson()
    {
        Lesson[] lessons = [Lesson(10, At(11, 5), module: 7), Lesson(11, At(11, 1), 1, module: 7), Lesson(12, null, 2, module: 8, ready: false),
            Lesson(1, At(11, 1), 3)];
        var book = Book(All with { Covers = new Coverage.OneLesson(new(1)) }, Piece(1, At(10, 1), lessons: lessons));
        Assert.Equal(At(11, 1), book.ReleaseOf(new ModuleId(7)));
        Assert.Null(book.ReleaseOf(new ModuleId(8)));
        Assert.Equal(AccessState.Hidden, Decide(book, Since(At(10, 5)), new ModuleId(8), At(11, 20)).State);
        Assert.True(Decide(book, Since(At(10, 5)), new LessonId(1), At(11, 20)).IsOpen);
        Assert.False(Decide(book, Since(At(10, 5)), new ModuleId(7), At(11, 20)).IsOpen);
        // Nothing stands before a module: it opens however little is done.
        var paced = Paced(All with { Pace = new Pace.AtOnce(AfterPrevious: true) }, Piece(1, At(10, 1), lessons: lessons));
        Assert.True(Decide(paced, Since(At(10, 5)), new ModuleId(7), At(11, 20)).IsOpen);
        Assert.Equal(AccessRule.PreviousFirst, Decide(paced, Since(At(10, 5)), new LessonId(11), At(11, 20)).Rule);
    }

    [Fact]
    public void What_opens_next_is_told_lesson_by_lesson_in_their_order()
    {
        var planned = Piece(1, also: p => p.OpensAt = At(12, 1), lessons: [.. Enumerable.Range(0, 40).Select(i => Lesson(100 - i, null, i))]);
        var openings = Book(All, planned).OpeningsOf(Since(At(10, 5)), At(11, 20));
        Assert.Equal(Enumerable.Range(0, 40).Select(i => 100L - i), openings.Select(o => o.Thing.Id));
        Assert.All(openings, o => Assert.Equal(ThingKind.Lesson, o.Thing.Kind));
        // A pace that only a price has is one, too.
        var plan = Make.Tier(1, 1, All);
        plan.PaceOf = new Dictionary<PriceId, Pace> { [new(4)] = Weekly };
        var byPrice = Book([plan], [Piece(1, At(10, 1), lessons: Three(At(10, 1)))]);
        Assert.Equal([11L, 12L], byPrice.OpeningsOf(MemberFacts.Imagined(plan, At(11, 1), new PriceId(4)), At(11, 2)).Select(o => o.Thing.Id));
    }

    [Fact]
    public void One_line_or_one_part_that_counts_exactly_makes_all_of_a_plan_exact()
    {
        var piece = Piece(1, At(10, 1), lessons: Three(At(10, 1)));
        static MemberFacts Held(Instant start) => new([MemberFacts.Joining(new(1), start) with { Promise = 1 }], At(12, 31), false, new HashSet<PieceId>(),
            new Dictionary<LessonId, Instant>(), new HashSet<CohortId>());
        static bool Alike(AccessBook book, MemberFacts a, MemberFacts b)
        {
            var key = new FactsKey(book, book);
            return key.Of(a) == key.Of(b);
        }
        var (a, b) = (Held(At(10, 10)), Held(At(10, 10) + Tick));
        Assert.True(Alike(Book([Make.Tier(1, 1, All, All)], [piece]), a, b));
        Assert.False(Alike(Book([Make.Tier(1, 1, All, All with { Ends = Period.Months(1) })], [piece]), a, b));
        Assert.False(Alike(Book([Make.Tier(1, 1, All)], [piece, Piece(2, At(10, 1), also: p => p.Window = new(Days: 30))]), a, b));
        var asks = Book([Make.Tier(1, 1, All, All with { Needs = [new Need.DoneLesson(new(10))] })], [piece]);
        Assert.True(asks.AsksForDone);
        Assert.False(Book(All, piece).AsksForDone);
        // An edition without a piece is a moment that matters all the same: it pushes others out of the latest.
        var latest = Book(Latest, Piece(1, At(10, 1), edition: 1), Edition(1, At(10, 1), At(10, 1)), Edition(2, At(11, 1), At(11, 1)),
            Edition(3, At(11, 20), At(11, 20)));
        Assert.False(Alike(latest, Held(At(11, 10)), Held(At(11, 25))));
        // When something begins that isn't held yet tells two people apart.
        MemberFacts Begins(Instant at) => new([MemberFacts.Joining(new(1), at) with { Promise = 1, Begins = at, Start = At(10, 10), PaceFrom = At(10, 10),
            Paid = [] }], At(11, 1), false, new HashSet<PieceId>(), new Dictionary<LessonId, Instant>(), new HashSet<CohortId>());
        Assert.False(Alike(Book(All, piece), Begins(At(12, 5)), Begins(At(12, 6))));
    }

    [Fact]
    public void What_is_known_at_a_moment_is_what_was_said_by_then()
    {
        var gift = Make.Holding(1, At(12, 1), source: HoldingSource.Gift);
        gift.Facts.Add(gift.Planned(At(11, 5)));
        Assert.Empty(MemberFacts.From([gift], At(11, 5) - Tick).held);
        var known = Assert.Single(MemberFacts.From([gift], At(11, 5)).held);
        Assert.Equal((At(12, 1), Instant.MaxValue), (known.Paid.Single().From, known.Paid.Single().To));
        Assert.Equal(At(12, 1), known.Begins);
        Assert.False(MemberFacts.From([gift], At(11, 5)).HoldsAnything);
        // What ends when a stretch would begin has nothing of it.
        var ended = MemberFacts.From([Make.Holding(1, At(9, 12), facts: [Make.Paid(At(9, 12), At(10, 12)), Make.Paid(At(10, 12), At(11, 12), At(10, 1)),
            Make.Ended(At(10, 12))])], At(11, 1));
        Assert.Single(ended.held.Single().Paid);
    }

    [Fact]
    public void A_pause_of_ones_own_is_one_to_a_pace_and_who_isnt_moved_stays()
    {
        var h = Make.Holding(1, At(9, 1), facts: Make.Paid(At(9, 1), null));
        h.Facts.Add(h.Paused(At(10, 1), At(10, 11)));
        Assert.Equal((At(10, 1), At(10, 11)), Assert.Single(MemberFacts.From([h], At(11, 1)).held.Single().Pauses));
        Assert.Empty(Since(At(9, 1)).held.Single().Pauses);
        var book = Book([Make.Tier(1, 1, All), Make.Tier(2, 2, All)], [Piece(1, At(10, 1))]);
        MemberFacts facts = new([MemberFacts.Joining(new(1), At(9, 1)) with { Promise = 7 }, MemberFacts.Joining(new(2), At(9, 1)) with { Promise = 7 }],
            At(11, 1), false, new HashSet<PieceId>(), new Dictionary<LessonId, Instant>(), new HashSet<CohortId>());
        Assert.Equal([1, 7], facts.MovedTo(book, new HashSet<PlanId> { new(1) }).held.Select(x => x.Promise));
    }

    [Fact]
    public void Places_in_a_pattern_are_kept_where_they_were_earlier()
    {
        static Outline Of(int step, int moduleStep)
        {
            var (m1, m2) = (new Module { Id = new(7), Position = 0 }, new Module { Id = new(8), Position = 1, Step = moduleStep });
            var lessons = new[] { Lesson(10, null, module: 7), Lesson(11, null, 1, module: 7), Lesson(12, null, 2, module: 8) };
            lessons[2].Step = step;
            return Outline.Of([m1, m2], lessons);
        }
        Assert.Equal([(0, 0), (1, 0), (2, 1)], PaceLayout.Turns(Of(-1, -1)).Select(t => (t.Step, t.ModuleStep)));
        Assert.Equal([(0, 0), (1, 0), (0, 0)], PaceLayout.Turns(Of(0, 0)).Select(t => (t.Step, t.ModuleStep)));
        Assert.Equal([(0, 0), (1, 0), (2, 1)], PaceLayout.Turns(Of(0, 0), anew: true).Select(t => (t.Step, t.ModuleStep)));
        // Lessons without a module stand together as one part, in its place.
        var loose = Outline.Of([], [Lesson(10, null), Lesson(11, null, 1)]);
        Assert.All(PaceLayout.Turns(loose), t => Assert.Equal(0, t.ModuleStep));
    }

    [Fact]
    public void A_layout_by_modules_counts_modules_and_three_days_can_have_a_gap()
    {
        var outline = Outline.Of([new() { Id = new(7) }, new() { Id = new(8), Position = 1 }],
            [Lesson(10, null, module: 7), Lesson(11, null, 1, module: 7), Lesson(12, null, 2, module: 8), Lesson(13, null, 3, module: 8)]);
        PaceLayout Of(Pace pace, params (long Lesson, int Days)[] moves) =>
            PaceLayout.Of(pace, outline, moves.ToDictionary(m => new LessonId(m.Lesson), m => m.Days), At(11, 1), London);
        Pace modules = new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0), PacePart.Module);
        Assert.Equal([0, 0, 7, 7], Of(modules).Rows.Select(r => r.Day!.Value));
        Assert.Empty(Of(modules).Together);
        // Two of one module may; with one of another among them it is told.
        Assert.Equal([10L, 11L, 12L], Assert.Single(Of(modules, (12, 0)).Together).Select(r => r.Lesson.Id.Value));
        Assert.Equal([10L, 11L], Assert.Single(Of(Weekly, (11, 0)).Together).Select(r => r.Lesson.Id.Value));
        Assert.Equal((7, 40), Assert.Single(Of(Weekly, (12, 40), (13, 40)).Gaps));
    }

    [Fact]
    public void A_why_says_when_a_part_was_moved_and_what_is_kept()
    {
        var piece = Piece(1, At(10, 1), lessons: Three(At(10, 1)));
        var moved = Paced(All, piece, [new(new(1), null, null, null, Weekly, new Dictionary<LessonId, int> { [new(12)] = 20 })]);
        string Rests(Lesson lesson) => string.Join(" | ", Why.Explain(moved, Since(At(11, 1)), piece, lesson, At(11, 3), London).RestsOn);
        Assert.Contains("moved by hand", Rests(piece.Outline.Lessons[2]), StringComparison.Ordinal);
        Assert.DoesNotContain("moved by hand", Rests(piece.Outline.Lessons[1]), StringComparison.Ordinal);
        Assert.Contains("Released 1 October", string.Join('|', Why.Explain(Book(All, piece), Since(At(9, 1)), piece, At(10, 1), London).RestsOn),
            StringComparison.Ordinal);
        // Open to everybody, from a moment on: nobody's plan has to do with it.
        var all = Piece(1, At(10, 1), also: p => (p.OpenToAll, p.Window) = (true, new(From: At(12, 1))));
        Assert.EndsWith("on.", Why.Explain(Book(All, all), MemberFacts.Nobody, all, At(11, 3), London).ForTeam, StringComparison.Ordinal);
        var later = Piece(1, At(10, 1), also: p => p.Window = new(From: At(12, 1)));
        Assert.EndsWith("and Plan 1 covers it.", Why.Explain(Book(All, later), Since(At(11, 1)), later, At(11, 3), London).ForTeam, StringComparison.Ordinal);
        string Over(Keep keep) => Why.Explain(Book(All with { Keep = keep, Reach = new Reach.FromJoining() }, Piece(1, At(12, 1), also: p => p.Dated = true)),
            Since(At(10, 5), At(11, 1)), piece, At(12, 5), London).ForTeam;
        Assert.Contains("keeps only what had opened", Over(new Keep.WhatHadOpened()), StringComparison.Ordinal);
        Assert.Contains("keeps nothing", Over(new Keep.Nothing()), StringComparison.Ordinal);
    }
}
