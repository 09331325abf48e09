using BrightCircle.App.Billing;
using BrightCircle.App.Demo;
using BrightCircle.App.Learning;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Rights;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Xunit;
using PeriodUnit = BrightCircle.Core.Time.PeriodUnit;

namespace BrightCircle.App.Tests;

/// <summary>The ways of a membership, through the real use cases, a real PostgreSQL and the real stand-ins.</summary>
public class MembershipTests
{
    static async Task AllAgrees(House house)
    {
        Assert.Equal(0, await house.LedgerSum());
        var members = await house.Ask(db => db.Members.AsNoTracking().ToListAsync());
        foreach (var m in members)
            Assert.Equal(Standings.At(await house.Holdings(m.Id), house.Now.Book.Plan, house.Clock.Moment).Standing, m.Standing);
        var counts = await house.Ask(db => db.StandingCounts.AsNoTracking().Where(c => c.Members != 0).ToDictionaryAsync(c => c.Standing, c => c.Members));
        Assert.Equal(members.GroupBy(m => m.Standing).ToDictionary(g => g.Key, g => g.Count()), counts);
        var paid = await house.Ask(db => db.Payments.Where(p => p.Outcome == ChargeOutcome.Approved).SumAsync(p => p.Amount.Minor - p.RefundedMinor));
        Assert.Equal(paid, await house.Ask(db => db.Ledger.Where(l => l.Account == LedgerAccount.Cash).SumAsync(l => l.Amount.Minor)));
        Assert.Equal(0, await house.Ask(db => db.Ledger.Where(l => l.Account == LedgerAccount.Member).SumAsync(l => l.Amount.Minor)));
    }

    [Fact]
    public async Task Joining_opens_the_edition_pays_once_and_writes_two_letters()
    {
        await using var house = await House.Open();
        var email = House.NewAddress();
        var id = await house.Join(house.Monthly, email: email);
        await house.Deliver();

        Assert.Equal(Standing.Active, (await house.Member(id)).Standing);
        var payment = Assert.Single(await house.Payments(id));
        Assert.Equal((1800, ChargeOutcome.Approved, 0), (payment.Amount.Minor, payment.Outcome, payment.Turn));
        Assert.Equal(new LocalDate(2026, 12, 24), house.Now.Calendar.Date(payment.PeriodTo!.Value));
        var facts = MemberFacts.From(await house.Holdings(id), house.Clock.Moment);
        Assert.Equal([AccessState.Open, AccessState.OpensAt], house.Now.Pieces.Select(p => house.Now.Book.Decide(facts, p.Id, house.Clock.Moment).State));
        Assert.Equal(2, (await House.Post(email)).Count);
        var welcome = await House.Letter(email, "Welcome");
        var text = welcome.GetProperty("text").GetString()!;
        foreach (var part in new[] { "Hello Mirela", "Keeper, £18.00 a month", email, "http://site.example/in/", "Edition 12 opens on 1 December 2026",
            "help@site.example" }) Assert.Contains(part, text, StringComparison.Ordinal);
        Assert.DoesNotContain(welcome.GetProperty("headers").EnumerateArray(), h => h.GetProperty("field").GetString() == "List-Unsubscribe");
        await AllAgrees(house);
    }

    [Fact]
    public async Task The_month_moves_on_renews_releases_and_announces()
    {
        await using var house = await House.Open();
        var email = House.NewAddress();
        var id = await house.Join(house.Monthly, email: email);
        await house.To(house.Now.Calendar.At(new(2027, 2, 24, 12, 0)));
        Assert.Equal([new(2026, 11, 24), new(2026, 12, 24), new(2027, 1, 24), new LocalDate(2027, 2, 24)],
            (await house.Payments(id)).Select(p => house.Now.Calendar.Date(p.At)));
        var announcement = await House.Letter(email, "Edition 12: now open");
        Assert.Contains(announcement.GetProperty("headers").EnumerateArray(), h => h.GetProperty("field").GetString() == "List-Unsubscribe-Post"
            && h.GetProperty("value").GetString() == "List-Unsubscribe=One-Click");
        await AllAgrees(house);
    }

