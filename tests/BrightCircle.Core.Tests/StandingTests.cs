using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using CsCheck;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

public class StandingTests
{
    static Instant Day(int day) => Instant.FromUtc(2026, 1, 1, 9, 0) + Duration.FromDays(day);
    static Holding Hold(long plan, int start, params HoldingFact[] facts)
    {
        var h = new Holding { Id = new(plan), PlanId = new(plan), StartsAt = Day(start), Anchor = Day(start) };
        h.Facts.AddRange(facts);
        return h;
    }

    static HoldingFact Paid(int from, int? to, int? at = null) => HoldingFact.Paid(default, default, Day(from), to is { } t ? Day(t) : null, Day(at ?? from), null);
    static HoldingFact Trial(int from, int to) => HoldingFact.Trial(default, default, Day(from), Day(to), Day(from), null);
    static HoldingFact Grace(int from, int to) => HoldingFact.Grace(default, default, Day(from), Day(to));
    static HoldingFact Ended(int at, EndReason why = EndReason.Lapsed) => HoldingFact.Ended(default, default, Day(at), why);
    static Standing At(int day, params Holding[] h) => Standings.At(h, p => (int)p.Value, Day(day)).Standing;

    [Fact]
    public void A_whole_life()
    {
        var h = Hold(1, 0, Trial(0, 7), Paid(7, 37), Grace(37, 44), Paid(37, 67, at: 40), HoldingFact.Leaving(default, default, Day(50), Day(67)), Ended(67, EndReason.Left));
        Assert.Equal([Standing.Guest, Standing.Trial, Standing.Active, Standing.Grace, Standing.Active, Standing.Ending, Standing.Lapsed], new[] { -1, 3, 20, 38, 41, 55, 70 }.Select(d => At(d, h)));
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
        var h = Hold(1, 0, Paid(0, 30), HoldingFact.Leaving(default, default, Day(5), Day(30)), HoldingFact.Staying(default, default, Day(10)), Paid(30, 60));
        Assert.Equal([Standing.Ending, Standing.Active, Standing.Active], new[] { 7, 11, 40 }.Select(d => At(d, h)));
    }

    [Fact]
    public void A_gift_runs_out_by_itself() => Assert.Equal([Standing.Active, Standing.Lapsed], new[] { 5, 30 }.Select(d => At(d, Hold(1, 0, HoldingFact.Given(default, default, Day(0), Day(30))))));

    [Fact]
    public void The_highest_plan_held_decides()
    {
        var free = Hold(1, 0, HoldingFact.Given(default, default, Day(0), null));
        var paid = Hold(2, 5, Paid(5, 35), Grace(35, 42), Ended(42));
        Assert.Equal([Standing.Active, Standing.Active, Standing.Grace, Standing.Active], new[] { 2, 10, 38, 50 }.Select(d => At(d, free, paid)));
        Assert.Equal(new PlanId(1), Standings.At([free, paid], p => (int)p.Value, Day(50)).Plan);
    }

    /// <summary>Holdings of one rank, each in another state on day 20, the most generous first.</summary>
    static Holding[] EachState() =>
    [
        Hold(1, 0, Paid(0, 40)),
        Hold(1, 0, Trial(0, 40)),
        Hold(1, 0, Paid(0, 40), HoldingFact.Leaving(default, default, Day(10), Day(40))),
        Hold(1, 0, Paid(0, 15), Grace(15, 40)),
        Hold(1, 0, Paid(0, 15), Ended(15)),
    ];

    [Fact]
    public void Of_two_holdings_of_one_rank_the_more_generous_decides_in_whatever_order_they_come()
    {
        var (states, each) = (new[] { Standing.Active, Standing.Trial, Standing.Ending, Standing.Grace, Standing.Lapsed }, EachState());
        for (var i = 0; i < each.Length; i++)
            for (var j = 0; j < each.Length; j++)
                Assert.Equal(states[Math.Min(i, j)], At(20, each[i], each[j]));
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
                1 => Hold(i + 1, s.Item1, Paid(s.Item1, s.Item1 + s.Item2), Grace(s.Item1 + s.Item2, s.Item1 + s.Item2 + s.Item3), Ended(s.Item1 + s.Item2 + s.Item3)),
                2 => Hold(i + 1, s.Item1, Trial(s.Item1, s.Item1 + s.Item3), Paid(s.Item1 + s.Item3, s.Item1 + s.Item3 + s.Item2)),
                _ => Hold(i + 1, s.Item1, Paid(s.Item1, s.Item1 + s.Item2), HoldingFact.Leaving(default, default, Day(s.Item1), Day(s.Item1 + s.Item2))),
            }).ToArray();
            var line = LifeLine.Of(holdings, p => (int)p.Value, Day(0), Day(200)).Stretches;
            return line[0].From == Day(0) && line[^1].To == Day(200) && line.Zip(line.Skip(1)).All(p => p.First.To == p.Second.From && p.First.State != p.Second.State)
                && Enumerable.Range(0, 200).All(d => Standings.At(holdings, p => (int)p.Value, Day(d)) == line.Single(s => s.From <= Day(d) && Day(d) < s.To).State);
        });

    [Fact]
    public void The_ring_shows_the_least_finished_part()
    {
        var shelf = new Shelf { Id = new(1), Order = 1 };
        var edition = new Edition { Id = new(1), FirstDay = new(2026, 5, 1), Scheduled = true };
        Piece Part(bool ready) => new() { EditionId = edition.Id, ShelfId = shelf.Id, Ready = ready };
        RingState State(params Piece[] parts) => YearRing.For(new(2026, 1), [shelf], [edition], parts).Cells.Single(c => c.Month == new YearMonth(2026, 5)).State;
        Assert.Equal([RingState.Empty, RingState.Draft, RingState.Scheduled, RingState.Draft], new[] { State(), State(Part(false)), State(Part(true)), State(Part(true), Part(false)) });
        Assert.Equal(12, YearRing.For(new(2026, 1), [shelf], [edition], []).Cells.Count);
    }
}
