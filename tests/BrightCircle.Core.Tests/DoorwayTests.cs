using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>What those meet who may not open something, and what comes along with a plan.</summary>
public class DoorwayTests
{
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant At(int month, int day, int hour = 9) => London.At(new(2026, month, day, hour, 0));

    [Fact]
    public void The_nearest_word_counts_field_by_field()
    {
        var piece = new DoorwayWish(Strangers: "piece", Outline: false);
        var shelf = new DoorwayWish(DoorwayKind.Extract, Strangers: "shelf", Members: "shelf members", ExtractWords: 50, NotYet: "soon");
        var site = new DoorwayWish(DoorwayKind.NotFound, "site", "site members", "site soon", new FileId(3), "Come in", 200, "/tiers", true, new FileId(4));
        Assert.Equal(new DoorwayRule(DoorwayKind.Extract, "piece", "shelf members", "soon", new FileId(3), "Come in", 50, "/tiers", false, new FileId(4)),
            DoorwayRule.Of(piece, shelf, site));
        Assert.Equal(DoorwayRule.Usual, DoorwayRule.Of(null, new DoorwayWish(), null));
        Assert.Equal(DoorwayKind.NotFound, DoorwayRule.Of(null, null, site).Kind);
        // Another page that nobody names is the usual doorway; one that a wider place names is led to.
        Assert.Equal(DoorwayKind.Shown, DoorwayRule.Of(new DoorwayWish(DoorwayKind.AnotherPage)).Kind);
        Assert.Equal(DoorwayKind.AnotherPage, DoorwayRule.Of(new DoorwayWish(DoorwayKind.AnotherPage), site).Kind);
        Assert.Equal([new FileId(3), new FileId(4)], site.UsedFiles());
        Assert.Empty(piece.UsedFiles());
        Assert.True(new DoorwayWish().IsEmpty);
        Assert.False(new DoorwayWish(Outline: true).IsEmpty);
    }

    [Theory]
    [InlineData(400, 120), InlineData(241, 120), InlineData(240, 120), InlineData(239, 119), InlineData(3, 1), InlineData(1, 0), InlineData(0, 0)]
    public void An_extract_is_never_more_than_half(int words, int shown) => Assert.Equal(shown, DoorwayRule.Usual.ShownOf(words));

    [Theory]
    [InlineData("/tiers", true), InlineData("/", true), InlineData("https://elsewhere.example/x", true), InlineData("https://", false)]
    [InlineData("//elsewhere.example", false), InlineData("http://elsewhere.example", false), InlineData("javascript:alert(1)", false)]
    [InlineData("", false), InlineData("/a b", false), InlineData("/a\\b", false), InlineData("/a\nb", false), InlineData("tiers", false)]
    public void A_page_is_a_path_of_the_site_or_a_full_address(string address, bool good)
    {
        Assert.Equal(good, DoorwayWish.IsPage(address));
        var wish = new DoorwayWish(DoorwayKind.AnotherPage, Page: address);
        Assert.Equal(good, wish.Wrong(DoorwayRule.Of(wish)) is null);
    }

    [Fact]
    public void What_is_too_long_too_short_or_leads_to_another_door_is_told_at_its_field()
    {
        static string? Field(DoorwayWish wish, DoorwayWish? wider = null) => wish.Wrong(DoorwayRule.Of(wish, wider))?.Field;
        var (most, longer) = (new string('a', 600), new string('a', 601));
        Assert.Null(Field(new(Strangers: most, Members: most, NotYet: most, Button: new('b', 40), ExtractWords: 20)));
        Assert.Null(Field(new(ExtractWords: 1000, Page: "/" + new string('a', 299))));
        Assert.Equal("Strangers", Field(new(Strangers: longer)));
        Assert.Equal("Members", Field(new(Members: longer)));
        Assert.Equal("NotYet", Field(new(NotYet: longer)));
        Assert.Equal("Button", Field(new(Button: new('b', 41))));
        Assert.Equal("ExtractWords", Field(new(ExtractWords: 19)));
        Assert.Equal("ExtractWords", Field(new(ExtractWords: 1001)));
        Assert.Equal("Page", Field(new(Page: "/" + new string('a', 300))));
        Assert.Equal("Page", Field(new(Page: "/read/7/x")));
        Assert.Equal("Page", Field(new(Page: "/Lessons/7")));
        Assert.Equal("Page", Field(new(DoorwayKind.AnotherPage)));
        // A wider place says which page, or this one only keeps it in readiness.
        Assert.Null(Field(new(DoorwayKind.AnotherPage), new(Page: "/tiers")));
        Assert.Null(Field(new(DoorwayKind.Shown, Page: "/tiers")));
    }

