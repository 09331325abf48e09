using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Releases;
using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>A piece out since March, and its lessons: with it, later, with an edition of their own, as a draft, as a teaser.</summary>
public class LessonAccessTests
{
    static readonly SiteCalendar London = SiteCalendar.For("Europe/London");
    static Instant Day(int month, int day) => London.At(new(2026, month, day, 9, 0));

    static Edition Edition(int month, bool released, bool scheduled = true)
    {
        var e = new Edition { Id = new(month), FirstDay = new(2026, month, 1), ReleaseAt = Day(month, 1), Scheduled = scheduled };
        if (released) e.Release(Day(month, 1));
        return e;
    }

    static readonly Edition[] Editions = [Edition(3, true), Edition(4, true), Edition(5, false), Edition(6, false, scheduled: false)];

    static Lesson Lesson(long id, Instant? released, bool ready = true, bool teaser = false, long? edition = null)
    {
        var l = new Lesson { Id = new(id), PieceId = new(1), Position = (int)id, Ready = ready, Teaser = teaser, EditionId = edition is { } e ? new(e) : null };
        if (released is { } at) l.Release(at);
        return l;
    }

    const long WithIt = 1, Later = 2, InMay = 3, Draft = 4, Teaser = 5, InJune = 6, DraftTeaser = 7;

    static AccessBook Book(Reach reach, bool pieceOut = true)
    {
        var piece = new Piece { Id = new(1), ShelfId = new(1), EditionId = new(3), Ready = true };
        if (pieceOut) piece.Release(Day(3, 1));
        piece.Attach(
            Outline.Of([], [Lesson(WithIt, Day(3, 1)), Lesson(Later, Day(4, 10)), Lesson(InMay, null, edition: 5), Lesson(Draft, null, ready: false),
            Lesson(Teaser, Day(3, 1), teaser: true), Lesson(InJune, null, edition: 6), Lesson(DraftTeaser, null, ready: false, teaser: true)]));
        return new([new Plan { Id = new(1), Name = "Keeper", Promise = [new(new Coverage.Everything(), reach, new Keep.WhatHadOpened())] }], [piece], Editions);
    }

    static MemberFacts Member(Instant since, Instant at)
    {
        var h = Make.Holding(1, since, facts: Make.Paid(since, null));
        return MemberFacts.From([h], at);
    }

    static AccessDecision Decide(AccessBook book, MemberFacts facts, long lesson, Instant at) => book.Decide(facts, new LessonId(lesson), at);

    [Fact]
    public void A_lesson_is_as_open_as_its_piece_from_its_own_release_on()
    {
        var (book, at) = (Book(new Reach.EverythingReleased()), Day(4, 20));
        var facts = Member(Day(4, 1), at);
        Assert.Equal(AccessState.Open, Decide(book, facts, WithIt, at).State);
        Assert.Equal(AccessState.Open, Decide(book, facts, Later, at).State);
        Assert.Equal((AccessState.OpensAt, Day(5, 1)), (Decide(book, facts, InMay, at).State, Decide(book, facts, InMay, at).OpensAt));
        // An edition that isn't scheduled promises nothing, a draft doesn't exist.
        Assert.Equal(AccessState.Hidden, Decide(book, facts, InJune, at).State);
        Assert.Equal(AccessState.Hidden, Decide(book, facts, Draft, at).State);
        Assert.Equal(AccessState.Open, Decide(book, MemberFacts.Team, Draft, at).State);
    }

    [Fact]
    public void From_joining_on_counts_a_lessons_own_release()
    {
        var (book, at) = (Book(new Reach.FromJoining()), Day(4, 20));
        var facts = Member(Day(4, 5), at);
        Assert.Equal(AccessRule.BeforeJoining, Decide(book, facts, WithIt, at).Rule);
        Assert.Equal(AccessRule.SinceJoining, Decide(book, facts, Later, at).Rule);
    }

    [Fact]
    public void A_teaser_is_open_to_everybody_once_it_and_its_piece_are_out()
    {
        var at = Day(4, 20);
        Assert.Equal((AccessState.Open, AccessRule.Teaser),
            (Decide(Book(new Reach.FromJoining()), MemberFacts.Nobody, Teaser, at).State,
            Decide(Book(new Reach.FromJoining()), MemberFacts.Nobody, Teaser, at).Rule));
        Assert.Equal(AccessState.Hidden, Decide(Book(new Reach.FromJoining()), MemberFacts.Nobody, DraftTeaser, at).State);
        // Before its release it is coming, for whom it is and for whom it isn't.
        Assert.Equal((AccessState.Locked, Day(3, 1)),
            (Decide(Book(new Reach.FromJoining()), MemberFacts.Nobody, Teaser, Day(2, 20)).State,
            Decide(Book(new Reach.FromJoining()), MemberFacts.Nobody, Teaser, Day(2, 20)).OpensAt));
        Assert.Equal(AccessState.Locked, Decide(Book(new Reach.FromJoining()), MemberFacts.Nobody, WithIt, at).State);
    }

