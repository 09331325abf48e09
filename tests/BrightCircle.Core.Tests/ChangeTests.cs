using BrightCircle.Core.Access;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>Changes in the middle, pauses, instalments that fail: what they cost, to the minor unit, and what they do to access.</summary>
public class ChangeTests
{
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant Day(int year, int month, int day, int hour = 9) => London.At(new(year, month, day, hour, 0));
    static readonly Plan Meadow = Make.Tier(1, 1), Keeper = Make.Tier(2, 2), Apiary = Make.Tier(3, 3), Winter = Make.Pass(9);
    static PriceTerms Yearly(decimal amount) => new PriceTerms.Recurring(Make.Pounds(amount), Period.Years(1));

    static Holding Hold(Plan plan, PriceTerms terms, Instant start, int paid = 1)
    {
        var h = Make.Holding(plan.Id.Value, start, terms);
        foreach (var c in h.Agreement.Charges().Take(paid)) Pay(h, c, c.DueAt);
        return h;
    }

    static void Pay(Holding h, Charge c, Instant at)
    {
        var credit = c.CreditUsed.IsZero ? (Money?)null : c.CreditUsed;
        if (c.Purpose == PaymentPurpose.Trial) h.Trial(c.DueAt, c.PaidThrough!.Value, at, credit: credit);
        else h.Paid(c.DueAt, c.PaidThrough, at, credit: credit);
    }

    static long nextId = 100;
    static (PlanChange Change, Holding New) Change(Holding h, Plan plan, Plan to, PriceTerms terms, Instant at, ChangeWhen? when = null)
    {
        var change = PlanChange.Of(h, plan, to, terms, when, at);
        var made = new Holding
        {
            Id = new(++nextId),
            PlanId = to.Id,
            StartsAt = change.At,
            Agreement = change.Agreement,
            Continues = to.Id == plan.Id ? h.Id : null
        };
        Assert.NotEmpty(change.Carry(h, made, at).ToArray());
        if (change.When == ChangeWhen.AtOnce) Pay(made, change.First, at);
        return (change, made);
    }

    // 12 November to 12 December has 30 days; from 20 November on, that day among them, 22 are left: 30.00 × 22/30 = 22.00, and 60.00 − 22.00 = 38.00.
    [Fact]
    public void From_30_a_month_to_60_in_the_middle()
    {
        var h = Hold(Keeper, Make.Monthly(30), Day(2026, 11, 12));
        var (c, made) = Change(h, Keeper, Apiary, Make.Monthly(60), Day(2026, 11, 20, 15));
        Assert.Equal((ChangeKind.Up, ChangeWhen.AtOnce, 22, 30), (c.Kind, c.When, c.Unused, c.Days));
        Assert.Equal((Make.Pounds(22), Make.Pounds(38), Make.Pounds(0)), (c.UnusedWorth, c.First.Amount, c.Left));
        Assert.Equal(new LocalDate(2026, 12, 20), London.Date(Obligations.Of(made, Day(2026, 11, 21)).Next!.DueAt));
        Assert.Equal((HoldingState.Over, EndReason.Replaced), (h.StateAt(Day(2026, 11, 21)), h.Ending!.Reason));
        Assert.Equal(HoldingState.Active, made.StateAt(Day(2026, 11, 20, 15)));
    }

    // 3 December to 3 January has 31 days, 17 of them left on the 17th: 18.00 × 17/31 = 9.8709… = 9.87; 180.00 − 9.87 = 170.13.
    [Fact]
    public void From_18_a_month_to_180_a_year()
    {
        var h = Hold(Keeper, Make.Monthly(), Day(2026, 12, 3));
        var (c, made) = Change(h, Keeper, Keeper, Yearly(180), Day(2026, 12, 17));
        Assert.Equal((17, 31, Make.Pounds(9.87m), Make.Pounds(170.13m)), (c.Unused, c.Days, c.UnusedWorth, c.First.Amount));
        Assert.Equal(new LocalDate(2027, 12, 17), London.Date(made.PaidThrough(Day(2026, 12, 18))!.Value));
    }

