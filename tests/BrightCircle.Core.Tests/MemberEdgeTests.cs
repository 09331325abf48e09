using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>Members at their edges: who may buy, what stands with a person, and how facts fold where they meet.</summary>
public class MemberEdgeTests
{
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant At(int month, int day, int hour = 9) => London.At(new(2026, month, day, hour, 0));
    static readonly Duration Tick = Duration.FromTicks(1);
    static readonly Instant Now = At(11, 20);

    static Price PriceFor(BuyerRule? rule) => new() { Id = new(1), PlanId = new(9), Terms = Make.Monthly(), Buyers = rule };
    static Holding Held(long plan) => Make.Holding(plan, At(9, 1), facts: Make.Paid(At(9, 1), null));
    static Holding Over(long plan) => Make.Holding(plan, At(9, 1), facts: [Make.Paid(At(9, 1), At(10, 1)), Make.Ended(At(10, 1))]);
    static Buyer Who(params Holding[] holdings) => new("Ada Berry", "ada@hives.example", Standing.Active, At(9, 1), holdings);
    static bool May(BuyerRule? rule, Buyer who) => who.May(PriceFor(rule), London, Now);

    [Fact]
    public void A_price_is_for_anybody_or_for_those_its_rule_names()
    {
        Assert.True(May(null, Buyer.Stranger));
        BuyerRule holders = new BuyerRule.Holders([new(1), new(2)]), former = new BuyerRule.FormerHolders([new(1), new(2)]), fresh = new BuyerRule.Newcomers();
        Assert.True(May(holders, Who(Held(2))));
        Assert.True(May(holders, Who(Held(5), Over(2), Held(1))));
        Assert.False(May(holders, Who(Held(5))));
        Assert.False(May(holders, Who(Over(1))));
        Assert.False(May(holders, Who(Over(1), Held(5))));
        Assert.False(May(holders, Buyer.Stranger));
        Assert.True(May(former, Who(Over(1))));
        Assert.True(May(former, Who(Over(1), Held(5))));
        Assert.False(May(former, Who(Over(1), Held(2))));
        Assert.False(May(former, Who(Held(1))));
        Assert.False(May(former, Who(Over(5))));
        Assert.False(May(former, Buyer.Stranger));
        Assert.True(May(fresh, Buyer.Stranger));
        Assert.True(May(fresh, Who(Make.Holding(1, At(9, 1), Make.Free, facts: Make.Given(At(9, 1))))));
        Assert.False(May(fresh, Who(Over(1))));
        Assert.False(May(fresh, Who(Make.Holding(1, At(9, 1), Make.Free, facts: Make.Given(At(9, 1))), Held(2))));
        Assert.True(May(new BuyerRule.Listed(new(Plan: new(1))), Who(Held(1))));
        Assert.False(May(new BuyerRule.Listed(new(Plan: new(1))), Who(Held(2))));
        Assert.False(May(new BuyerRule.Listed(new()), Buyer.Stranger));
    }

    [Fact]
    public void Each_part_of_a_list_narrows_it()
    {
        bool Fits(MemberFilter f, Buyer? who = null) => (who ?? Who(Held(1), Over(2))).Fits(f, London, Now);
        Assert.True(Fits(new()));
        Assert.True(Fits(new(" ")));
        Assert.True(Fits(new("BERRY")));
        Assert.True(Fits(new(" hives.example ")));
        Assert.True(Fits(new("berry ada@")));
        Assert.False(Fits(new("berries")));
        Assert.True(Fits(new(Standing: Standing.Active)));
        Assert.False(Fits(new(Standing: Standing.Guest)));
        Assert.True(Fits(new(Plan: new(1))));
        Assert.False(Fits(new(Plan: new(2))));
        Assert.False(Fits(new(Plan: new(3))));
        var joined = new LocalDate(2026, 9, 1);
        Assert.True(Fits(new(From: joined, To: joined)));
        Assert.False(Fits(new(From: joined.PlusDays(1))));
        Assert.False(Fits(new(To: joined.PlusDays(-1))));
        Assert.False(Fits(new(), Buyer.Stranger));
        Assert.True(new MemberFilter(" ").IsEverybody);
        foreach (var f in new MemberFilter[] { new("a"), new(Standing: Standing.Guest), new(Plan: new(1)), new(From: joined), new(To: joined) })
            Assert.False(f.IsEverybody);
    }

