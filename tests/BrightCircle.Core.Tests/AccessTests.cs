using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

public class AccessTests
{
    static readonly SiteCalendar London = SiteCalendar.For("Europe/London");
    static Instant Day(int month, int day, int year = 2026) => London.At(new(year, month, day, 9, 0));

    /// <summary>Twelve monthly editions of 2026 on two shelves, a piece each; those to October are out, November is scheduled, December a draft.</summary>
    static (List<Edition> Editions, List<Piece> Pieces) Year()
    {
        var editions = new List<Edition>();
        var pieces = new List<Piece>();
        for (var m = 1; m <= 12; m++)
        {
            var e = new Edition { Id = new(m), FirstDay = new(2026, m, 1), ReleaseAt = Day(m, 1), Scheduled = m <= 11 };
            if (m <= 10) e.Release(Day(m, 1));
            editions.Add(e);
            for (var s = 1; s <= 2; s++)
            {
                var p = new Piece { Id = new(m * 10 + s), ShelfId = new(s), EditionId = e.Id, Title = $"{m}/{s}", Ready = m <= 11 };
                if (m <= 10) p.Release(Day(m, 1));
                pieces.Add(p);
            }
        }
        return (editions, pieces);
    }

    static Plan Plan(long id, params Inclusion[] promise) => new() { Id = new(id), Name = $"Plan {id}", Rank = (int)id, Promise = promise };
    static Inclusion Of(Coverage covers, Reach reach, Keep keep) => new(covers, reach, keep);
    static readonly Reach All = new Reach.EverythingReleased(), Joining = new Reach.FromJoining(), Paid = new Reach.WhilePaid();
    static readonly Keep Nothing = new Keep.Nothing(), Opened = new Keep.WhatHadOpened();
    static readonly Coverage Everything = new Coverage.Everything();

    static AccessBook Book(params Plan[] plans)
    {
        var (e, p) = Year();
        return new(plans, p, e);
    }

    static Holding Hold(long plan, Instant start, params HoldingFact[] facts) =>
        Make.Holding(plan, start, facts: facts.Length == 0 ? [Make.Paid(start, null)] : facts);

    static HoldingFact PaidFor(Instant from, Instant to) => Make.Paid(from, to);
    static HoldingFact End(Instant at, EndReason why = EndReason.Left) => Make.Ended(at, why);
    static AccessDecision Decide(AccessBook book, Instant at, long piece, params Holding[] holdings) =>
        book.Decide(MemberFacts.From(holdings, at), new PieceId(piece), at);

    [Fact]
    public void A_stranger_finds_it_locked_with_the_day_it_comes_out_and_drafts_hidden()
    {
        var book = Book(Plan(1, Of(Everything, All, Nothing)));
        Assert.Equal((AccessState.Locked, AccessRule.NothingHeld), (Decide(book, Day(10, 15), 31).State, Decide(book, Day(10, 15), 31).Rule));
        var coming = Decide(book, Day(10, 15), 111);
        Assert.Equal((AccessState.Locked, true, Day(11, 1)), (coming.State, coming.IsComing, coming.OpensAt));
        Assert.Equal(AccessState.Hidden, Decide(book, Day(10, 15), 121).State);
    }

    [Fact]
    public void Everything_released_is_open_and_the_scheduled_opens_at_its_time()
    {
        var book = Book(Plan(1, Of(Everything, All, Nothing)));
        var h = Hold(1, Day(10, 3));
        Assert.Equal(AccessRule.EverythingReleased, Decide(book, Day(10, 15), 11, h).Rule);
        var soon = Decide(book, Day(10, 15), 111, h);
        Assert.Equal((AccessState.OpensAt, Day(11, 1)), (soon.State, soon.OpensAt));
        Assert.Equal(AccessState.Hidden, Decide(book, Day(10, 15), 121, h).State);
    }

