using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using CsCheck;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>Facts in their order, folded to the states of a holding.</summary>
public class TimelineTests
{
    static readonly Instant Zero = Instant.FromUtc(2026, 11, 1, 9, 0);
    static Instant Day(double n) => Zero + Duration.FromDays(n);
    static HoldingState At(double day, params HoldingFact[] facts) => Make.Holding(1, Zero, facts: facts).StateAt(Day(day));

    [Fact]
    public void Of_two_facts_known_at_the_same_moment_the_later_one_counts()
    {
        var (leaving, staying) = (Make.Leaving(Day(5), Day(30)), Make.Staying(Day(5)));
        Assert.Equal(HoldingState.Active, At(6, Make.Paid(Zero, Day(30)), leaving, staying));
        Assert.Equal(HoldingState.Ending, At(6, Make.Paid(Zero, Day(30)), staying, leaving));
    }

    [Fact]
    public void Nothing_follows_an_ending()
    {
        Assert.Equal(HoldingState.Over, At(6, Make.Paid(Zero, Day(30)), Make.Ended(Day(5)), Make.Staying(Day(5.5))));
        Assert.Equal(HoldingState.Over, At(5, Make.Paid(Zero, Day(30)), Make.Ended(Day(5))));
        Assert.Equal(HoldingState.Active, At(4.99, Make.Paid(Zero, Day(30)), Make.Ended(Day(5))));
    }

    [Fact]
    public void Before_it_begins_it_is_not_yet() =>
        Assert.Equal([HoldingState.NotYet, HoldingState.Active], new[] { -0.01, 0 }.Select(d => At(d, Make.Paid(Zero, Day(30)))));

    [Fact]
    public void A_missed_period_was_open_and_is_no_paid_time()
    {
        HoldingFact[] facts = [Make.Paid(Zero, Day(30)), Make.Missed(Day(30), Day(60), Day(95)), Make.Paid(Day(90), Day(120), Day(95))];
        Assert.Equal(HoldingState.Active, At(45, facts));
        Assert.DoesNotContain(facts, f => f is { Kind: HoldingFactKind.Missed, IsPaidTime: true });
        Assert.Single(Make.Holding(1, Zero, facts: facts).Timeline.Missed);
        Assert.Empty(Make.Holding(1, Zero, facts: [.. facts, Make.Waived(Day(96))]).Timeline.Missed);
    }

    // What begins by itself (a planned change, an order that is open while its money is on its way) and isn't paid for is in grace, and stays so until it is
    // ended: the lapse a minute after finds it there.
    [Fact]
    public void What_begins_by_itself_and_is_not_paid_is_in_grace_until_it_is_ended()
    {
        var h = Make.Holding(1, Day(5));
        h.Planned(Zero);
        Assert.Equal([HoldingState.NotYet, HoldingState.Active], new[] { 4.99, 5 }.Select(d => h.StateAt(Day(d))));
        h.Grace(Day(5), Day(12));
        Assert.Equal([HoldingState.NotYet, HoldingState.Grace, HoldingState.Grace, HoldingState.Grace],
            new[] { 4.99, 5, 11.99, 12.01 }.Select(d => h.StateAt(Day(d))));
        var paid = h.Copy();
        paid.Paid(Day(5), Day(35), Day(9));
        Assert.Equal([HoldingState.Grace, HoldingState.Active], new[] { 8.99, 9 }.Select(d => paid.StateAt(Day(d))));
        h.Ended(Day(12.01), EndReason.Lapsed);
        Assert.Equal(HoldingState.Over, h.StateAt(Day(12.02)));
    }

    // 18.00 a month from 1 November (9:00 in London); December and January are paid ahead on the 3rd. A pause of ten days from the 10th moves November's end to
    // 11 December, and what was paid ahead with it: to 11 January and 11 February.
    [Fact]
    public void A_pause_moves_what_was_paid_ahead()
    {
        Instant On(int year, int month, int day) => Core.Time.SiteCalendar.For(Make.London).At(new LocalDateTime(year, month, day, 9, 0));
        var h = Make.Holding(1, On(2026, 11, 1), new Offer.PriceTerms.Recurring(new(1800, new("GBP")), Core.Time.Period.Months(1)));
        h.Paid(On(2026, 11, 1), On(2026, 12, 1), On(2026, 11, 1));
        h.Paid(On(2026, 12, 1), On(2027, 1, 1), On(2026, 11, 3));
        h.Paid(On(2027, 1, 1), On(2027, 2, 1), On(2026, 11, 3));
        h.Paused(On(2026, 11, 10), On(2026, 11, 20));
        Assert.Equal([(On(2026, 11, 1), On(2026, 12, 11)), (On(2026, 12, 11), On(2027, 1, 11)), (On(2027, 1, 11), On(2027, 2, 11))],
            h.Timeline.Paid.Select(f => (f.From, f.To!.Value)));
        Assert.Equal(On(2027, 2, 11), Core.Billing.Obligations.Of(h, On(2026, 11, 21)).Next!.DueAt);
        // Ended after four days it is four days; what was paid after it began stays where it was asked for.
        h.Resumed(On(2026, 11, 14));
        Assert.Equal([On(2026, 12, 5), On(2027, 1, 5), On(2027, 2, 5)], h.Timeline.Paid.Select(f => f.To!.Value));
        // A second pause counts from where the first one moved it.
        h.Paused(On(2026, 12, 20), On(2026, 12, 30));
        Assert.Equal([On(2026, 12, 5), On(2027, 1, 15), On(2027, 2, 15)], h.Timeline.Paid.Select(f => f.To!.Value));
        Assert.Equal(On(2027, 2, 15), Core.Billing.Obligations.Of(h, On(2027, 1, 1)).Next!.DueAt);
    }