    [Fact]
    public void A_standing_is_taken_over_with_the_moment_it_changed()
    {
        var m = new Member { Id = new(1), JoinedAt = At(9, 1) };
        Assert.True(m.WantsNews);
        Assert.True(m.Stand(new(Standing.Guest, null), At(9, 1)));
        Assert.Equal(At(9, 1), m.StandingSince);
        Assert.False(m.Stand(new(Standing.Guest, null), At(9, 2)));
        Assert.True(m.Stand(new(Standing.Active, new(1)), At(9, 3)));
        Assert.Equal((Standing.Active, new PlanId(1), At(9, 3)), (m.Standing, m.StandingPlanId!.Value, m.StandingSince));
        // Another plan of the same standing: since as long as before.
        Assert.True(m.Stand(new(Standing.Active, new(2)), At(9, 4)));
        Assert.Equal((new PlanId(2), At(9, 3)), (m.StandingPlanId!.Value, m.StandingSince));
        Assert.False(m.Stand(new(Standing.Active, new(2)), At(9, 5)));
        Assert.True(m.Stand(new(Standing.Lapsed, new(2)), At(9, 6)));
        Assert.Equal(At(9, 6), m.StandingSince);
    }

    [Theory]
    [InlineData("Ada Berry", "Ada", "AB")]
    [InlineData("  Ada  van Berry ", "Ada", "AB")]
    [InlineData("Ada", "Ada", "A")]
    [InlineData("A", "A", "A")]
    [InlineData("", "", "?")]
    [InlineData("   ", "", "?")]
    public void Names_have_a_first_word_and_initials(string name, string first, string initials)
    {
        Assert.Equal(first, new Member { Name = name }.FirstName);
        Assert.Equal(initials, Member.Initials(name));
    }

    [Fact]
    public void Held_is_what_is_open_as_far_as_the_holding_goes()
    {
        void Is(HoldingState state, bool held, Holding h, Instant? at = null)
        {
            Assert.Equal(state, h.StateAt(at ?? Now));
            Assert.Equal(held, h.IsHeldAt(at ?? Now));
        }
        Is(HoldingState.Active, true, Held(1));
        Is(HoldingState.NotYet, false, Held(1), At(8, 1));
        Is(HoldingState.Trial, true, Make.Holding(1, At(11, 18), facts: Make.Trial(At(11, 18), At(11, 25))));
        Is(HoldingState.Grace, true, Make.Holding(1, At(9, 1), facts: [Make.Paid(At(9, 1), At(11, 18)), Make.Grace(At(11, 18), At(11, 25))]));
        Is(HoldingState.Ending, true, Make.Holding(1, At(9, 1), facts: [Make.Paid(At(9, 1), At(12, 1)), Make.Leaving(At(11, 1), At(12, 1))]));
        Is(HoldingState.Over, false, Over(1));
        var paused = Held(1);
        paused.Facts.Add(paused.Paused(At(11, 19), At(11, 30)));
        Is(HoldingState.Paused, false, paused);
        var closed = Held(1);
        closed.Facts.Add(closed.Closed(At(11, 19)));
        Is(HoldingState.Closed, false, closed);
    }

