using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>What a holding owes, worked out from its agreement and its facts.</summary>
public class ObligationTests
{
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant Day(int year, int month, int day, int hour = 9) => London.At(new(year, month, day, hour, 0));
    static readonly Instant Start = Day(2026, 10, 31);
    static readonly PriceTerms WithTrial = Make.Monthly(18, new Trial(Period.Days(7), Make.Pounds(1)));

    static Agreement Agreed(PriceTerms terms, bool trial = true) => new(terms, trial, Start, Make.London);

    // Anchored and clamped months (rules, the calendar): from the 31st each month's last day, never the 28th for ever.
    [Fact]
    public void Charges_stand_on_the_anchored_boundaries()
    {
        var charges = Agreed(Make.Monthly()).Charges().Take(5).ToArray();
        Assert.Equal([new(2026, 10, 31), new(2026, 11, 30), new(2026, 12, 31), new(2027, 1, 31), new LocalDate(2027, 2, 28)],
            charges.Select(c => London.Date(c.DueAt)));
        Assert.Equal([0, 1, 2, 3, 4], charges.Select(c => c.Turn));
        Assert.Equal(charges.Skip(1).Select(c => (Instant?)c.DueAt), charges.Take(4).Select(c => c.PaidThrough));
    }

    [Fact]
    public void A_trial_is_for_those_who_have_a_right_to_it()
    {
        var with = Agreed(WithTrial).Charges().Take(2).ToArray();
        Assert.Equal([(PaymentPurpose.Trial, 0, Start, 100L), (PaymentPurpose.Recurring, 0, Day(2026, 11, 7), 1800L)],
            with.Select(c => (c.Purpose, c.Turn, c.DueAt, c.Amount.Minor)));
        var without = Agreed(WithTrial, trial: false);
        Assert.Equal((PaymentPurpose.Recurring, Start), (without.First!.Purpose, without.Anchor));
        Assert.Equal(with[0], Agreed(WithTrial).First);
    }

    [Fact]
    public void Free_and_paid_for_good_ask_for_no_more()
    {
        Assert.Empty(Agreed(Make.Free).Charges());
        Assert.Null(Agreed(Make.Free).First);
        var once = Agreed(Make.Once());
        Assert.Equal((PaymentPurpose.Once, (Instant?)null), (Assert.Single(once.Charges()).Purpose, once.First!.PaidThrough));
        Assert.Null(once.From(Day(2027, 1, 1)));
        Assert.Equal(once.First, once.At(Day(2030, 1, 1)));
        Assert.Null(once.At(Day(2026, 10, 30)));
    }

    [Fact]
    public void A_charge_is_found_by_its_name()
    {
        var a = Agreed(WithTrial);
        Assert.Equal(PaymentPurpose.Trial, a.Find(PaymentPurpose.Trial, 0)!.Purpose);
        Assert.Null(a.Find(PaymentPurpose.Trial, 1));
        Assert.Null(a.Find(PaymentPurpose.Once, 0));
        Assert.Null(a.Find(PaymentPurpose.Recurring, -1));
        Assert.Equal(Day(2027, 11, 7), a.Find(PaymentPurpose.Recurring, 12)!.DueAt);
    }

    static readonly Gen<PriceTerms.Recurring> GenTerms = Gen.Select(Gen.Int[1, 14], Gen.Int[0, 3], Gen.Bool).Select((n, unit, trial) =>
        new PriceTerms.Recurring(Make.Pounds(5), new((PeriodUnit)unit == PeriodUnit.Years ? 1 : n, (PeriodUnit)unit),
            trial ? new(Period.Days(n), Make.Pounds(0)) : null));