    [Fact]
    public void Whoever_joins_on_the_3rd_gets_that_months_edition()
    {
        var book = Book(Plan(1, Of(Everything, Joining, Nothing)));
        var h = Hold(1, Day(6, 3));
        Assert.Equal(AccessRule.BeforeJoining, Decide(book, Day(10, 15), 51, h).Rule);
        Assert.Equal(AccessRule.CurrentWhenJoining, Decide(book, Day(10, 15), 61, h).Rule);
        Assert.Equal(AccessRule.SinceJoining, Decide(book, Day(10, 15), 71, h).Rule);
    }

    [Fact]
    public void While_paid_leaves_out_what_came_in_a_gap()
    {
        var book = Book(Plan(1, Of(Everything, Paid, Nothing)));
        var h = Hold(1, Day(3, 10), PaidFor(Day(3, 10), Day(5, 10)), PaidFor(Day(7, 10), Day(11, 10)));
        Assert.Equal([false, true, true, true, false, true, true, true, true],
            new[] { 21, 31, 41, 51, 61, 71, 81, 91, 101 }.Select(p => Decide(book, Day(10, 15), p, h).IsOpen));
        Assert.Equal(AccessRule.OutsidePaidTime, Decide(book, Day(10, 15), 61, h).Rule);
    }

    [Fact]
    public void Shelf_and_piece_cover_only_themselves()
    {
        var book = Book(Plan(1, Of(new Coverage.OnShelf(new(2)), All, Nothing), Of(new Coverage.OnePiece(new(31)), All, Nothing)));
        var h = Hold(1, Day(10, 3));
        Assert.True(Decide(book, Day(10, 15), 12, h).IsOpen);
        Assert.True(Decide(book, Day(10, 15), 31, h).IsOpen);
        Assert.Equal(AccessRule.NotCovered, Decide(book, Day(10, 15), 11, h).Rule);
    }

    [Fact]
    public void What_had_opened_stays_after_leaving_and_nothing_else()
    {
        var book = Book(Plan(1, Of(Everything, Joining, Opened)), Plan(2, Of(Everything, All, Nothing)));
        var left = Hold(1, Day(6, 3), PaidFor(Day(6, 3), Day(8, 3)), End(Day(8, 3)));
        Assert.Equal(AccessRule.KeptAfterLeaving, Decide(book, Day(10, 15), 81, left).Rule);
        Assert.Equal(AccessRule.HoldingOver, Decide(book, Day(10, 15), 91, left).Rule);
        Assert.False(Decide(book, Day(10, 15), 51, left).IsOpen);
        var strict = Hold(2, Day(6, 3), PaidFor(Day(6, 3), Day(8, 3)), End(Day(8, 3)));
        Assert.Equal(AccessRule.HoldingOver, Decide(book, Day(10, 15), 81, strict).Rule);
    }

    [Theory]
    [InlineData(EndReason.Refunded)]
    [InlineData(EndReason.ChargedBack)]
    [InlineData(EndReason.EndedByTeam)]
    public void Nothing_is_kept_of_what_was_taken_back(EndReason why)
    {
        var book = Book(Plan(1, Of(Everything, Joining, Opened)));
        Assert.False(Decide(book, Day(10, 15), 71, Hold(1, Day(6, 3), PaidFor(Day(6, 3), Day(8, 3)), End(Day(8, 3), why))).IsOpen);
    }

    [Fact]
    public void What_came_in_grace_is_not_kept()
    {
        var book = Book(Plan(1, Of(Everything, Joining, Opened)));
        HoldingFact[] facts = [PaidFor(Day(6, 28), Day(7, 28)), Make.Grace(Day(7, 28), Day(8, 4))];
        Assert.True(Decide(book, Day(8, 2), 81, Hold(1, Day(6, 28), facts)).IsOpen);
        Assert.False(Decide(book, Day(8, 5), 81, Hold(1, Day(6, 28), [.. facts, End(Day(8, 4), EndReason.Lapsed)])).IsOpen);
    }