    static readonly Inclusion Everything = new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing());

    static Piece Course(long id, int lessons, Instant? released, int? places = null)
    {
        var piece = new Piece { Id = new(id), ShelfId = new(1), Title = $"Piece {id}", Ready = true, Places = places };
        if (released is { } at) piece.Release(at);
        piece.Attach(Outline.Of([], Enumerable.Range(0, lessons).Select(i =>
        {
            var l = new Lesson { Id = new(id * 10 + i), PieceId = piece.Id, Position = i, Ready = true };
            if (released is { } out_) l.Release(out_);
            return l;
        })));
        return piece;
    }

    static MemberFacts Holds(Instant now, params (Plan Plan, Instant Since, Instant? Left)[] holdings) =>
        MemberFacts.From([.. holdings.Select(h => Holding.Imagined(h.Plan, null, h.Since, Make.London, h.Left))], now);

    [Fact]
    public void What_is_kept_quiet_is_not_there_for_those_who_cannot_open_it()
    {
        var now = At(11, 20);
        Piece[] pieces = [Course(1, 2, At(10, 1)), Course(2, 1, At(10, 1), places: 5), Course(3, 2, At(10, 1))];
        var (one, needs, paced) = (Make.Tier(1, 1, Everything with { Covers = new Coverage.OnePiece(new(1)), Keep = new Keep.Nothing() }),
            Make.Tier(2, 2, Everything with { Needs = [new Need.DonePiece(new(3))] }),
            Make.Tier(3, 3, Everything with { Pace = new Pace.Steps(7, PaceUnit.Days, AfterPrevious: true) }));
        Plan[] plans = [one, needs, paced];
        AccessBook Book(params PieceId[] quiet) => new(plans, pieces, [], [], London, quiet: quiet.ToHashSet());
        var (aloud, still) = (Book(), Book(new(1), new PieceId(2)));
        (MemberFacts, Thing, AccessRule)[] hidden =
        [
            (MemberFacts.Nobody, new PieceId(1), AccessRule.NothingHeld), (MemberFacts.Nobody, new LessonId(10), AccessRule.NothingHeld),
            (Holds(now, (one, At(11, 1), null)), new PieceId(2), AccessRule.NotCovered),
            (Holds(now, (one, At(10, 1), At(11, 1))), new PieceId(1), AccessRule.HoldingOver),
        ];
        foreach (var (facts, thing, rule) in hidden)
        {
            Assert.Equal((AccessState.Locked, rule), (aloud.Decide(facts, thing, now).State, aloud.Decide(facts, thing, now).Rule));
            Assert.Equal(new AccessDecision(AccessState.Hidden, AccessRule.KeptQuiet), still.Decide(facts, thing, now));
        }
        // Whoever holds what covers it, and what opens by itself, is told as ever.
        var same = new (MemberFacts, Thing)[]
        {
            (Holds(now, (one, At(11, 1), null)), new PieceId(1)), (Holds(now, (needs, At(11, 1), null)), new PieceId(1)),
            (Holds(now, (paced, At(11, 18), null)), new LessonId(11)), (MemberFacts.Team, new PieceId(1)), (Holds(now, (paced, At(11, 1), null)),
                new PieceId(2)),
            (MemberFacts.Nobody, new PieceId(3)),
        };
        foreach (var (facts, thing) in same) Assert.Equal(aloud.Decide(facts, thing, now), still.Decide(facts, thing, now));
        Assert.Equal(AccessRule.NeedUnmet, still.Decide(Holds(now, (needs, At(11, 1), null)), new PieceId(1), now).Rule);
        Assert.Equal(AccessRule.PreviousFirst, still.Decide(Holds(now, (paced, At(11, 18), null)), new LessonId(11), now).Rule);
        Assert.Equal(AccessRule.NoPlace, still.Decide(Holds(now, (paced, At(11, 1), null)), new PieceId(2), now).Rule);
        // The team is told why, and what would open it.
        var why = Why.Explain(still, MemberFacts.Nobody, pieces[0], now, London);
        Assert.Equal("Not shown.", why.Answer);
        Assert.Contains(why.WouldOpen.OfType<WouldOpen.Joining>(), j => j.Plan.Id == one.Id);
    }

    [Fact]
    public void A_bonus_opens_what_the_other_plan_opens_all_at_once_and_closes_with_what_gave_it()
    {
        var now = At(11, 20);
        var piece = Course(1, 3, At(10, 1));
        var pass = Make.Pass(7, Everything with
        {
            Covers = new Coverage.OnePiece(new(1)),
            Pace = new Pace.Steps(7, PaceUnit.Days),
            Keep = new Keep.WhatHadOpened()
        },
            new Inclusion(new Coverage.WhatAPlanOpens(new(1)), new Reach.EverythingReleased(), new Keep.Nothing()));
        var tier = Make.Tier(1, 1, Everything with { Covers = new Coverage.OnShelf(new(9)) },
            new Inclusion(new Coverage.WhatAPlanOpens(new(7)), new Reach.EverythingReleased(), new Keep.Nothing()));
        var timeline = new PieceTimeline(new(1), null, null, null, new Pace.Steps(3, PaceUnit.Days), new Dictionary<LessonId, int>());
        AccessBook book = new([tier, pass], [piece], [], [], London, [timeline]);
        var last = new LessonId(12);
        // By itself the pass keeps its pace; as a bonus it doesn't, whatever the piece's own.
        Assert.Equal(AccessState.OpensAt, book.Decide(Holds(now, (pass, At(11, 20), null)), last, now).State);
        var given = book.Decide(Holds(now, (tier, At(11, 20), null)), last, now);
        Assert.Equal((AccessState.Open, 1), (given.State, given.Inclusion));
        Assert.Null(book.TurnOf(Holds(now, (tier, At(11, 20), null)), given, last));
        // Those who joined long before have it too; who left doesn't, since the line that brings it keeps nothing.
        Assert.True(book.Decide(Holds(now, (tier, At(9, 1), null)), last, now).IsOpen);
        Assert.Equal(AccessRule.HoldingOver, book.Decide(Holds(now, (tier, At(9, 1), At(11, 1))), last, now).Rule);
        Assert.True(book.Decide(Holds(now, (tier, At(11, 1), null), (pass, At(9, 1), null)), last, now).IsOpen);
        Assert.Equal([tier.Id, pass.Id], book.PlansThatCover(new(1)).OrderBy(p => p.Id.Value).Select(p => p.Id));
        Assert.Contains("everything that Pass 7 opens, as a bonus", Why.Explain(book, Holds(now, (tier, At(11, 20), null)), piece,
            piece.Outline.Lessons[2], now,
            London, _ => "everything that Pass 7 opens").RestsOn[1], StringComparison.Ordinal);
        Assert.Equal(new(PromisedWay.Open, false), PromiseTable.Of(tier, piece, id => id == pass.Id ? pass : null));
        Assert.Equal(PieceCovering.Not, PromiseTable.Covering(tier.Promise[1].Covers, piece));
    }

    [Fact]
    public void A_bonus_brings_no_bonuses_of_its_own_and_ends_with_the_sooner_of_two_ends()
    {
        var inner = Make.Tier(2, 2, Everything with { Ends = Period.Months(2), Needs = [new Need.DoneLesson(new(5))] },
            new Inclusion(new Coverage.WhatAPlanOpens(new(1)), new Reach.EverythingReleased(), new Keep.Nothing()));
        Inclusion Brings(Period? ends) =>
            new(new Coverage.WhatAPlanOpens(new(2)), new Reach.EverythingReleased(), new Keep.WhatHadOpened(), Ends: ends,
                Needs: [new Need.HoldingPlan(new(8))]);
        Unfolded Only(Period? ends) => Assert.Single(Bonus.Unfold([Brings(ends)], id => id == inner.Id ? inner : null));
        Assert.Equal(Period.Months(2), Only(null).Inclusion.Ends);
        Assert.Equal(Period.Months(1), Only(Period.Months(1)).Inclusion.Ends);
        Assert.Equal(Period.Months(2), Only(Period.Months(3)).Inclusion.Ends);
        var u = Only(null);
        Assert.True(u.IsBonus);
        Assert.Equal(new Keep.WhatHadOpened(), u.Inclusion.Keep);
        Assert.Equal([new Need.HoldingPlan(new(8)), new Need.DoneLesson(new(5))], u.Inclusion.Needs!);
        Assert.True(Bonus.Comes(inner, new(1)));
        Assert.False(Bonus.Comes(inner, new(2)));
        var before = Make.Tier(3, 3);
        before.Earlier = [new(before.Id, 1, default, [Brings(null)], PromiseVersion.NoPaces)];
        Assert.True(Bonus.Comes(before, inner.Id));
        Assert.Empty(Bonus.Unfold([Brings(null)], _ => null));
        Assert.Equal([(0, false), (1, true), (2, false)], Bonus.Unfold([Everything, Brings(null), Everything], id => id == inner.Id ? inner : null)
            .Select(x => ((int)x.Line, x.IsBonus)));
    }

    [Fact]
    public void What_a_price_costs_more_is_said_only_where_it_can_be_compared()
    {
        Assert.Equal(Make.Pounds(10), Make.Monthly(18).MoreThan(Make.Monthly(8)));
        Assert.Equal(Make.Pounds(-10), Make.Monthly(8).MoreThan(Make.Monthly(18)));
        Assert.Null(Make.Monthly().MoreThan(new PriceTerms.Recurring(Make.Pounds(90), Period.Months(12))));
        Assert.Null(Make.Monthly().MoreThan(new PriceTerms.Recurring(new(900, new("EUR")), Period.Months(1))));
        Assert.Null(Make.Monthly().MoreThan(Make.Once()));
        Assert.Null(Make.Once().MoreThan(Make.Monthly()));
        Assert.Null(Make.Free.MoreThan(Make.Monthly()));
    }
}