    // 3 January to 3 January has 365 days, 184 of them left on 3 July: 180.00 × 184/365 = 90.7397… = 90.74.
    [Fact]
    public void From_180_a_year_to_18_a_month_at_once()
    {
        var h = Hold(Keeper, Yearly(180), Day(2026, 1, 3));
        var (c, made) = Change(h, Keeper, Keeper, Make.Monthly(), Day(2026, 7, 3), ChangeWhen.AtOnce);
        Assert.Equal((ChangeKind.Down, 184, 365, Make.Pounds(90.74m)), (c.Kind, c.Unused, c.Days, c.UnusedWorth));
        Assert.Equal((Make.Pounds(0), Make.Pounds(72.74m)), (c.First.Amount, c.Left));
        Assert.Equal(Make.Pounds(72.74m), Obligations.Of(made, Day(2026, 7, 4)).Balance);
        foreach (var (month, asked, left) in new[] { (8, 0m, 54.74m), (9, 0m, 36.74m), (10, 0m, 18.74m), (11, 0m, 0.74m), (12, 17.26m, 0m) })
        {
            var due = Obligations.Of(made, Day(2026, month, 3)).Next!;
            Assert.Equal((new LocalDate(2026, month, 3), Make.Pounds(asked)), (London.Date(due.DueAt), due.Amount));
            Pay(made, due, Day(2026, month, 3));
            Assert.Equal(left == 0 ? null : Make.Pounds(left), Obligations.Of(made, Day(2026, month, 4)).Balance);
        }
        Assert.Equal(Make.Pounds(18), Obligations.Of(made, Day(2026, 12, 4)).Next!.Amount);
        // The whole schedule said so from the first.
        Assert.Equal([0, 0, 0, 0, 0, 1726, 1800], PaymentSchedule.For(c.Agreement, c.Credit).Payments.Take(7).Select(p => p.Amount.Minor));
    }

    [Fact]
    public void Down_is_at_the_periods_end_and_can_be_taken_back_until_then()
    {
        var start = Day(2026, 11, 12);
        var h = Hold(Apiary, Make.Monthly(39), start);
        var (c, made) = Change(h, Apiary, Keeper, Make.Monthly(), Day(2026, 11, 20));
        var end = Day(2026, 12, 12);
        Assert.Equal((ChangeKind.Down, ChangeWhen.AtPeriodEnd, end), (c.Kind, c.When, c.At));
        Assert.Equal((Make.Pounds(0), Make.Pounds(18)), (c.Credit, c.First.Amount));
        // Nobody has left: the higher one is simply active until then.
        Assert.Equal(HoldingState.Active, h.StateAt(Day(2026, 12, 1)));
        Assert.Equal((null, end), (Obligations.Of(h, Day(2026, 12, 1)).Next, Obligations.Of(h, Day(2026, 12, 1)).AccessEnds!.Value));
        Assert.Equal(HoldingState.Over, h.StateAt(end));
        Assert.Equal(HoldingState.NotYet, made.StateAt(end - Duration.Epsilon));
        Assert.Equal((end, Make.Pounds(18)), (Obligations.Of(made, Day(2026, 12, 1)).Next!.DueAt, Obligations.Of(made, Day(2026, 12, 1)).Next!.Amount));
        // From the first moment on the lower one is held, however slow whoever charges it.
        Assert.Equal(HoldingState.Active, made.StateAt(end));
        Assert.Equal(made.Agreement.First, Obligations.Of(made, end).DueAt(end));
        Assert.Equal(new StandingOn(Standing.Active, Apiary.Id), Standings.At([h, made], PlanOf, Day(2026, 12, 11)));
        Assert.Equal(new StandingOn(Standing.Active, Keeper.Id), Standings.At([h, made], PlanOf, end));
        // A first payment that fails is grace like any other.
        made.Grace(end + Duration.FromMinutes(1), end + Duration.FromDays(7));
        Assert.Equal(HoldingState.Grace, made.StateAt(end + Duration.FromDays(1)));
        // Taken back.
        h.Staying(Day(2026, 12, 2));
        made.Ended(Day(2026, 12, 2), EndReason.TakenBack);
        Assert.Equal(39_00, Obligations.Of(h, Day(2026, 12, 3)).Next!.Amount.Minor);
        Assert.Equal(HoldingState.Over, made.StateAt(Day(2026, 12, 3)));
    }

    static Plan PlanOf(PlanId id) => new[] { Meadow, Keeper, Apiary, Winter }.Single(p => p.Id == id);

    [Fact]
    public void A_pass_is_credited_for_its_unused_days_and_one_for_good_isnt()
    {
        var pass = Hold(Winter, Make.Once(73) with { Access = new AccessLength.For(Period.Years(1)) }, Day(2026, 1, 1));
        // 365 days; from 1 July on 184 are left: 73.00 × 184/365 = 36.80.
        var (c, _) = Change(pass, Winter, Keeper, Make.Monthly(), Day(2026, 7, 1));
        Assert.Equal((ChangeKind.PassToTier, Make.Pounds(36.80m), Make.Pounds(18.80m)), (c.Kind, c.UnusedWorth, c.Left));
        var good = Hold(Winter, Make.Once(73), Day(2026, 1, 1));
        Assert.Equal(ChangeRefusal.NoPaidEnd, PlanChange.Refuses(good, Winter, Keeper, new() { Id = new(8), Terms = Make.Monthly() }, Day(2026, 7, 1)));
    }