    [Fact]
    public void No_lesson_opens_before_its_piece() => Gen.Select(Gen.Int[1, 12], Gen.Int[1, 28], Gen.Int[1, 7]).Sample((month, day, lesson) =>
    {
        var at = Day(month, day);
        foreach (var reach in new Reach[] { new Reach.EverythingReleased(), new Reach.FromJoining(), new Reach.WhilePaid() })
        {
            var book = Book(reach);
            var facts = Member(Day(1, 1), at);
            if (Decide(book, facts, lesson, at).IsOpen) Assert.True(at >= book.ReleaseOf(new LessonId(lesson)) && at >= book.ReleaseOf(new PieceId(1)));
            Assert.False(Decide(Book(reach, pieceOut: false), facts, Draft, at).IsOpen);
        }
    });

    /// <summary>A course of two modules with two lessons each, and one lesson before them; all out since March.</summary>
    static (AccessBook Book, Piece Piece) Course(params (long Plan, Coverage Covers)[] promises)
    {
        var piece = new Piece { Id = new(1), ShelfId = new(1), EditionId = new(3), Ready = true };
        piece.Release(Day(3, 1));
        Lesson In(long id, long? module) { var l = Lesson(id, Day(3, 1)); l.ModuleId = module is { } m ? new(m) : null; return l; }
        piece.Attach(
            Outline.Of([new Module { Id = new(10), PieceId = piece.Id, Title = "Week 1", Position = 1 },
            new Module { Id = new(20), PieceId = piece.Id, Title = "Week 2", Position = 2 }], [In(1, null), In(11, 10), In(12, 10), In(21, 20), In(22, 20)]));
        var plans = promises.GroupBy(p => p.Plan).Select(
            g => new Plan
            {
                Id = new(g.Key),
                Name = $"Tier {g.Key}",
                Rank = (int)g.Key,
                Promise = [.. g.Select(x => new Inclusion(x.Covers, new Reach.EverythingReleased(), new Keep.WhatHadOpened()))]
            });
        return (new([.. plans], [piece], Editions), piece);
    }

    static readonly long[] All = [1, 11, 12, 21, 22];

    [Fact]
    public void A_module_or_a_lesson_can_be_promised_alone()
    {
        var at = Day(4, 1);
        long[] Opened(params Coverage[] covers) =>
            [.. All.Where(l => Decide(Course([.. covers.Select(c => (1L, c))]).Book, Member(Day(2, 1), at), l, at).IsOpen)];
        Assert.Equal([11, 12], Opened(new Coverage.OneModule(new(10))));
        Assert.Equal([22], Opened(new Coverage.OneLesson(new(22))));
        Assert.Equal([11, 12, 22], Opened(new Coverage.OneLesson(new(22)), new Coverage.OneModule(new(10))));
        Assert.Equal(All, Opened(new Coverage.OnePiece(new(1))));
        // A lesson outside all modules is in none, and numbers of one kind are not those of another.
        Assert.Empty(Opened(new Coverage.OneModule(new(1)), new Coverage.OneLesson(new(10)), new Coverage.OneModule(new(0)), new Coverage.OneLesson(new(0))));
        // The piece as a whole isn't theirs.
        var (book, piece) = Course((1, new Coverage.OneModule(new(10))));
        Assert.Equal(AccessRule.NotCovered, book.Decide(Member(Day(2, 1), at), piece.Id, at).Rule);
    }

    [Fact]
    public void What_is_added_to_a_promised_module_is_covered_too()
    {
        var at = Day(4, 1);
        var piece = Course().Piece;
        var more = Lesson(13, Day(3, 15));
        more.ModuleId = new(10);
        var later = new Piece { Id = new(1), ShelfId = new(1), EditionId = new(3), Ready = true };
        later.Release(Day(3, 1));
        later.Attach(Outline.Of(piece.Outline.Modules, [.. piece.Outline.Lessons, more]));
        var book =
            new AccessBook(
            [new Plan { Id = new(1), Name = "Tier", Promise = [new(new Coverage.OneModule(new(10)), new Reach.EverythingReleased(), new Keep.Nothing())] }],
            [later], Editions);
        Assert.True(Decide(book, Member(Day(2, 1), at), 13, at).IsOpen);
    }

    [Fact]
    public void The_way_in_to_a_lesson_names_who_promises_no_more_than_it()
    {
        var at = Day(4, 1);
        var (book, piece) = Course((1, new Coverage.OneLesson(new(12))), (2, new Coverage.OneModule(new(20))), (3, new Coverage.OnShelf(new(1))));
        Assert.Equal([1L, 3], book.PlansThatOpen(new LessonId(12), at).Select(p => p.Id.Value));
        Assert.Equal([2L, 3], book.PlansThatOpen(new LessonId(21), at).Select(p => p.Id.Value));
        Assert.Equal([3L], book.PlansThatOpen(piece.Id, at).Select(p => p.Id.Value));
        // Whoever is promised something in it hears of it.
        Assert.Equal([1L, 2, 3], book.PlansThatCover(piece.Id).Select(p => p.Id.Value));
        var lesson = piece.Outline.Lessons.Single(l => l.Id == new LessonId(12));
        Assert.Equal(["Tier 1", "Tier 3"], Why.Explain(book, MemberFacts.Nobody, piece, lesson, at, London).WouldOpen.OfType<WouldOpen.Joining>()
            .Select(j => j.Plan.Name));
        Assert.Equal("this module, until you leave",
            PromiseWords.Describe(new(new Coverage.OneModule(new(20)), new Reach.EverythingReleased(), new Keep.Nothing())));
    }