    [Fact]
    public void What_became_known_at_a_moment_is_known_then()
    {
        var h = Held(1);
        h.Ended(At(11, 1), EndReason.Left);
        Assert.Equal(HoldingState.Active, h.TimelineAsOf(At(11, 1) - Tick).At(Now));
        Assert.Equal(HoldingState.Over, h.TimelineAsOf(At(11, 1)).At(Now));
        Assert.Equal(HoldingState.Over, h.TimelineAsOf(Now).At(Now));
        // Read before a fact, and after it.
        Assert.Equal(HoldingState.Over, h.StateAt(Now));
        var moved = Held(1);
        Assert.Equal(1, moved.LivesBy);
        moved.Moved(At(10, 1), 3);
        Assert.Equal(3, moved.LivesBy);
        Assert.Equal([1, 2], moved.Facts.Select(f => f.Seq));
        moved.Paid(At(12, 1), At(12, 1), At(12, 1));
        Assert.Throws<ArgumentException>(() => moved.Paid(At(12, 1), At(12, 1) - Tick, At(12, 1)));
    }

    [Fact]
    public void The_paid_time_ends_with_its_last_end_whichever_fact_came_last()
    {
        static Instant? Through(params HoldingFact[] facts) => Make.Holding(1, At(9, 1), facts: facts).Timeline.PaidThrough;
        Assert.Equal(At(12, 1), Through(Make.Paid(At(9, 1), At(12, 1)), Make.Paid(At(10, 1), At(11, 1), At(10, 1))));
        Assert.Equal(At(12, 1), Through(Make.Paid(At(9, 1), At(11, 1)), Make.Paid(At(10, 1), At(12, 1), At(10, 1))));
        Assert.Null(Through(Make.Paid(At(9, 1), null), Make.Paid(At(10, 1), At(12, 1), At(10, 1))));
        Assert.True(Make.Holding(1, At(9, 1), facts: [Make.Paid(At(9, 1), null), Make.Paid(At(10, 1), At(12, 1), At(10, 1))]).Timeline.IsPaidForEver);
        Assert.Null(Through());
        foreach (var (kind, paid) in new[] { (Make.Paid(At(9, 1), null), true), (Make.Trial(At(9, 1), At(9, 8)), true), (Make.Given(At(9, 1)), true),
            (Make.Grace(At(9, 1), At(9, 8)), false), (Make.Leaving(At(9, 1), At(9, 8)), false) }) Assert.Equal(paid, kind.IsPaidTime);
    }

    static Holding Pausing(Instant from, Instant? to, params (Instant From, Instant To)[] pauses)
    {
        var h = Make.Holding(1, from, facts: Make.Paid(from, to));
        foreach (var (a, b) in pauses) h.Paused(a, b);
        return h;
    }

    [Fact]
    public void Paid_time_is_without_its_pauses()
    {
        // 1 September to 1 October, paused 10 to 15 September: five days more, to 6 October, by hand.
        (Instant, Instant?)[] Of(Holding h) => [.. h.Timeline.PaidTime];
        Assert.Equal([(At(9, 1), At(9, 10)), (At(9, 15), At(10, 6))], Of(Pausing(At(9, 1), At(10, 1), (At(9, 10), At(9, 15)))));
        // From the first moment on; for ever; two of them; one that lies after all of it.
        Assert.Equal([(At(9, 5), At(10, 5))], Of(Pausing(At(9, 1), At(10, 1), (At(9, 1), At(9, 5)))));
        Assert.Equal([(At(9, 1), At(9, 10)), (At(9, 15), null)], Of(Pausing(At(9, 1), null, (At(9, 10), At(9, 15)))));
        Assert.Equal([(At(9, 1), At(9, 10)), (At(9, 15), At(9, 20)), (At(9, 25), At(10, 11))],
            Of(Pausing(At(9, 1), At(10, 1), (At(9, 10), At(9, 15)), (At(9, 20), At(9, 25)))));
        Assert.Equal([(At(9, 1), At(10, 1))], Of(Pausing(At(9, 1), At(10, 1), (At(10, 1), At(10, 5)))));
        Assert.Equal([(At(9, 1), At(10, 1))], Of(Pausing(At(9, 1), At(10, 1), (At(10, 20), At(10, 25)))));
    }

