using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using CsCheck;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

public class StandingTests
{
    static Instant Day(int day) => Instant.FromUtc(2026, 1, 1, 9, 0) + Duration.FromDays(day);
    static Holding Hold(long plan, int start, params HoldingFact[] facts) => Make.Holding(plan, Day(start), facts: facts);
    static HoldingFact Paid(int from, int? to, int? at = null) => Make.Paid(Day(from), to is { } t ? Day(t) : null, Day(at ?? from));
    static HoldingFact Trial(int from, int to) => Make.Trial(Day(from), Day(to));
    static HoldingFact Grace(int from, int to) => Make.Grace(Day(from), Day(to));
    static HoldingFact Leaving(int at, int to) => Make.Leaving(Day(at), Day(to));
    static HoldingFact Ended(int at, EndReason why = EndReason.Lapsed) => Make.Ended(Day(at), why);
    /// <summary>Plans by their number: the higher the number the higher the rank; from 100 on they are passes.</summary>
    static Plan PlanOf(PlanId id) => id.Value >= 100 ? Make.Pass(id.Value) : Make.Tier(id.Value, (int)id.Value);
    static Standing At(int day, params Holding[] h) => Standings.At(h, PlanOf, Day(day)).Standing;

    [Fact]
    public void A_whole_life()
    {
        var h = Hold(1, 0, Trial(0, 7), Paid(7, 37), Grace(37, 44), Paid(37, 67, at: 40), Leaving(50, 67), Ended(67, EndReason.Left));
        Assert.Equal([Standing.Guest, Standing.Trial, Standing.Active, Standing.Grace, Standing.Active, Standing.Ending, Standing.Lapsed],
            new[] { -1, 3, 20, 38, 41, 55, 70 }.Select(d => At(d, h)));
    }

    [Fact]
    public void Paying_in_grace_is_known_only_from_then_on()
    {
        var h = Hold(1, 0, Paid(0, 30), Grace(30, 37), Paid(30, 60, at: 35));
        Assert.Equal([Standing.Active, Standing.Grace, Standing.Active], new[] { 29, 34, 35 }.Select(d => At(d, h)));
    }

    [Fact]
    public void A_renewal_that_is_just_due_is_not_a_lapse() => Assert.Equal(Standing.Active, At(31, Hold(1, 0, Paid(0, 30))));

    [Fact]
    public void Leaving_can_be_taken_back()
    {
        var h = Hold(1, 0, Paid(0, 30), Leaving(5, 30), Make.Staying(Day(10)), Paid(30, 60));
        Assert.Equal([Standing.Ending, Standing.Active, Standing.Active], new[] { 7, 11, 40 }.Select(d => At(d, h)));
    }

    [Fact]
    public void A_gift_runs_out_by_itself() => Assert.Equal(
        [Standing.Active, Standing.Lapsed], new[] { 5, 30 }.Select(
        d => At(d, Make.Holding(1, Day(0), source: HoldingSource.Gift, facts: Make.Given(Day(0), Day(30))))));

    static Holding FreeTier(long plan, int start) => Make.Holding(plan, Day(start), Make.Free, facts: Make.Given(Day(start)));
    static Holding Gift(long plan, int start, int? to = null) =>
        Make.Holding(plan, Day(start), source: HoldingSource.Gift, facts: Make.Given(Day(start), to is { } t ? Day(t) : null));
    static Holding Pass(int start) => Make.Holding(100, Day(start), Make.Once(), facts: Make.Paid(Day(start), null));

    [Fact]
    public void The_highest_bought_tier_decides_and_a_free_one_remains_when_it_is_gone()
    {
        var (free, paid) = (FreeTier(1, 0), Hold(2, 5, Paid(5, 35), Grace(35, 42), Ended(42)));
        Assert.Equal([Standing.Active, Standing.Active, Standing.Grace, Standing.Active], new[] { 2, 10, 38, 50 }.Select(d => At(d, free, paid)));
        Assert.Equal(new PlanId(1), Standings.At([free, paid], PlanOf, Day(50)).Plan);
        Assert.Equal(new PlanId(2), Standings.At([free, paid], PlanOf, Day(10)).Plan);
    }

    /// <summary>rules.md 5: a failing payment is never hidden by another holding, be it a gift of a higher tier, a free tier or a pass.</summary>
    [Fact]
    public void A_bought_tier_in_grace_shows_whatever_else_is_held()
    {
        var failing = Hold(2, 0, Paid(0, 15), Grace(15, 40));
        foreach (var other in new[] { Gift(9, 0), FreeTier(8, 0), Pass(0), Hold(7, 0, Paid(0, 40)) })
        {
            Assert.Equal((Standing.Grace, new PlanId(2)), (At(20, failing, other), Standings.At([other, failing], PlanOf, Day(20)).Plan!.Value));
            // On the day before the failure it doesn't.
            Assert.NotEqual(Standing.Grace, At(14, failing, other));
        }
    }

    [Fact]
    public void Bought_comes_before_given_and_given_before_free_whatever_their_ranks()
    {
        Assert.Equal(new PlanId(1), Standings.At([Gift(5, 0), Hold(1, 0, Paid(0, 40))], PlanOf, Day(20)).Plan);
        Assert.Equal(new PlanId(2), Standings.At([FreeTier(5, 0), Gift(2, 0)], PlanOf, Day(20)).Plan);
        Assert.Equal(new PlanId(5), Standings.At([FreeTier(5, 0), FreeTier(2, 0)], PlanOf, Day(20)).Plan);
        Assert.Equal((Standing.Ending, new PlanId(1)),
            (At(20, Gift(5, 0), Hold(1, 0, Paid(0, 40), Leaving(10, 40))),
            Standings.At([Gift(5, 0), Hold(1, 0, Paid(0, 40), Leaving(10, 40))], PlanOf, Day(20)).Plan!.Value));
    }