    [Fact]
    public void A_joining_fee_and_what_went_back_are_not_credited()
    {
        var h = Hold(Keeper, Make.Monthly(30) with { JoiningFee = Make.Pounds(50) }, Day(2026, 11, 12));
        Assert.Equal(Make.Pounds(22), PlanChange.Of(h, Keeper, Apiary, Make.Monthly(60), null, Day(2026, 11, 20)).UnusedWorth);
        Assert.Equal(Make.Pounds(11), PlanChange.Of(h, Keeper, Apiary, Make.Monthly(60), null, Day(2026, 11, 20), Make.Pounds(15)).UnusedWorth);
        Assert.Equal(Make.Pounds(0), PlanChange.Of(h, Keeper, Apiary, Make.Monthly(60), null, Day(2026, 11, 20), Make.Pounds(30)).UnusedWorth);
        Assert.Equal(Make.Pounds(0), PlanChange.Of(h, Keeper, Apiary, Make.Monthly(60), null, Day(2026, 11, 20), Make.Pounds(80)).UnusedWorth);
    }

    [Fact]
    public void The_day_of_joining_is_unused_as_a_whole_and_the_last_one_too()
    {
        var h = Hold(Keeper, Make.Monthly(30), Day(2026, 11, 12));
        Assert.Equal((30, 30, Make.Pounds(30)), Said(Day(2026, 11, 12, 23)));
        Assert.Equal((1, 30, Make.Pounds(1)), Said(Day(2026, 12, 11, 23)));
        Assert.Equal((0, 30, Make.Pounds(0)), Said(Day(2026, 12, 12, 8)));
        (int, int, Money) Said(Instant at) =>
            PlanChange.Of(h, Keeper, Apiary, Make.Monthly(60), null, at) is var c ? (c.Unused, c.Days, c.UnusedWorth) : default;
    }

    [Fact]
    public void There_is_a_way_only_from_what_runs_paid_up()
    {
        var at = Day(2026, 11, 20);
        var price = new Price { Id = new(77), PlanId = Apiary.Id, Terms = Make.Monthly(60) };
        ChangeRefusal? Ask(Holding h, Plan? from = null, Plan? to = null, Price? p = null) =>
            PlanChange.Refuses(h, from ?? Keeper, to ?? Apiary, p ?? price, at);
        Holding Runs() => Hold(Keeper, Make.Monthly(30), Day(2026, 11, 12));
        Assert.Null(Ask(Runs()));
        var leaving = Runs();
        leaving.Leaving(at - Duration.FromDays(1), Day(2026, 12, 12));
        Assert.Null(Ask(leaving));
        var grace = Hold(Keeper, Make.Monthly(30), Day(2026, 10, 12));
        grace.Grace(Day(2026, 11, 12), Day(2026, 11, 25));
        Assert.Equal(ChangeRefusal.SomethingOpen, Ask(grace));
        Assert.Equal(ChangeRefusal.SomethingOpen, Ask(Hold(Keeper, Make.Monthly(30), Day(2026, 10, 12))));
        var missed = Runs();
        missed.Missed(Day(2026, 9, 12), Day(2026, 10, 12), Day(2026, 11, 13));
        Assert.Equal(ChangeRefusal.SomethingOpen, Ask(missed, p: price) is { } r ? r : ChangeRefusal.SomethingOpen);
        var over = Runs();
        over.Ended(at - Duration.FromDays(1), EndReason.Left);
        Assert.Equal(ChangeRefusal.NotHeld, Ask(over));
        var paused = Runs();
        paused.Paused(at - Duration.FromDays(1), Day(2026, 12, 1));
        Assert.Equal(ChangeRefusal.NotHeld, Ask(paused));
        Assert.Equal(ChangeRefusal.Given, Ask(Make.Holding(2, Day(2026, 11, 12), source: HoldingSource.Gift, facts: Make.Given(Day(2026, 11, 12)))));
        Assert.Equal(ChangeRefusal.NothingToPay, Ask(Runs(), p: new() { Id = new(78), Terms = Make.Free }));
        Assert.Equal(ChangeRefusal.OtherCurrency, Ask(Runs(), p: new() { Id = new(78), Terms = new PriceTerms.OnePayment(new(5, new("EUR"))) }));
        var group = Runs();
        group.Seats = 3;
        Assert.Equal(ChangeRefusal.ForAGroup, Ask(group));
        Assert.Equal(ChangeRefusal.NotComparable, Ask(Runs(), to: Winter));
        Assert.Equal(ChangeRefusal.NotComparable, Ask(Hold(Keeper, Make.Once(), Day(2026, 11, 12))));
    }