    [Fact]
    public async Task A_card_that_fails_is_retried_four_times_then_the_membership_lapses_with_a_way_back()
    {
        await using var house = await House.Open();
        var email = House.NewAddress();
        var id = await house.Join(house.Monthly, DemoTill.FailsLater, email);
        await house.Days(31);
        Assert.Equal(Standing.Grace, (await house.Member(id)).Standing);
        await house.Days(10);
        var payments = await house.Payments(id);
        Assert.Equal([ChargeOutcome.Approved, .. Enumerable.Repeat(ChargeOutcome.DeclinedSoft, 5)], payments.Select(p => p.Outcome));
        Assert.Equal([0, 1, 3, 5, 7], payments.Skip(1).Select(p => Period.DaysBetween(house.Now.Calendar.Date(payments[1].At), house.Now.Calendar.Date(p.At))));
        Assert.Equal(Standing.Lapsed, (await house.Member(id)).Standing);
        var facts = MemberFacts.From(await house.Holdings(id), house.Clock.Moment);
        var why = Why.Explain(house.Now.Book, facts, house.Now.Pieces[0], house.Clock.Moment, house.Now.Calendar);
        Assert.Equal("Open.", why.Answer);
        var post = await House.Post(email);
        Assert.Contains("Your Keeper has ended", post);
        Assert.Equal(4, post.Count(s => s.Contains("didn’t go through", StringComparison.Ordinal)));
        await AllAgrees(house);

        // Coming back with another card begins a new anchor.
        await house.JoinAgain(id, house.Monthly);
        Assert.Equal(Standing.Active, (await house.Member(id)).Standing);
        Assert.Equal(house.Clock.Moment, (await house.Holdings(id))[^1].Agreement.Anchor);
        await AllAgrees(house);
    }