    [Fact]
    public void Facts_are_in_the_order_they_became_known_whatever_order_they_come_in()
    {
        // Left and stayed at one moment: the later said counts. Read from the end backwards, too.
        HoldingFact[] facts = [Make.Paid(At(9, 1), At(12, 1)), Make.Leaving(At(10, 1), At(12, 1)), Make.Staying(At(10, 1))];
        var h = Make.Holding(1, At(9, 1), facts: facts);
        h.Facts.Reverse();
        Assert.Null(h.Timeline.Leaving);
        Assert.Equal(HoldingState.Active, h.StateAt(At(11, 1)));
        var left = Make.Holding(1, At(9, 1), facts: [Make.Paid(At(9, 1), At(12, 1)), Make.Staying(At(10, 1)), Make.Leaving(At(10, 1), At(12, 1))]);
        left.Facts.Reverse();
        Assert.NotNull(left.Timeline.Leaving);
        // What was said earlier and written later comes first.
        var late = Make.Holding(1, At(9, 1), facts: [Make.Paid(At(9, 1), At(12, 1)), Make.Staying(At(10, 5)), Make.Leaving(At(10, 1), At(12, 1))]);
        Assert.Null(late.Timeline.Leaving);
        // The first end counts, and what is ended before it begins is over from then on.
        var twice = Make.Holding(1, At(9, 1), facts: [Make.Paid(At(9, 1), null), Make.Ended(At(10, 1)), Make.Ended(At(11, 1), EndReason.Refunded)]);
        Assert.Equal((At(10, 1), EndReason.Left), (twice.Ending!.At, twice.Ending.Reason!.Value));
        var before = Make.Holding(1, At(9, 1), facts: Make.Ended(At(8, 1)));
        Assert.Equal(At(8, 1), before.Timeline.Stretches[0].From);
        Assert.Equal(HoldingState.Over, before.StateAt(At(8, 15)));
        var never = Make.Holding(1, At(9, 1), facts: Make.Planned(At(8, 1)));
        Assert.Equal(HoldingState.NotYet, never.StateAt(At(8, 15)));
        // A stretch that was paid ahead and told of earlier stands where it begins.
        var ahead = Make.Holding(1, At(9, 1), facts: [Make.Paid(At(10, 1), At(11, 1), At(9, 1)), Make.Paid(At(9, 1), At(10, 1), At(9, 2))]);
        Assert.Equal([At(9, 1), At(10, 1)], ahead.Timeline.Paid.Select(f => f.From));
    }

    [Fact]
    public void The_last_failure_makes_the_grace()
    {
        HoldingFact paid = Make.Paid(At(9, 1), At(10, 1));
        Instant? Until(params HoldingFact[] graces) => Make.Holding(1, At(9, 1), facts: [paid, .. graces]).GraceAt(At(10, 3))?.To;
        Assert.Equal(At(10, 8), Until(Make.Grace(At(10, 1), At(10, 8))));
        Assert.Equal(At(10, 12), Until(Make.Grace(At(10, 1), At(10, 8)), Make.Grace(At(10, 2), At(10, 12))));
        Assert.Equal(At(10, 15), Until(Make.Grace(At(10, 1), At(10, 8)), Make.Grace(At(10, 1), At(10, 15))));
        // One that ends with the paid time, or before what is paid now, is over.
        Assert.Null(Until(Make.Grace(At(9, 20), At(10, 1))));
        Assert.Null(Make.Holding(1, At(9, 1), facts: [paid, Make.Grace(At(10, 1), At(10, 8)), Make.Paid(At(10, 2), At(11, 2))]).GraceAt(At(11, 5)));
        Assert.Null(Make.Holding(1, At(9, 1), facts: paid).GraceAt(At(10, 3)));
    }