    static readonly Gen<Coverage> GenCoverage = Gen.Select(Gen.Int[0, 4], Gen.Int[0, 4], Gen.Int[0, 1]).Select((kind, lesson, module) => kind switch
    {
        0 => new Coverage.Everything(),
        1 => new Coverage.OnShelf(new(1 + module)),
        2 => new Coverage.OnePiece(new(1 + module)),
        3 => new Coverage.OneModule(new(module == 0 ? 10 : 20)),
        _ => (Coverage)new Coverage.OneLesson(new(All[lesson])),
    });

    [Fact]
    public void Promising_more_closes_nothing_and_a_whole_opens_all_its_parts() => Gen.Select(GenCoverage.Array[0, 3], GenCoverage).Sample((covers, more) =>
    {
        var at = Day(4, 1);
        var facts = Member(Day(2, 1), at);
        var (before, piece) = Course([(1, new Coverage.OnShelf(new(9))), .. covers.Select(c => (1L, c))]);
        var after = Course([(1, new Coverage.OnShelf(new(9))), .. covers.Append(more).Select(c => (1L, c))]).Book;
        foreach (var l in All)
        {
            if (Decide(before, facts, l, at).IsOpen) Assert.True(Decide(after, facts, l, at).IsOpen);
            if (before.Decide(facts, piece.Id, at).IsOpen) Assert.True(Decide(before, facts, l, at).IsOpen);
            // Who could open it by joining, and who can by holding it, is decided by one rule.
            Assert.Equal(Decide(before, facts, l, at).IsOpen, before.PlansThatOpen(new LessonId(l), at).Count > 0);
        }
    });

    [Fact]
    public void Why_speaks_of_the_lesson()
    {
        var book = Book(new Reach.FromJoining());
        var at = Day(4, 20);
        var piece = new Piece { Id = new(1), ShelfId = new(1), EditionId = new(3), Ready = true };
        piece.Release(Day(3, 1));
        Assert.Contains("10 April 2026", Why.Explain(book, Member(Day(4, 5), at), piece, Lesson(Later, Day(4, 10)), at, London).RestsOn[^1],
            StringComparison.Ordinal);
        Assert.Equal("This lesson is open to everybody.",
            Why.Explain(book, MemberFacts.Nobody, piece, Lesson(Teaser, Day(3, 1), teaser: true), at, London).ForMember);
        Assert.Equal(["Keeper"], Why.Explain(Book(new Reach.EverythingReleased()), MemberFacts.Nobody, piece, Lesson(WithIt, Day(3, 1)), at, London)
            .WouldOpen.OfType<WouldOpen.Joining>().Select(j => j.Plan.Name));
    }

    [Fact]
    public void An_edition_says_what_it_still_needs_and_what_each_tier_gets()
    {
        var piece = new Piece { Id = new(1), ShelfId = new(1), Title = "Box", Ready = true, Cover = new FileId(1) };
        piece.Attach(Outline.Of([], [new Lesson { Id = new(1), Ready = true, Minutes = 5 }, new Lesson { Id = new(2), Title = "Half" }]));
        var draft = new Piece { Id = new(2), ShelfId = new(2), Title = "Draft" };
        Plan[] plans =
            [new() { Id = new(1), Name = "Meadow", Rank = 1,
            Promise = [new(new Coverage.OnShelf(new(1)), new Reach.EverythingReleased(), new Keep.Nothing())] },
            new() { Id = new(2), Name = "Empty", Rank = 2 }];
        var book = new AccessBook(plans, [piece, draft], []);
        var edition = new Edition { Id = new(1), Opening = "" };
        string[] Open(params Piece[] parts) => [.. EditionReadiness.Of(edition, parts, [], book).Where(r => !r.Ok).Select(r => r.Text)];
        Assert.Equal(["nothing is in it yet"], Open());
        Assert.Equal(["1 draft lesson in “Box” would stay closed", "“Draft” is a draft and would stay closed", "minutes are missing in 1 of 2",
            "1 piece without a cover", "the announcement’s opening words aren’t written", "1 of 2 are in nobody’s promise"], Open(piece, draft));
        Assert.Equal([("Meadow", 1), ("Empty", 0)], EditionReadiness.Gives([piece, draft], [], book, Day(4, 1)).Select(g => (g.Plan.Name, g.New)));
        Assert.Contains(Open([.. Enumerable.Repeat(piece, 9)]), t => t.StartsWith("9 parts are a lot", StringComparison.Ordinal));
    }
}