    [Fact]
    public async Task Paying_in_grace_keeps_the_anchor()
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Monthly, DemoTill.FailsLater);
        await house.Days(34);
        long checkout = 0;
        var page = await house.Get<GoToTill, Result<string>>(s => s.Card(id, c => "http://site.example/" + (checkout = c), default));
        await house.Till.Pay(page.Value!, DemoTill.Approves);
        await house.Return(checkout);
        Assert.Equal(Standing.Active, (await house.Member(id)).Standing);
        await house.To(house.Now.Calendar.At(new(2027, 1, 25, 0, 0)));
        Assert.Equal(new LocalDate(2027, 1, 24), house.Now.Calendar.Date((await house.Payments(id))[^1].At));
        Assert.Single(await house.Holdings(id));
        await AllAgrees(house);
    }

    /// <summary>Another tier above Keeper, with one price.</summary>
    static async Task<PriceId> AnotherTier(House house, PriceDraft price)
    {
        PriceId made = default;
        await house.Do<SavePlan>(async s =>
        {
            var plan = await s.Do(house.Owner, null,
                new("Apiary", 3, "", [new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing())]), default);
            made = (await house.Get<AddPrice, Result<PriceId>>(a => a.Do(house.Owner, plan.Value, price, default))).Value;
        });
        return made;
    }

    static PriceDraft Price(PriceKind kind, string amount, string? trial = null) =>
        new(null, null, kind, amount, 1, PeriodUnit.Months, trial is not null, 7, PeriodUnit.Days, trial);

    [Fact]
    public async Task Changing_the_tier_charges_the_new_one_and_lets_the_old_run_out()
    {
        await using var house = await House.Open();
        var apiary = await AnotherTier(house, Price(PriceKind.Recurring, "30.00"));
        var id = await house.Join(house.Monthly);
        await house.Days(10);
        // What it takes the place of is said before anything is paid.
        var (replaced, way) = Assert.Single((await house.JoinAgain(id, apiary)).Replaces);
        Assert.Equal(("Keeper", new LocalDate(2026, 12, 24)), (replaced.Name, house.Now.Calendar.Date(((GivesWay.RunsOut)way).At)));
        Assert.Equal((Standing.Active, house.Now.PriceById[apiary].PlanId),
            ((await house.Member(id)).Standing, (await house.Member(id)).StandingPlanId!.Value));
        Assert.Equal(HoldingState.Ending, (await house.Holdings(id))[0].StateAt(house.Clock.Moment));
        await AllAgrees(house);
        await house.Days(45);
        var holdings = await house.Holdings(id);
        Assert.Equal((HoldingState.Over, HoldingState.Active), (holdings[0].StateAt(house.Clock.Moment), holdings[1].StateAt(house.Clock.Moment)));
        Assert.Equal([1800L, 3000, 3000], (await house.Payments(id)).Select(p => p.Amount.Minor));
        await AllAgrees(house);
    }

    [Fact]
    public async Task Changing_the_tier_in_grace_ends_the_old_one_at_once_and_asks_its_card_no_more()
    {
        await using var house = await House.Open();
        var apiary = await AnotherTier(house, Price(PriceKind.Recurring, "30.00"));
        var id = await house.Join(house.Monthly, DemoTill.FailsLater);
        await house.Days(32);
        Assert.Equal(Standing.Grace, (await house.Member(id)).Standing);
        Assert.IsType<GivesWay.EndsNow>(Assert.Single((await house.JoinAgain(id, apiary)).Replaces).Way);
        var old = (await house.Holdings(id))[0];
        Assert.Equal((true, EndReason.Replaced), (old.IsOver, old.Ending!.Reason));
        Assert.False(await house.Ask(db => db.DueWork.AnyAsync(d => d.SubjectId == old.Id.Value)));
        var tries = (await house.Payments(id)).Count(p => p.HoldingId == old.Id);
        await house.Days(14);
        Assert.Equal(tries, (await house.Payments(id)).Count(p => p.HoldingId == old.Id));
        Assert.Equal(Standing.Active, (await house.Member(id)).Standing);
        await AllAgrees(house);
    }

    [Fact]
    public async Task One_payment_is_asked_for_once_and_open_for_good_and_gone_when_it_goes_back()
    {
        await using var house = await House.Open();
        var price = await AnotherTier(house, Price(PriceKind.Once, "240.00"));
        var id = await house.Join(price);
        await house.Days(400);
        var payment = Assert.Single(await house.Payments(id));
        Assert.Equal((PaymentPurpose.Once, 24000L), (payment.Purpose, payment.Amount.Minor));
        Assert.Equal(Standing.Active, (await house.Member(id)).Standing);
        Assert.Null((await house.Holdings(id))[0].PaidThrough(house.Clock.Moment));
        await house.Do<RefundPayment>(s => s.Do(house.Owner, payment.Id, payment.Amount, true, "By agreement", default));
        await house.Days(1);
        Assert.Equal(Standing.Lapsed, (await house.Member(id)).Standing);
        await AllAgrees(house);
    }

    [Fact]
    public async Task A_trial_that_costs_something_is_paid_and_then_the_price()
    {
        await using var house = await House.Open();
        var id = await house.Join(await AnotherTier(house, Price(PriceKind.Recurring, "30.00", trial: "1.00")));
        Assert.Equal(Standing.Trial, (await house.Member(id)).Standing);
        await house.Days(8);
        Assert.Equal([(PaymentPurpose.Trial, 100L), (PaymentPurpose.Recurring, 3000L)], (await house.Payments(id)).Select(p => (p.Purpose, p.Amount.Minor)));
        Assert.Equal(Standing.Active, (await house.Member(id)).Standing);
        Assert.Equal(new LocalDate(2027, 1, 1), house.Now.Calendar.Date((await house.Holdings(id))[0].PaidThrough(house.Clock.Moment)!.Value));
        await AllAgrees(house);
    }

    [Fact]
    public async Task A_price_off_the_offer_is_joined_by_nobody_and_goes_on_for_those_who_have_it()
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Monthly);
        await house.Get<EditPrice, Result>(s => s.Words(house.Owner, house.Monthly, new("Monthly", "Join", Availability.Closed), default));
        Assert.Equal(Availability.Closed, house.Now.PriceById[house.Monthly].Availability);
        await house.Do<BeginJoin>(async join => Assert.IsNotType<JoinStart.Begun>(
            await join.Do(house.Now.PriceById[house.Monthly], "Perrin Vale", House.NewAddress(), null, default)));
        await house.Days(34);
        Assert.Equal(2, (await house.Payments(id)).Count(p => p.IsPaid));
        await house.Get<EditPrice, Result>(s => s.Words(house.Owner, house.Monthly, new("Monthly", "Join", Availability.OnOffer), default));
        Assert.Equal(Availability.OnOffer, house.Now.PriceById[house.Monthly].Availability);
        Assert.Contains("isn’t here", (await house.Get<EditPrice, Result>(s =>
            s.Words(house.Owner, new(1), new("Monthly", "Join", Availability.Closed), default)))
            .Refusal, StringComparison.Ordinal);
        await AllAgrees(house);
    }

    [Theory]
    [InlineData(DemoTill.NeedsCardholder)]
    [InlineData("no card")]
    public async Task What_only_the_member_can_mend_waits_and_then_lapses(string card)
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Monthly, card == "no card" ? DemoTill.Approves : card);
        if (card == "no card") await house.Ask(db => db.Cards.ExecuteDeleteAsync());
        await house.Days(36);
        Assert.Equal(Standing.Grace, (await house.Member(id)).Standing);
        Assert.Equal(2, (await house.Payments(id)).Count);
        await house.Days(2);
        Assert.Equal(Standing.Lapsed, (await house.Member(id)).Standing);
        await AllAgrees(house);
    }

    [Fact]
    public async Task A_trial_becomes_paid_and_is_given_once()
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Trial);
        Assert.Equal(Standing.Trial, (await house.Member(id)).Standing);
        Assert.Empty(await house.Payments(id));
        await house.Days(8);
        Assert.Equal(Standing.Active, (await house.Member(id)).Standing);
        Assert.Equal(new LocalDate(2026, 12, 1), house.Now.Calendar.Date(Assert.Single(await house.Payments(id)).At));
        var holding = (await house.Holdings(id))[0].Id;
        await house.Do<EndPlan>(s => s.Do(house.Owner, id, holding, default));
        Assert.Equal(PaymentPurpose.Recurring, (await house.JoinAgain(id, house.Trial)).Schedule.Payments[0].Purpose);
        await AllAgrees(house);
    }

    [Fact]
    public async Task Leaving_runs_to_the_end_and_can_be_taken_back()
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Monthly);
        var holding = (await house.Holdings(id))[0].Id;
        await house.Do<LeavePlan>(async s => Assert.True((await s.Do(id, holding, default)).Ok));
        Assert.Equal(Standing.Ending, (await house.Member(id)).Standing);
        await house.Days(3);
        await house.Do<StayWithPlan>(async s => Assert.True((await s.Do(id, holding, default)).Ok));
        await house.Days(30);
        Assert.Equal((Standing.Active, 2), ((await house.Member(id)).Standing, (await house.Payments(id)).Count));
        await house.Do<LeavePlan>(async s => Assert.True((await s.Do(id, holding, default)).Ok));
        await house.Days(40);
        Assert.Equal((Standing.Lapsed, 2), ((await house.Member(id)).Standing, (await house.Payments(id)).Count));
        await house.Do<LeavePlan>(async s => Assert.False((await s.Do(id, holding, default)).Ok));
        await AllAgrees(house);
    }

    [Fact]
    public async Task A_refund_goes_back_once_never_too_much_and_may_end_the_holding()
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Monthly);
        var payment = (await house.Payments(id))[0];
        async Task<Result> Refund(decimal amount, bool end = false)
        {
            Result r = default;
            await house.Do<RefundPayment>(async s =>
                r = await s.Do(house.Owner, payment.Id, new((long)(amount * 100), payment.Amount.Currency), end, "asked", default));
            return r;
        }
        Assert.Equal("Amount", (await Refund(18.01m)).Field);
        Assert.True((await Refund(5)).Ok);
        Assert.Empty(await house.Ask(db => db.DueWork.Where(d => d.Tries > 0).Select(d => d.LastError).ToListAsync()));
        Assert.Equal("Amount", (await Refund(13.01m)).Field);
        Assert.True((await Refund(13, end: true)).Ok);
        Assert.Equal(PaymentState.Refunded, (await house.Payments(id))[0].State);
        Assert.Equal(Standing.Lapsed, (await house.Member(id)).Standing);
        await house.Days(60);
        Assert.Single(await house.Payments(id));
        await AllAgrees(house);
    }

    [Fact]
    public async Task A_chargeback_told_twice_ends_the_holding_once()
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Monthly);
        var charge = (await house.Payments(id))[0].ChargeRef;
        for (var i = 0; i < 2; i++) await house.Do<NoteChargeback>(s => s.Do(charge, new(1800, new("GBP")), default));
        await house.Days(1);
        await house.Do<NoteChargeback>(s => s.Do(charge, new(1800, new("GBP")), default));
        await house.Days(1);
        Assert.Equal(PaymentState.ChargedBack, (await house.Payments(id))[0].State);
        Assert.Equal(EndReason.ChargedBack, (await house.Holdings(id))[0].Ending!.Reason);
        Assert.Equal(1, await house.Ask(db => db.Refunds.CountAsync()));
        await AllAgrees(house);
    }

    [Fact]
    public async Task A_gift_opens_ends_and_the_same_plan_is_not_held_twice()
    {
        await using var house = await House.Open();
        MemberId id = default;
        await house.Do<AddMember>(async s => id = (await s.Do(house.Owner, "Orla Venn", House.NewAddress(), default)).Value);
        Assert.Equal(Standing.Guest, (await house.Member(id)).Standing);
        await house.Do<GivePlan>(async s => Assert.True((await s.Do(house.Owner, id, new(house.Keeper, HoldingSource.Gift, Until: new LocalDate(2026, 12,
            5)), default)).Ok));
        await house.Do<GivePlan>(async s => Assert.Equal("Plan", (await s.Do(house.Owner, id, new(house.Keeper, HoldingSource.Gift), default)).Field));
        Assert.Equal(Standing.Active, (await house.Member(id)).Standing);
        await house.Days(14);
        Assert.Equal((Standing.Lapsed, EndReason.RanOut), ((await house.Member(id)).Standing, (await house.Holdings(id))[0].Ending!.Reason));
        await AllAgrees(house);
    }

    [Fact]
    public async Task The_same_address_is_led_to_sign_in_and_a_link_works_once()
    {
        await using var house = await House.Open();
        var email = House.NewAddress();
        await house.Join(house.Free, email: email);
        // The form says nothing about who is here already; the letter does.
        await house.Do<BeginJoin>(async join => Assert.IsType<JoinStart.Begun>(
            await join.Do(house.Now.PriceById[house.Monthly], "Somebody", email.ToUpperInvariant(), null, default)));
        Assert.Equal(1, await house.Ask(db => db.Letters.CountAsync(l => l.Kind == LetterKind.HasAccount)));
        await house.Do<SignInByLink>(s => s.Request(email, "/me", default));
        await house.Deliver();
        var token = System.Text.RegularExpressions.Regex.Match((await House.Letter(email, "Your way in")).GetProperty("text").GetString()!, "/in/([^\\s]+)")
            .Groups[1].Value;
        await house.Do<SignInByLink>(async s => Assert.NotNull(await s.Use(token, default)));
        await house.Do<SignInByLink>(async s => Assert.Null(await s.Use(token, default)));
        await house.Do<SignInByLink>(async s => Assert.Null(await s.Use(token[..^2] + "xx", default)));
    }

    [Fact]
    public async Task A_lesson_is_marked_as_done_once_and_the_mark_can_be_taken_back()
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Free);
        var lesson = house.Now.Pieces[0].Outline.Lessons[0].Id;
        foreach (var (done, marks, lines) in new[] { (true, 1, 1), (true, 1, 1), (false, 0, 1), (true, 1, 2) })
        {
            await house.Do<TakePart>(async s => await s.MarkDone(await house.Reads(id, lesson), done, default));
            Assert.Equal(marks, await house.Ask(db => db.Openings.CountAsync(o => o.MemberId == id && o.DoneAt != null)));
            Assert.Equal(lines, await house.Ask(db => db.Journal.CountAsync(j => j.MemberId == id && j.Kind == "finished")));
        }
    }

    [Theory]
    [InlineData("", "a@b.example", "Name")]
    [InlineData("Orla", "not an address", "Email")]
    [InlineData("Orla", "orla@localhost", "Email")]
    public async Task What_is_typed_wrong_is_said_where(string name, string email, string field)
    {
        await using var house = await House.Open();
        await house.Do<BeginJoin>(async join => Assert.Equal(
            field, Assert.IsType<JoinStart.Refused>(await join.Do(house.Now.PriceById[house.Monthly], name, email, null, default)).Field));
    }
}