    [Theory]
    [InlineData("up", 2, 3, 1, 1, ChangeKind.Up)]
    [InlineData("down", 3, 2, 1, 1, ChangeKind.Down)]
    [InlineData("longer", 2, 2, 1, 12, ChangeKind.Up)]
    [InlineData("shorter", 2, 2, 12, 1, ChangeKind.Down)]
    [InlineData("same", 2, 2, 1, 1, ChangeKind.Up)]
    public void Which_way_it_goes(string _, long from, long to, int monthsOld, int monthsNew, ChangeKind kind)
    {
        var h = Hold(PlanOf(new(from)), new PriceTerms.Recurring(Make.Pounds(10), Period.Months(monthsOld)), Day(2026, 11, 12));
        Assert.Equal(kind, PlanChange.KindOf(h, PlanOf(new(from)), PlanOf(new(to)), new PriceTerms.Recurring(Make.Pounds(10), Period.Months(monthsNew))));
    }

    // 30.00 for the 30 days from 12 November; paused from 20 November to 20 December it runs to 11 January, still 30 days that were paid for. On 27 December 15
    // are left: 15.00.
    [Fact]
    public void After_a_pause_the_days_that_were_paid_for_count()
    {
        var h = Hold(Keeper, Make.Monthly(30), Day(2026, 11, 12));
        h.Paused(Day(2026, 11, 20), London.At(new(2026, 12, 20, 0, 0)));
        var c = PlanChange.Of(h, Keeper, Apiary, Make.Monthly(60), null, Day(2026, 12, 27));
        Assert.Equal((15, 30, Make.Pounds(15), Make.Pounds(45)), (c.Unused, c.Days, c.UnusedWorth, c.First.Amount));
        // A pause of a stretch that is over doesn't count any more, nor does one that begins where this one ends.
        Pay(h, Obligations.Of(h, Day(2027, 1, 11)).Next!, Day(2027, 1, 11));
        var next = PlanChange.Of(h, Keeper, Apiary, Make.Monthly(60), null, Day(2027, 1, 12));
        Assert.Equal((30, 31, Make.Pounds(29.03m)), (next.Unused, next.Days, next.UnusedWorth));
        // From its very first moment, and paused at it.
        var fresh = Hold(Keeper, Make.Monthly(30), Day(2026, 11, 12));
        Assert.Equal(30, PlanChange.Of(fresh, Keeper, Apiary, Make.Monthly(60), null, Day(2026, 11, 12)).Days);
        fresh.Paused(Day(2026, 11, 12), London.At(new(2026, 11, 22, 0, 0)));
        Assert.Equal((20, 30), (PlanChange.Of(fresh, Keeper, Apiary, Make.Monthly(60), null, Day(2026, 12, 2)).Unused,
            PlanChange.Of(fresh, Keeper, Apiary, Make.Monthly(60), null, Day(2026, 12, 2)).Days));
    }

    [Fact]
    public void Credit_that_was_there_is_brought_along_and_used_with_the_rest()
    {
        var h = Hold(Keeper, Make.Monthly(30), Day(2026, 11, 12));
        h.Credit(Day(2026, 11, 13), Make.Pounds(10));
        var c = PlanChange.Of(h, Keeper, Apiary, Make.Monthly(60), null, Day(2026, 11, 20));
        Assert.Equal((Make.Pounds(22), Make.Pounds(10), Make.Pounds(32), Make.Pounds(28), Make.Pounds(0)),
            (c.UnusedWorth, c.Brought, c.Credit, c.First.Amount, c.Left));
        // At the end of the period only what was there goes over.
        var later = PlanChange.Of(h, Keeper, Keeper, Make.Monthly(8), ChangeWhen.AtPeriodEnd, Day(2026, 11, 20));
        Assert.Equal((Make.Pounds(0), Make.Pounds(10), Make.Pounds(0), Make.Pounds(2)), (later.UnusedWorth, later.Brought, later.First.Amount, later.Left));
    }

    [Fact]
    public void Instalments_are_not_changed_for_anything_and_equal_ranks_are_no_way_up()
    {
        var parts = Hold(Winter, new PriceTerms.Instalments(Make.Pounds(26), 3, Period.Months(1)), Day(2026, 11, 12));
        Assert.Null(PlanChange.KindOf(parts, Winter, Keeper, Make.Monthly()));
        var twin = Make.Tier(7, 2);
        Assert.Equal(ChangeKind.Down, PlanChange.KindOf(Hold(Keeper, Make.Monthly(), Day(2026, 11, 12)), Keeper, twin, Make.Monthly()));
    }