    [Fact]
    public void An_end_of_its_own_ends_whatever_runs()
    {
        static Holding Of(params HoldingFact[] facts)
        {
            var terms = new PriceTerms.OnePayment(Make.Pounds(69)) { Access = new AccessLength.For(Period.Months(1)) };
            return Make.Holding(1, At(9, 1), terms, facts: facts);
        }
        var paid = Of(Make.Paid(At(9, 1), At(10, 1)));
        Assert.Equal(HoldingState.Active, paid.StateAt(At(10, 1) - Tick));
        Assert.Equal(HoldingState.Over, paid.StateAt(At(10, 1)));
        Assert.Equal(HoldingFactKind.Paid, paid.Timeline.StretchAt(At(10, 1))!.Value.Because!.Kind);
        var waits = Of(Make.Planned(At(9, 1)));
        Assert.Equal(HoldingFactKind.Planned, waits.Timeline.StretchAt(At(10, 1))!.Value.Because!.Kind);
        Assert.Equal(HoldingState.Over, waits.StateAt(At(10, 1)));
    }

    [Fact]
    public void What_is_planned_begins_on_its_day_and_a_change_waits_for_its_own()
    {
        var later = Make.Holding(1, At(10, 1), source: HoldingSource.Gift);
        later.Planned(At(9, 1));
        Assert.Equal(HoldingState.NotYet, later.StateAt(At(10, 1) - Tick));
        Assert.Equal(HoldingState.Active, later.StateAt(At(10, 1)));
        // Ordered, open at once, and not paid for: grace from its first moment.
        var ordered = Make.Holding(1, At(10, 1));
        ordered.Planned(At(10, 1));
        ordered.Grace(At(10, 1), At(10, 15));
        Assert.Equal(HoldingState.Grace, ordered.StateAt(At(10, 1)));
        Assert.Equal(At(10, 15), ordered.GraceAt(At(10, 2))!.To);
        // Something else takes its place in December: until then it runs, also while it is paused.
        var changes = Held(1);
        changes.Leaving(At(11, 1), At(12, 1), EndReason.Replaced);
        Assert.Equal(HoldingState.Active, changes.StateAt(At(11, 20)));
        Assert.Equal(HoldingState.Over, changes.StateAt(At(12, 1)));
        changes.Paused(At(11, 25), At(12, 20));
        Assert.Equal(HoldingState.Active, changes.StateAt(At(11, 25) - Tick));
        Assert.Equal(HoldingState.Paused, changes.StateAt(At(11, 25)));
        Assert.Equal(HoldingState.Over, changes.StateAt(At(12, 1)));
    }

    [Fact]
    public void A_life_line_is_of_its_time_alone()
    {
        Plan Of(PlanId id) => Make.Tier(id.Value, 1);
        var h = Make.Holding(1, At(9, 1), facts: [Make.Paid(At(9, 1), At(12, 1)), Make.Ended(At(10, 1)), Make.Ended(At(12, 1))]);
        LifeLine Line(Instant from, Instant until) => LifeLine.Of([h], Of, from, until);
        Assert.Equal([(At(9, 1), At(10, 1)), (At(10, 1), At(11, 1))], Line(At(9, 1), At(11, 1)).Stretches.Select(s => (s.From, s.To)));
        // What changes before it, or at its very end, isn't in it.
        Assert.Equal([(At(9, 15), At(10, 1))], Line(At(9, 15), At(10, 1)).Stretches.Select(s => (s.From, s.To)));
        Assert.Empty(Line(At(9, 15), At(9, 15)).Stretches);
        Assert.Empty(Line(At(9, 15), At(9, 14)).Stretches);
        // Of two tiers that are over the one that began last is named, the first of equals.
        StandingOn At2(params Holding[] held) => Standings.At(held, Of, Now);
        var (a, b) = (Over(1), Make.Holding(2, At(9, 5), facts: [Make.Paid(At(9, 5), At(10, 1)), Make.Ended(At(10, 1))]));
        Assert.Equal(new StandingOn(Standing.Lapsed, new(2)), At2(a, b));
        Assert.Equal(new StandingOn(Standing.Lapsed, new(2)), At2(b, a));
        Assert.Equal(new StandingOn(Standing.Lapsed, new(1)), At2(a, Over(3)));
        Assert.Equal(new StandingOn(Standing.Active, new(1)), At2(Held(1), Held(3)));
    }
}