    [Fact]
    public void A_slow_worker_locks_nobody_out()
    {
        var book = Book(Plan(1, Of(Everything, Paid, Nothing)));
        Assert.True(Decide(book, Day(8, 15), 81, Hold(1, Day(6, 28), PaidFor(Day(6, 28), Day(7, 28)))).IsOpen);
    }

    [Fact]
    public void The_why_says_what_it_rests_on_and_what_would_open_it()
    {
        var (editions, pieces) = Year();
        var book = new AccessBook([Plan(1, Of(Everything, Joining, Opened)), Plan(2, Of(Everything, All, Nothing))], pieces, editions);
        var facts = MemberFacts.From([Hold(1, Day(6, 3))], Day(10, 15));
        var why = Why.Explain(book, facts, pieces.Single(p => p.Id == new PieceId(51)), Day(10, 15), London);
        Assert.Equal("Locked.", why.Answer);
        Assert.Contains("before you joined Plan 1 on 3 June 2026", why.ForMember, StringComparison.Ordinal);
        Assert.Contains(why.RestsOn, r => r.StartsWith("Released 1 May 2026", StringComparison.Ordinal));
        Assert.Equal(["Plan 2"], why.WouldOpen.OfType<WouldOpen.Joining>().Select(j => j.Plan.Name));
    }

    [Fact]
    public void Every_rule_has_words()
    {
        var (editions, pieces) = Year();
        var book =
            new AccessBook([Plan(1, Of(Everything, Joining, Opened), Of(new Coverage.OnShelf(new(2)), Paid, Nothing)),
            Plan(2, Of(new Coverage.OnShelf(new(1)), All, Nothing))], pieces, editions);
        MemberFacts[] people = [MemberFacts.Nobody, MemberFacts.Team, .. Cases().Select(h => MemberFacts.From(h, Day(10, 15)))];
        var rules = new HashSet<AccessRule>();
        foreach (var facts in people)
            foreach (var p in pieces)
            {
                rules.Add(book.Decide(facts, p.Id, Day(10, 15)).Rule);
                var why = Why.Explain(book, facts, p, Day(10, 15), London);
                Assert.All([why.Answer, why.ForMember, why.ForTeam], s => Assert.EndsWith(".", s, StringComparison.Ordinal));
            }
        Assert.True(rules.Count >= 9, $"only {rules.Count} rules were met");

        static IEnumerable<Holding[]> Cases() =>
        [
            [Hold(1, Day(6, 3))], [Hold(2, Day(6, 3))], [Hold(1, Day(6, 3), PaidFor(Day(6, 3), Day(8, 3)), End(Day(8, 3)))],
            [Hold(1, Day(3, 3), PaidFor(Day(3, 3), Day(4, 3)), PaidFor(Day(8, 3), Day(11, 3)))],
        ];
    }

    static readonly Coverage[] Coverages = [new Coverage.Everything(), new Coverage.OnShelf(new(1)), new Coverage.OnShelf(new(2)),
        new Coverage.OnePiece(new(52))];
    static readonly Gen<Inclusion> GenInclusion = Gen.Select(
        Gen.Int[0, 3], Gen.Int[0, 2], Gen.Bool, (c, r, k) => new Inclusion(Coverages[c], new[] { All, Joining, Paid }[r], k ? Opened : Nothing));
    static readonly Gen<Plan[]> GenPlans = GenInclusion.Array[0, 3].Array[3].Select(a => a.Select((p, i) => Plan(i + 1, p)).ToArray());
    static readonly Gen<Holding> GenHolding = Gen.Select(Gen.Int[1, 3], Gen.Int[0, 280], Gen.Int[1, 120], Gen.Int[0, 3]).Select((plan, start, length, kind) =>
    {
        var from = Day(1, 1) + Duration.FromDays(start);
        var to = from + Duration.FromDays(length);
        return kind switch
        {
            0 => Hold(plan, from),
            1 => Hold(plan, from, PaidFor(from, to), End(to)),
            2 => Hold(plan, from, PaidFor(from, to), Make.Grace(to, to + Duration.FromDays(7)), End(to + Duration.FromDays(7), EndReason.Lapsed)),
            _ => Hold(plan, from, PaidFor(from, to), End(from + Duration.FromDays(length / 2.0), EndReason.Refunded)),
        };
    });