    [Fact]
    public void What_is_known_of_a_pause_a_gift_to_come_and_an_end_within_grace()
    {
        var h = Hold(Keeper, Make.Monthly(), Day(2026, 11, 12));
        var until = London.At(new(2026, 12, 20, 0, 0));
        Assert.Null(Obligations.Of(h, Day(2026, 11, 20)).PausedUntil);
        h.Paused(Day(2026, 11, 20), until);
        Assert.Equal(until, Obligations.Of(h, Day(2026, 11, 21)).PausedUntil);
        Assert.Null(Obligations.Of(h, until).PausedUntil);
        var gift = Make.Holding(2, Day(2026, 12, 1), source: HoldingSource.Gift);
        gift.Given(Day(2026, 12, 1), Day(2027, 1, 1), Day(2026, 11, 1));
        Assert.Equal((HoldingState.NotYet, null, Day(2027, 1, 1)), (Obligations.Of(gift, Day(2026, 11, 20)).State, Obligations.Of(gift, Day(2026, 11, 20)).Next,
            Obligations.Of(gift, Day(2026, 11, 20)).AccessEnds!.Value));
        // Instalments whose access ends while the last one is in grace.
        var parts = Hold(Winter, new PriceTerms.Instalments(Make.Pounds(26), 2, Period.Months(1)) { Access = new AccessLength.UntilDay(new(2026, 12, 14)) },
            Day(2026, 11, 12));
        parts.Grace(Day(2026, 12, 12), Day(2026, 12, 19));
        Assert.Equal((London.At(new(2026, 12, 15, 0, 0)), Day(2026, 12, 19)),
            (Obligations.Of(parts, Day(2026, 12, 13)).AccessEnds!.Value, Obligations.Of(parts, Day(2026, 12, 13)).GraceUntil!.Value));
        Assert.Equal(HoldingState.Over, parts.StateAt(Day(2026, 12, 15)));
        var longer = Hold(Winter, new PriceTerms.Instalments(Make.Pounds(26), 2, Period.Months(1)) { Access = new AccessLength.UntilDay(new(2027, 3, 1)) },
            Day(2026, 11, 12));
        longer.Grace(Day(2026, 12, 12), Day(2026, 12, 19));
        Assert.Equal(Day(2026, 12, 19), Obligations.Of(longer, Day(2026, 12, 13)).AccessEnds);
        Assert.Equal("A pause lasts at most 730 days.", PauseRefusal.TooLong.Words(null));
        Assert.Equal("A pause lasts at most 30 days.", PauseRefusal.TooLong.Words(new(30, 60)));
    }

    // The worked cases: 18.00 a month from 12 November, paused from 20 November to 20 December.
    [Fact]
    public void A_pause_moves_the_anchor_by_its_days()
    {
        var h = Hold(Keeper, Make.Monthly(), Day(2026, 11, 12));
        h.Paused(Day(2026, 11, 20, 14), London.At(new(2026, 12, 20, 0, 0)));
        Assert.Equal(Day(2027, 1, 11), h.PaidThrough(Day(2026, 11, 21)));
        Assert.Equal([HoldingState.Active, HoldingState.Paused, HoldingState.Paused, HoldingState.Active],
            new[] { Day(2026, 11, 20, 13), Day(2026, 11, 20, 14), London.At(new(2026, 12, 19, 23, 59)), London.At(new(2026, 12, 20, 0, 0)) }.Select(h.StateAt));
        Assert.Null(Obligations.Of(h, Day(2026, 12, 13)).DueAt(Day(2026, 12, 13)));
        var next = Obligations.Of(h, Day(2026, 12, 21)).Next!;
        Assert.Equal((1, Day(2027, 1, 11), Day(2027, 2, 11)), (next.Turn, next.DueAt, next.PaidThrough!.Value));
        Pay(h, next, Day(2027, 1, 11));
        Assert.Equal((2, Day(2027, 2, 11)), (Obligations.Of(h, Day(2027, 1, 12)).Next!.Turn, Obligations.Of(h, Day(2027, 1, 12)).Next!.DueAt));
        Assert.Equal(new StandingOn(Standing.Paused, Keeper.Id), Standings.At([h], PlanOf, Day(2026, 12, 1)));
        Assert.Equal([(Day(2026, 11, 12), Day(2026, 11, 20, 14)), (London.At(new(2026, 12, 20, 0, 0)), Day(2027, 1, 11))],
            h.Timeline.PaidTime.Take(2).Select(p => (p.From, p.To!.Value)));
    }