    [Fact]
    public void Passes_make_no_standing()
    {
        Assert.Equal((Standing.Guest, null), (At(20, Pass(0)), Standings.At([Pass(0)], PlanOf, Day(20)).Plan));
        Assert.Equal(Standing.Active, At(20, Pass(0), FreeTier(1, 0)));
        Assert.Equal(Standing.Lapsed, At(20, Pass(0), Hold(1, 0, Paid(0, 15), Ended(15))));
    }

    [Fact]
    public void Of_what_is_over_the_last_tier_begun_is_named() =>
        Assert.Equal(new PlanId(2), Standings.At([Hold(1, 0, Paid(0, 5), Ended(5)), Hold(2, 6, Paid(6, 9), Ended(9)), Pass(8)], PlanOf, Day(20)).Plan);

    /// <summary>Holdings of one rank, each in another state on day 20: grace first, since it shows whatever else is held; then the most generous.</summary>
    static (Standing, Holding)[] EachState() =>
    [
        (Standing.Grace, Hold(1, 0, Paid(0, 15), Grace(15, 40))),
        (Standing.Active, Hold(1, 0, Paid(0, 40))),
        (Standing.Trial, Hold(1, 0, Trial(0, 40))),
        (Standing.Ending, Hold(1, 0, Paid(0, 40), Leaving(10, 40))),
        (Standing.Lapsed, Hold(1, 0, Paid(0, 15), Ended(15))),
    ];

    [Fact]
    public void Of_two_holdings_of_one_rank_the_order_they_come_in_is_of_no_account()
    {
        var each = EachState();
        for (var i = 0; i < each.Length; i++)
            for (var j = 0; j < each.Length; j++)
                Assert.Equal(each[Math.Min(i, j)].Item1, At(20, each[i].Item2, each[j].Item2));
        Assert.Equal(Standing.Guest, At(20));
    }

    [Theory]
    [InlineData(Standing.Guest, "guest", false)]
    [InlineData(Standing.Trial, "trial", true)]
    [InlineData(Standing.Active, "active", true)]
    [InlineData(Standing.Grace, "grace", true)]
    [InlineData(Standing.Ending, "ending", true)]
    [InlineData(Standing.Lapsed, "lapsed", false)]
    public void Standings_have_the_words_of_the_house_and_say_whether_something_is_open(Standing standing, string word, bool current) =>
        Assert.Equal((word, current), (standing.Word(), standing.IsCurrent()));

    [Fact]
    public void The_life_line_has_no_gap_and_no_overlap_and_agrees_with_the_standing() =>
        Gen.Select(Gen.Int[0, 100], Gen.Int[1, 60], Gen.Int[1, 20], Gen.Int[0, 3]).Array[0, 4].Sample(specs =>
        {
            var holdings = specs.Select((s, i) => s.Item4 switch
            {
                0 => Hold(i + 1, s.Item1, Paid(s.Item1, null)),
                1 => Hold(i + 1, s.Item1, Paid(s.Item1, s.Item1 + s.Item2), Grace(s.Item1 + s.Item2, s.Item1 + s.Item2 + s.Item3),
                    Ended(s.Item1 + s.Item2 + s.Item3)),
                2 => Hold(i + 1, s.Item1, Trial(s.Item1, s.Item1 + s.Item3), Paid(s.Item1 + s.Item3, s.Item1 + s.Item3 + s.Item2)),
                _ => Hold(i + 1, s.Item1, Paid(s.Item1, s.Item1 + s.Item2), Leaving(s.Item1, s.Item1 + s.Item2)),
            }).ToArray();
            var line = LifeLine.Of(holdings, PlanOf, Day(0), Day(200)).Stretches;
            return line[0].From == Day(0) && line[^1].To == Day(200)
                && line.Zip(line.Skip(1)).All(p => p.First.To == p.Second.From && p.First.State != p.Second.State)
                && Enumerable.Range(0, 200).All(d => Standings.At(holdings, PlanOf, Day(d)) == line.Single(s => s.From <= Day(d) && Day(d) < s.To).State);
        });

    [Fact]
    public void The_ring_shows_the_least_finished_part()
    {
        var shelf = new Shelf { Id = new(1), Order = 1 };
        var edition = new Edition { Id = new(1), FirstDay = new(2026, 5, 1), Scheduled = true };
        Piece Part(bool ready) => new() { EditionId = edition.Id, ShelfId = shelf.Id, Ready = ready };
        RingState State(params Piece[] parts) => YearRing.For(new(2026, 1), [shelf], [edition], parts).Cells.Single(c => c.Month == new YearMonth(2026, 5))
            .State;
        Assert.Equal([RingState.Empty, RingState.Draft, RingState.Scheduled, RingState.Draft],
            new[] { State(), State(Part(false)), State(Part(true)), State(Part(true), Part(false)) });
        Assert.Equal(12, YearRing.For(new(2026, 1), [shelf], [edition], []).Cells.Count);
    }
}