    // Slow and obvious: walk all the charges from the first.
    [Fact]
    public void Far_from_the_start_the_charges_are_those_that_counting_from_the_start_gives() =>
        Gen.Select(GenTerms, Gen.Int[0, 4000]).Sample((terms, days) =>
        {
            var (a, at) = (Agreed(terms), Start + Duration.FromDays(days));
            Assert.Equal(a.Charges().First(c => c.DueAt >= at), a.From(at));
            Assert.Equal(a.Charges().TakeWhile(c => c.DueAt <= at).Last(), a.At(at));
            var found = a.From(at)!;
            Assert.Equal(found, a.Find(found.Purpose, found.Turn));
        }, iter: Make.Tries(300));

    static Holding Hold(PriceTerms terms, params HoldingFact[] facts) => Make.Holding(1, Start, terms, facts: facts);

    [Fact]
    public void Once_paid_the_next_charge_is_for_the_time_after()
    {
        var h = Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 30)));
        var owes = Obligations.Of(h, Day(2026, 11, 15));
        Assert.Equal((HoldingState.Active, 1, Day(2026, 11, 30)), (owes.State, owes.Next!.Turn, owes.Next.DueAt));
        Assert.Null(owes.DueAt(Day(2026, 11, 30) - Duration.Epsilon));
        Assert.NotNull(owes.DueAt(Day(2026, 11, 30)));
        Assert.False(owes.IsOverdue);
        Assert.Null(owes.AccessEnds);
    }

    [Fact]
    public void In_grace_the_failed_charge_stays_the_next_and_access_ends_with_it()
    {
        var h = Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 30)), Make.Grace(Day(2026, 11, 30), Day(2026, 12, 7)));
        var owes = Obligations.Of(h, Day(2026, 12, 2));
        Assert.Equal((HoldingState.Grace, 1, Day(2026, 12, 7), Day(2026, 12, 7)), (owes.State, owes.Next!.Turn, owes.GraceUntil, owes.AccessEnds));
        Assert.Equal(owes.Next, owes.DueAt(Day(2026, 12, 2)));
    }

    [Fact]
    public void Who_is_leaving_or_gone_is_asked_for_nothing()
    {
        var leaving = Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 30)), Make.Leaving(Day(2026, 11, 5), Day(2026, 11, 30)));
        Assert.Equal((HoldingState.Ending, (Charge?)null, (Instant?)Day(2026, 11, 30)),
            (Obligations.Of(leaving, Day(2026, 11, 6)).State, Obligations.Of(leaving, Day(2026, 11, 6)).Next,
            Obligations.Of(leaving, Day(2026, 11, 6)).AccessEnds));
        // Before the leaving was known, nothing of it is.
        Assert.NotNull(Obligations.Of(leaving, Day(2026, 11, 4)).Next);
        leaving.Facts.Add(HoldingFact.Stored(leaving.Id, 3, HoldingFactKind.Staying, Day(2026, 11, 8), Day(2026, 11, 8), null));
        Assert.NotNull(Obligations.Of(leaving, Day(2026, 11, 9)).Next);
        var gone = Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 30)), Make.Ended(Day(2026, 11, 9)));
        Assert.Equal((HoldingState.Over, (Charge?)null, (Instant?)Day(2026, 11, 9)),
            (Obligations.Of(gone, Day(2026, 11, 10)).State, Obligations.Of(gone, Day(2026, 11, 10)).Next, Obligations.Of(gone, Day(2026, 11, 10)).AccessEnds));
    }

    [Fact]
    public void What_costs_nothing_ends_when_it_ends()
    {
        var gift = Make.Holding(1, Start, source: HoldingSource.Gift, facts: Make.Given(Start, Day(2026, 12, 5)));
        Assert.Equal(((Charge?)null, (Instant?)Day(2026, 12, 5)),
            (Obligations.Of(gift, Day(2026, 11, 1)).Next, Obligations.Of(gift, Day(2026, 11, 1)).AccessEnds));
        var free = Hold(Make.Free, Make.Given(Start));
        Assert.Equal(((Charge?)null, (Instant?)null), (Obligations.Of(free, Day(2026, 11, 1)).Next, Obligations.Of(free, Day(2026, 11, 1)).AccessEnds));
        var good = Hold(Make.Once(), Make.Paid(Start, null));
        Assert.Equal(((Charge?)null, (Instant?)null), (Obligations.Of(good, Day(2036, 11, 1)).Next, Obligations.Of(good, Day(2036, 11, 1)).AccessEnds));
    }

    // A standstill: the site was off from November to February. One charge is asked, the slept-over ones become an open amount.
    [Fact]
    public void After_a_standstill_one_charge_is_asked_and_the_missed_ones_are_owed()
    {
        var h = Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 30)));
        var back = Day(2027, 2, 10);
        var (ask, missed) = Obligations.Of(h, back).AskAt(h.Agreement, back);
        Assert.Equal((3, Day(2027, 1, 31)), (ask!.Turn, ask.DueAt));
        Assert.Equal([1, 2], missed.Select(c => c.Turn));
        foreach (var m in missed) h.Facts.Add(HoldingFact.Stored(h.Id, h.Facts.Count + 1, HoldingFactKind.Missed, back, m.DueAt, m.PaidThrough));
        h.Facts.Add(HoldingFact.Stored(h.Id, h.Facts.Count + 1, HoldingFactKind.Paid, back, ask.DueAt, ask.PaidThrough));
        var owes = Obligations.Of(h, back);
        Assert.Equal((Make.Pounds(36), 4), (owes.Open, owes.Next!.Turn));
        h.Facts.Add(HoldingFact.Stored(h.Id, h.Facts.Count + 1, HoldingFactKind.Waived, back + Duration.FromHours(1), back + Duration.FromHours(1), null));
        Assert.Null(Obligations.Of(h, back + Duration.FromHours(2)).Open);
        Assert.Equal(Make.Pounds(36), Obligations.Of(h, back).Open);
    }

    [Theory]
    [InlineData(29, null, 0)]   // not due yet
    [InlineData(30, 1, 0)]      // due today
    [InlineData(61, 1, 0)]      // late, its own month still runs
    [InlineData(62, 2, 1)]      // its month is over: the next is asked, it is missed
    public void Late_is_not_missed_until_its_stretch_is_over(int daysAfterStart, int? turn, int missed)
    {
        var h = Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 30)));
        var at = London.At(new LocalDate(2026, 10, 31).PlusDays(daysAfterStart).At(new(9, 0))) - (daysAfterStart == 61 ? Duration.Epsilon : Duration.Zero);
        if (daysAfterStart == 62) at = Day(2026, 12, 31);
        var asked = Obligations.Of(h, at).AskAt(h.Agreement, at);
        Assert.Equal((turn, missed), (asked.Ask?.Turn, asked.Missed.Count));
    }

    [Fact]
    public void In_grace_nothing_is_called_missed()
    {
        var h = Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 30)), Make.Grace(Day(2026, 11, 30), Day(2027, 1, 15)));
        Assert.Equal((1, 0), Obligations.Of(h, Day(2027, 1, 10)).AskAt(h.Agreement, Day(2027, 1, 10)) is var (ask, missed) ? (ask!.Turn, missed.Count)
            : default);
    }

    [Fact]
    public void No_money_is_asked_twice_for_the_same_time() => Gen.Select(GenTerms, Gen.Int[1, 40].Array[1, 12]).Sample((terms, steps) =>
    {
        var h = Make.Holding(1, Start, terms);
        var (at, paid) = (Start, new HashSet<(PaymentPurpose, int)>());
        foreach (var step in steps)
        {
            at += Duration.FromDays(step);
            // The site wakes up now and then, and asks for what is due.
            while (Obligations.Of(h, at).AskAt(h.Agreement, at) is { Ask: { } ask, Missed: var missed })
            {
                foreach (var m in missed.Append(ask)) Assert.True(paid.Add((m.Purpose, m.Turn)));
                foreach (var m in missed) h.Missed(m.DueAt, m.PaidThrough!.Value, at);
                if (ask.Purpose == PaymentPurpose.Trial) h.Trial(ask.DueAt, ask.PaidThrough!.Value, at);
                else h.Paid(ask.DueAt, ask.PaidThrough, at);
                Assert.True(h.PaidThrough(at) > at || Obligations.Of(h, at).DueAt(at) is not null);
            }
            Assert.Equal(HoldingState.Active, h.StateAt(at) == HoldingState.Trial ? HoldingState.Active : h.StateAt(at));
        }
    }, iter: Make.Tries(300));

    public static TheoryData<string, string> Ways => new()
    {
        { "paid tier, active", "RunsOut" }, { "paid tier, trial", "RunsOut" }, { "paid tier, grace", "EndsNow" }, { "paid tier, ending", "Stays" },
            { "paid tier, over", "Stays" },
        { "paid tier, for good", "Stays" }, { "gift", "Stays" }, { "free tier", "Stays" }, { "pass", "Stays" }, { "joined free", "Stays" },
            { "joined pass", "Stays" },
    };

    [Theory]
    [MemberData(nameof(Ways))]
    public void Only_a_paid_tier_gives_way_to_a_paid_tier(string what, string way)
    {
        var (end, at) = (Day(2026, 11, 30), Day(2026, 11, 15));
        var paid = Make.Paid(Start, end);
        var other = what switch
        {
            "paid tier, trial" => Make.Holding(1, Start, WithTrial, facts: Make.Trial(Start, end)),
            "paid tier, grace" => Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 10)), Make.Grace(Day(2026, 11, 10), end)),
            "paid tier, ending" => Hold(Make.Monthly(), paid, Make.Leaving(Day(2026, 11, 5), end)),
            "paid tier, over" => Hold(Make.Monthly(), paid, Make.Ended(Day(2026, 11, 5))),
            "paid tier, for good" => Hold(Make.Once(), Make.Paid(Start, null)),
            "gift" => Make.Holding(1, Start, source: HoldingSource.Gift, facts: Make.Given(Start)),
            "free tier" => Hold(Make.Free, Make.Given(Start)),
            _ => Hold(Make.Monthly(), paid),
        };
        var got = GivesWay.Of(other, what == "pass" ? Make.Pass(1) : Make.Tier(1, 1), what == "joined pass" ? Make.Pass(2) : Make.Tier(2, 2),
            what == "joined free" ? Make.Free : Make.Monthly(30), at);
        Assert.Equal(way, got.GetType().Name);
        if (got is GivesWay.RunsOut r) Assert.Equal(end, r.At);
    }

    [Fact]
    public void What_was_bought_once_is_not_left_and_what_is_unpaid_ends_at_once()
    {
        var at = Day(2026, 11, 15);
        var active = Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 30)));
        Assert.Equal((true, (Instant?)Day(2026, 11, 30)), (Leaving.Possible(active, at), Leaving.OpenUntil(active, at)));
        var grace = Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 10)), Make.Grace(Day(2026, 11, 10), Day(2026, 11, 17)));
        Assert.Equal((true, (Instant?)null), (Leaving.Possible(grace, at), Leaving.OpenUntil(grace, at)));
        var free = Hold(Make.Free, Make.Given(Start));
        Assert.Equal((true, (Instant?)null), (Leaving.Possible(free, at), Leaving.OpenUntil(free, at)));
        Assert.False(Leaving.Possible(Hold(Make.Once(), Make.Paid(Start, null)), at));
        Assert.False(Leaving.Possible(Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 30)), Make.Leaving(at - Duration.FromDays(1), Day(2026, 11, 30))),
            at));
        Assert.False(Leaving.Possible(Hold(Make.Monthly(), Make.Paid(Start, Day(2026, 11, 30)), Make.Ended(at - Duration.FromDays(1))), at));
        // Due now, and the worker hasn't come by: nothing is paid ahead.
        Assert.Null(Leaving.OpenUntil(Hold(Make.Monthly(), Make.Paid(Start, at)), at));
    }
}