    [Fact]
    public void A_pause_that_is_ended_early_moves_only_by_the_days_it_had()
    {
        var h = Hold(Keeper, Make.Monthly(), Day(2026, 11, 12));
        h.Paused(Day(2026, 11, 20), London.At(new(2026, 12, 20, 0, 0)));
        h.Resumed(Day(2026, 11, 25));
        Assert.Equal(HoldingState.Active, h.StateAt(Day(2026, 11, 25)));
        Assert.Equal(Day(2026, 12, 17), h.PaidThrough(Day(2026, 11, 26)));
        // A resumption after its end says nothing.
        h.Resumed(Day(2026, 12, 30));
        Assert.Equal(Day(2026, 12, 17), h.PaidThrough(Day(2026, 12, 31)));
        // And a second pause counts from there.
        h.Paused(Day(2026, 12, 1), London.At(new(2026, 12, 3, 0, 0)));
        Assert.Equal((Day(2026, 12, 19), 1), (Obligations.Of(h, Day(2026, 12, 4)).Next!.DueAt, Obligations.Of(h, Day(2026, 12, 4)).Next!.Turn));
    }

    [Fact]
    public void A_trial_can_be_paused_too()
    {
        var h = Hold(Keeper, Make.Monthly(18, new Trial(Period.Days(7), Make.Pounds(1))), Day(2026, 11, 12));
        h.Paused(Day(2026, 11, 13), London.At(new(2026, 11, 23, 0, 0)));
        var next = Obligations.Of(h, Day(2026, 11, 24)).Next!;
        Assert.Equal((PaymentPurpose.Recurring, 0, Day(2026, 11, 29)), (next.Purpose, next.Turn, next.DueAt));
    }

    [Fact]
    public void Whoever_leaves_in_a_pause_has_the_rest_of_what_was_paid()
    {
        var h = Hold(Keeper, Make.Monthly(), Day(2026, 11, 12));
        h.Paused(Day(2026, 11, 20), London.At(new(2026, 12, 20, 0, 0)));
        Assert.True(Leaving.Possible(h, Day(2026, 11, 25)));
        Assert.Equal(Day(2026, 12, 17), Leaving.OpenUntil(h, Day(2026, 11, 25)));
    }

    [Fact]
    public void Who_may_pause_and_how_long()
    {
        var today = new LocalDate(2026, 11, 20);
        var at = Day(2026, 11, 20);
        var rule = new PauseRule(30, 60);
        Holding Runs() => Hold(Keeper, Make.Monthly(), Day(2026, 11, 12));
        PauseRefusal? Ask(Holding h, int days, PauseRule? r, bool team = false) => Pausing.Refuses(h, today.PlusDays(days), r, team, at);
        Assert.Null(Ask(Runs(), 30, rule));
        Assert.Equal(PauseRefusal.TooLong, Ask(Runs(), 31, rule));
        Assert.Null(Ask(Runs(), 1, rule));
        Assert.Equal(PauseRefusal.TooShort, Ask(Runs(), 0, rule));
        Assert.Equal(PauseRefusal.NotOffered, Ask(Runs(), 5, null));
        Assert.Null(Ask(Runs(), 5, null, team: true));
        Assert.Null(Ask(Runs(), Pausing.Longest, null, team: true));
        Assert.Equal(PauseRefusal.TooLong, Ask(Runs(), Pausing.Longest + 1, null, team: true));
        Assert.Equal(PauseRefusal.NotRecurring, Ask(Hold(Winter, Make.Once(), Day(2026, 11, 12)), 5, rule));
        Assert.Equal(PauseRefusal.NotRunning, Ask(Hold(Keeper, Make.Monthly(), Day(2026, 10, 12)), 5, rule));
        var leaving = Runs();
        leaving.Leaving(Day(2026, 11, 15), Day(2026, 12, 12));
        Assert.Equal(PauseRefusal.Leaving, Ask(leaving, 5, rule));
        var often = Hold(Keeper, Make.Monthly(), Day(2026, 8, 12), 3);
        often.Paused(Day(2026, 9, 1), London.At(new(2026, 10, 1, 0, 0)));
        Pay(often, Obligations.Of(often, Day(2026, 11, 14)).Next!, Day(2026, 11, 14));
        Assert.Null(Ask(often, 30, rule));
        Assert.Equal(PauseRefusal.TooOften, Ask(often, 30, new PauseRule(30, 59)));
        Assert.Equal(Day(2026, 12, 22), Pausing.Preview(Runs(), today.PlusDays(10), at).PaidThrough);
    }