    [Fact]
    public void The_order_is_kept_when_facts_are_added()
    {
        var h = Make.Holding(1, Zero, facts: Make.Paid(Zero, Day(30)));
        Assert.Equal(2, h.Leaving(Day(3), Day(30)).Seq);
        Assert.Equal(3, h.Staying(Day(3)).Seq);
        Assert.Throws<ArgumentException>(() => h.Paid(Day(5), Day(4), Day(5)));
        // A copy is its own: what is tried on it leaves the holding as it is.
        var copy = h.Copy();
        copy.Ended(Day(4), EndReason.Left);
        Assert.Equal((HoldingState.Active, HoldingState.Over), (h.StateAt(Day(5)), copy.StateAt(Day(5))));
    }

    static readonly Gen<HoldingFact> GenFact = Gen.Select(Gen.Int[0, 8], Gen.Int[0, 60], Gen.Int[1, 40]).Select((kind, from, length) => kind switch
    {
        0 => Make.Paid(Day(from), Day(from + length)),
        1 => Make.Trial(Day(from), Day(from + length)),
        2 => Make.Given(Day(from), length == 40 ? null : Day(from + length)),
        3 => Make.Grace(Day(from), Day(from + 7)),
        4 => Make.Leaving(Day(from), Day(from + length)),
        5 => Make.Staying(Day(from)),
        6 => Make.Missed(Day(from), Day(from + length), Day(from + length)),
        7 => Make.Waived(Day(from)),
        _ => Make.Ended(Day(from)),
    });

    /// <summary>The rules said once more, slowly and for one moment: the last fact that says something about it decides.</summary>
    static HoldingState Slow(Holding h, Instant at)
    {
        if (at < h.StartsAt) return HoldingState.NotYet;
        var known = h.Facts.Where(f => f.At <= at).OrderBy(f => f.Seq).ToArray();
        if (known.Any(f => f.Kind == HoldingFactKind.Ended)) return HoldingState.Over;
        var last = known.LastOrDefault(f => f.Kind is HoldingFactKind.Leaving or HoldingFactKind.Staying);
        return last is { Kind: HoldingFactKind.Leaving } ? HoldingState.Ending : HoldingState.Active;
    }

    [Fact]
    public void Over_and_leaving_agree_with_the_rules_read_slowly() => Gen.Select(GenFact.Array[0, 8], Gen.Int[-5, 120]).Sample((facts, day) =>
    {
        var h = Make.Holding(1, Zero, facts: facts);
        var (got, slow) = (h.StateAt(Day(day)), Slow(h, Day(day)));
        if (slow is HoldingState.NotYet or HoldingState.Over) Assert.Equal(slow, got);
        if (got == HoldingState.Over) Assert.Contains(
            h.Facts, f => f.Kind is HoldingFactKind.Ended or HoldingFactKind.Leaving or HoldingFactKind.Given or HoldingFactKind.Grace);
        // What is known now doesn't change with what becomes known later.
        h.Facts.Add(HoldingFact.Stored(h.Id, 99, HoldingFactKind.Ended, Day(500), Day(500), null, EndReason.Left));
        Assert.Equal(got, h.StateAt(Day(day)));
    }, iter: Make.Tries(2000));

    [Fact]
    public void Stretches_leave_no_gap_and_no_overlap() => GenFact.Array[0, 8].Sample(facts =>
    {
        var h = Make.Holding(1, Zero, facts: facts);
        for (var d = 0; d < 110; d += 3)
            if (h.Timeline.StretchAt(Day(d)) is { } s) Assert.True(s.From <= Day(d) && Day(d) < s.To, $"{s} at day {d}");
    }, iter: Make.Tries(500));
}