    [Fact]
    public void Adding_a_holding_never_closes_anything() =>
        Gen.Select(GenPlans, GenHolding.Array[0, 4], GenHolding, Gen.Int[0, 300]).Sample((plans, held, more, day) =>
        {
            var book = Book(plans);
            var at = Day(1, 1) + Duration.FromDays(day);
            return Year().Pieces.All(p => !Decide(book, at, p.Id.Value, held).IsOpen || Decide(book, at, p.Id.Value, [.. held, more]).IsOpen);
        }, iter: Make.Tries(2000));

    [Fact]
    public void A_decision_is_the_same_in_any_order_of_holdings() =>
        Gen.Select(GenPlans, GenHolding.Array[0, 4], Gen.Int[0, 300]).Sample((plans, held, day) =>
        {
            var book = Book(plans);
            var at = Day(1, 1) + Duration.FromDays(day);
            return Year().Pieces.All(p => Decide(book, at, p.Id.Value, held).State == Decide(book, at, p.Id.Value, [.. held.Reverse()]).State);
        }, iter: Make.Tries(1000));

    [Fact]
    public void Nothing_opens_before_its_release() =>
        Gen.Select(GenPlans, GenHolding.Array[0, 4], Gen.Int[0, 300]).Sample((plans, held, day) =>
        {
            var book = Book(plans);
            var at = Day(1, 1) + Duration.FromDays(day);
            return Year().Pieces.All(p =>
            {
                var d = Decide(book, at, p.Id.Value, held);
                return d.State switch
                {
                    AccessState.Open => p.ReleasedAt <= at || book.ReleaseOf(p.Id) <= at,
                    AccessState.OpensAt => d.OpensAt > at
                    && d.OpensAt == book.ReleaseOf(p.Id),
                    _ => true
                };
            });
        }, iter: Make.Tries(1000));

    [Fact]
    public void A_pass_adds_nothing_where_all_it_would_ever_open_is_open()
    {
        var (editions, pieces) = Year();
        Inclusion Of(Coverage covers, Reach? reach = null) => new(covers, reach ?? new Reach.EverythingReleased(), new Keep.Nothing());
        var (all, october, december, nothing) = (Plan(1, Of(new Coverage.Everything())), Plan(2, Of(new Coverage.OnePiece(new(101)))),
            Plan(3, Of(new Coverage.OnePiece(new(121)))), Plan(4));
        var (both, fresh) = (Plan(5, Of(new Coverage.OnePiece(new(101))), Of(new Coverage.OnePiece(new(121)))),
            Plan(6, Of(new Coverage.Everything(), new Reach.FromJoining())));
        var book = new AccessBook([all, october, december, nothing, both, fresh], pieces, editions);
        var now = Day(10, 20);
        var holder = MemberFacts.From([Make.Holding(1, Day(1, 5), facts: Make.Paid(Day(1, 5), Day(12, 5)))], now);
        Assert.True(book.AddsNothing(holder, october.Id, now));
        Assert.False(book.AddsNothing(MemberFacts.Nobody, october.Id, now));
        // What is still to come isn't open yet, alone or beside what is.
        Assert.False(book.AddsNothing(holder, december.Id, now));
        Assert.False(book.AddsNothing(holder, both.Id, now));
        // A promise of nothing opens nothing; that isn't the same.
        Assert.False(book.AddsNothing(holder, nothing.Id, now));
        // What somebody holds may reach less far than the pass.
        var later = MemberFacts.From([Make.Holding(6, Day(10, 10), facts: Make.Paid(Day(10, 10), Day(12, 10)))], now);
        Assert.True(book.AddsNothing(later, october.Id, now));
        Assert.False(book.AddsNothing(later, all.Id, now));
    }
}