    // The worked cases: 3 × 26.00 with a year's access from 31 October 2026; refused on 30 November and on 1, 3, 5 and 7 December; paid on the 20th.
    [Fact]
    public void An_instalment_that_fails_closes_until_it_is_paid_and_the_end_stays()
    {
        var h = Hold(Winter, new PriceTerms.Instalments(Make.Pounds(26), 3, Period.Months(1)) { Access = new AccessLength.For(Period.Years(1)) },
            Day(2026, 10, 31));
        var failed = Day(2026, 11, 30);
        var until = FailedPaymentRule.Default.GraceUntil(failed, London);
        Assert.Equal(Day(2026, 12, 7), until);
        h.Grace(failed, until);
        Assert.Equal(HoldingState.Grace, h.StateAt(Day(2026, 12, 6)));
        h.Closed(until);
        Assert.Equal([HoldingState.Grace, HoldingState.Closed, HoldingState.Closed],
            new[] { until - Duration.Epsilon, until, Day(2026, 12, 19) }.Select(h.StateAt));
        var owed = Obligations.Of(h, Day(2026, 12, 15));
        Assert.Equal((1, Day(2026, 11, 30), Day(2027, 10, 31), true), (owed.Next!.Turn, owed.Next.DueAt, owed.AccessEnds!.Value, owed.IsOverdue));
        // Closed means closed, whatever the promise keeps.
        Assert.False(MemberFacts.From([h], Day(2026, 12, 15)).HoldsAnything);
        Assert.True(MemberFacts.From([h], Day(2026, 12, 15)).held[0].KeepsNothing);
        Pay(h, owed.Next, Day(2026, 12, 20));
        Assert.Equal(HoldingState.Active, h.StateAt(Day(2026, 12, 20)));
        Assert.Equal((2, Day(2026, 12, 31)), (Obligations.Of(h, Day(2026, 12, 21)).Next!.Turn, Obligations.Of(h, Day(2026, 12, 21)).Next!.DueAt));
        Pay(h, Obligations.Of(h, Day(2026, 12, 31)).Next!, Day(2026, 12, 31));
        Assert.Equal((null, Day(2027, 10, 31)), (Obligations.Of(h, Day(2027, 1, 1)).Next, Obligations.Of(h, Day(2027, 1, 1)).AccessEnds!.Value));
        Assert.Equal([HoldingState.Active, HoldingState.Over], new[] { Day(2027, 10, 31) - Duration.Epsilon, Day(2027, 10, 31) }.Select(h.StateAt));
        Assert.False(Leaving.Possible(h, Day(2027, 1, 1)));
    }

    [Fact]
    public void Instalments_slept_over_are_asked_one_by_one()
    {
        var h = Hold(Winter, new PriceTerms.Instalments(Make.Pounds(26), 3, Period.Months(1)), Day(2026, 10, 31));
        var late = Day(2027, 2, 14);
        var owes = Obligations.Of(h, late);
        var (ask, missed) = owes.AskAt(h.Agreement, late);
        Assert.Equal((1, 0), (ask!.Turn, missed.Count));
        Assert.Equal(2, owes.RestOf(h.Agreement)!.Lines[0].Amount.Minor / 2600);
        Pay(h, ask, late);
        Assert.Equal(2, Obligations.Of(h, late).AskAt(h.Agreement, late).Ask!.Turn);
        Assert.Null(Obligations.Of(h, late).RestOf(h.Agreement));
        Pay(h, Obligations.Of(h, late).Next!, late);
        Assert.Equal((null, null, HoldingState.Active), (Obligations.Of(h, late).Next, Obligations.Of(h, late).AccessEnds, h.StateAt(Day(2030, 1, 1))));
    }

    [Fact]
    public void The_rest_at_once_leaves_nothing_to_pay()
    {
        var h = Hold(Winter, new PriceTerms.Instalments(Make.Pounds(26), 3, Period.Months(1)) { Access = new AccessLength.For(Period.Years(1)) },
            Day(2026, 10, 31));
        var at = Day(2026, 11, 15);
        var rest = Obligations.Of(h, at).RestOf(h.Agreement)!;
        Assert.Equal(Make.Pounds(52), rest.Amount);
        Pay(h, rest, at);
        Assert.Equal((null, HoldingState.Active), (Obligations.Of(h, at).Next, h.StateAt(Day(2027, 5, 1))));
        Assert.Equal(HoldingState.Over, h.StateAt(Day(2027, 10, 31)));
    }

    [Fact]
    public void Access_over_a_change_of_price_counts_from_the_first_day()
    {
        var joined = Day(2026, 9, 5);
        var h = Hold(Keeper, Make.Monthly(), joined, 3);
        var changed = Day(2026, 11, 20);
        var (_, made) = Change(h, Keeper, Keeper, Yearly(180), changed);
        var held = Assert.Single(MemberFacts.From([h, made], Day(2026, 11, 21)).held);
        Assert.Equal((joined, joined, Instant.MaxValue, changed), (held.Start, held.PaceFrom, held.Until, held.Holding!.StartsAt));
        Assert.Equal([joined, Day(2026, 10, 5), Day(2026, 11, 5), changed], held.Paid.Select(p => p.From));
        Assert.Equal(changed, held.Paid[2].To);
        Assert.Empty(held.Pauses);
        // Before, only the first is known.
        Assert.Equal(joined, Assert.Single(MemberFacts.From([h, made], Day(2026, 11, 19)).held).Holding!.StartsAt);
    }

    [Fact]
    public void What_was_given_for_later_is_known_before()
    {
        var gift = Make.Holding(2, Day(2026, 12, 1), source: HoldingSource.Gift);
        gift.Given(Day(2026, 12, 1), null, Day(2026, 11, 1));
        var facts = MemberFacts.From([gift], Day(2026, 11, 20));
        Assert.Equal(Day(2026, 12, 1), Assert.Single(facts.held).Begins);
        Assert.False(facts.HoldsAnything);
        Assert.Empty(MemberFacts.From([gift], Day(2026, 10, 31)).held);
        Assert.True(MemberFacts.From([gift], Day(2026, 12, 1)).HoldsAnything);
    }

    /// <summary>A life of one member, made of random payments, changes and pauses: money in is money used, credited or still to their credit.</summary>
    [Fact]
    public void Whatever_is_changed_no_penny_is_lost() =>
        Gen.Select(Gen.Int[0, 700], Gen.Int[0, 3].Array[1, 14], Gen.Int[1, 40].Array[14], Gen.Long[100, 40_000].Array[14])
            .Sample((startDay, acts, waits, amounts) =>
        {
            var at = Day(2026, 1, 31) + Duration.FromDays(startDay);
            var (plan, h) = (Keeper, Hold(Keeper, new PriceTerms.Recurring(new(amounts[0], Make.Gbp), Period.Months(1)), at));
            var all = new List<Holding> { h };
            long paid = amounts[0], used = 0;
            long Balance(Holding x) => x.Timeline.Balance?.Minor ?? 0;
            for (var i = 0; i < acts.Length; i++)
            {
                at += Duration.FromDays(waits[i]) + Duration.FromHours(i);
                while (Obligations.Of(h, at).DueAt(at) is { } due)
                {
                    paid += due.Amount.Minor;
                    Pay(h, due, due.DueAt);
                }
                if (h.StateAt(at) != HoldingState.Active) continue;
                switch (acts[i])
                {
                    case 0:
                        var to = plan == Keeper ? Apiary : Keeper;
                        PriceTerms terms = i % 2 == 0 ? new PriceTerms.Recurring(new(amounts[i], Make.Gbp), Period.Months(1 + i % 3))
                            : Yearly(amounts[i] / 100m);
                        var before = (Worth: h.Timeline.Paid[^1], Balance: Balance(h));
                        var (change, made) = Change(h, plan, to, terms, at, ChangeWhen.AtOnce);
                        Assert.Equal(before.Balance, change.Brought.Minor);
                        Assert.True(change.UnusedWorth.Minor >= 0 && change.First.Amount.Minor >= 0 && change.Left.Minor >= 0);
                        Assert.Equal(change.Credit.Minor, change.First.CreditUsed.Minor + change.Left.Minor);
                        Assert.Equal(change.Left.Minor, Balance(made));
                        Assert.Equal(0, Balance(h));
                        used -= change.UnusedWorth.Minor;
                        paid += change.First.Amount.Minor;
                        (plan, h) = (to, made);
                        all.Add(made);
                        break;
                    case 1:
                        h.Paused(at, London.At(London.Date(at).PlusDays(1 + waits[i]).AtMidnight()));
                        if (i % 2 == 0) h.Resumed(at + Duration.FromDays(waits[i] / 2.0));
                        break;
                    default: break;
                }
            }
            // What each stretch was worth when it was paid, less what came back as credit, is what the money bought.
            used += all.Sum(x => x.Timeline.Paid.Sum(f => Worth(x, f)));
            Assert.Equal(paid, used + Balance(h));
            Assert.All(all, x => Assert.True(Balance(x) >= 0));
            static long Worth(Holding x, HoldingFact f)
            {
                var last = x.Facts[^1].At;
                return Obligations.AgreementAt(x, last).At(f.From)!.Worth.Minor;
            }
        }, iter: Make.Tries(1500));
}
