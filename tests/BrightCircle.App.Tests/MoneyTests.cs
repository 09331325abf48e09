using BrightCircle.App.Billing;
using BrightCircle.App.Demo;
using BrightCircle.App.Due;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Npgsql;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Every way to pay and every change in the middle, against the real database and the Till: what is shown is what is charged, and no penny is
/// lost.</summary>
public class MoneyTests
{
    static PriceDraft Draft(PriceKind kind, string amount, int count = 1, PeriodUnit unit = PeriodUnit.Months) =>
        new(null, null, kind, amount, count, unit, false, 7, PeriodUnit.Days, "0");

    static async Task<PriceId> Price(House house, PriceDraft draft, PlanId? plan = null)
    {
        var added = await house.Get<AddPrice, Result<PriceId>>(s => s.Do(house.Owner, plan ?? house.Keeper, draft, default));
        Assert.True(added.Ok, added.Refusal);
        return added.Value;
    }

    static async Task<PlanId> Plan(House house, string name, int rank) => (await house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null,
        new(name, rank, "", [new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing())], rank == 0 ? PlanKind.Pass : PlanKind.Tier),
        default))).Value;

    static async Task<Result<ChangeLook>> Look(House house, MemberId member, HoldingId holding, PriceId to, ChangeWhen? when = null)
    {
        var who = Buyer.Of(await house.Member(member), await house.Holdings(member));
        return await house.Get<ChangePlan, Result<ChangeLook>>(s => s.Look(member, who, holding, to, when, default));
    }

    static async Task<(Result Done, PlanChange Shown)> Change(House house, MemberId member, PriceId to, ChangeWhen? when = null)
    {
        var holding = (await house.Holdings(member)).Last(h => h.StateAt(house.Clock.Moment) is HoldingState.Active or HoldingState.Trial);
        var look = await Look(house, member, holding.Id, to, when);
        Assert.True(look.Ok, look.Refusal);
        var shown = look.Value!.Change;
        return (await house.Get<ChangePlan, Result>(s => s.Do(member, holding.Id, to, shown.When, shown.First.Amount.Minor, default)), shown);
    }

    /// <summary>All entries balance, and what members have to their credit is what the credit account holds.</summary>
    static async Task Balances(House house)
    {
        Assert.Equal(0, await house.LedgerSum());
        Assert.Equal(0, await house.Ask(db => db.Ledger.GroupBy(l => l.PostingId).Where(g => g.Sum(l => l.Amount.Minor) != 0).CountAsync()));
        var held = (await house.Ask(db => db.Holdings.AsNoTracking().Include(h => h.Facts).ToListAsync())).Sum(h => h.Timeline.Balance?.Minor ?? 0);
        Assert.Equal(-held, await house.Ask(db => db.Ledger.Where(l => l.Account == LedgerAccount.Credit).SumAsync(l => l.Amount.Minor)));
        Assert.Equal(await house.Ask(db => db.Payments.Where(p => p.Outcome == ChargeOutcome.Approved).SumAsync(p => p.Amount.Minor - p.RefundedMinor)),
            await house.Ask(db => db.Ledger.Where(l => l.Account == LedgerAccount.Cash).SumAsync(l => l.Amount.Minor)));
    }

    static LocalDate Date(House house, Instant at) => house.Now.Calendar.Date(at);

    // The worked case of an instalment that fails (from 24 November, where the tests stand): grace, closed until it is paid, the end stays.
    [Fact]
    public async Task An_instalment_that_fails_closes_until_it_is_paid()
    {
        await using var house = await House.Open();
        var pass = await Plan(house, "First Winter", 0);
        var price = await Price(house, Draft(PriceKind.Instalments, "26") with { Times = 3, Access = AccessKind.For, AccessCount = 1 }, pass);
        var email = House.NewAddress();
        var id = await house.Join(price, DemoTill.FailsLater, email);
        Assert.Equal(new LocalDate(2026, 12, 24), Date(house, Obligations.Of((await house.Holdings(id))[0], house.Clock.Moment).Next!.DueAt));
        await house.To(house.Now.Calendar.At(new(2026, 12, 30, 12, 0)));
        Assert.Equal(HoldingState.Grace, (await house.Holdings(id))[0].StateAt(house.Clock.Moment));
        await house.To(house.Now.Calendar.At(new(2027, 1, 6, 12, 0)));
        var closed = (await house.Holdings(id))[0];
        Assert.Equal(HoldingState.Closed, closed.StateAt(house.Clock.Moment));
        Assert.False((await house.FactsOf(id)).HoldsAnything);
        Assert.Equal(6, (await house.Payments(id)).Count);
        // Nothing more is tried by itself, and it hasn't ended.
        await house.Days(30);
        Assert.Equal(6, (await house.Payments(id)).Count);
        Assert.Null((await house.Holdings(id))[0].Ending);
        // Paying opens at once; the one that was due meanwhile follows.
        long checkout = 0;
        var page = await house.Get<GoToTill, Result<string>>(s => s.Card(id, c => "http://site.example/back/" + (checkout = c), default));
        await house.Till.Pay(page.Value!, DemoTill.Approves);
        await house.Return(checkout);
        Assert.Equal(HoldingState.Active, (await house.Holdings(id))[0].StateAt(house.Clock.Moment));
        await house.Days(1);
        var paid = (await house.Payments(id)).Where(p => p.IsPaid).ToArray();
        Assert.Equal([0, 1, 2], paid.Select(p => p.Turn));
        Assert.Equal(new LocalDate(2027, 11, 24), Date(house, paid[2].PeriodTo!.Value));
        await house.To(house.Now.Calendar.At(new(2027, 11, 25, 12, 0)));
        Assert.Equal(EndReason.RanOut, (await house.Holdings(id))[0].Ending!.Reason);
        await house.Deliver();
        Assert.Contains(await House.Post(email), s => s.Contains("closed until", StringComparison.Ordinal));
        await Balances(house);
    }

    [Fact]
    public async Task The_rest_is_paid_at_once_with_the_card_on_file()
    {
        await using var house = await House.Open();
        var price = await Price(house, Draft(PriceKind.Instalments, "26") with { Times = 3 }, await Plan(house, "First Winter", 0));
        var id = await house.Join(price);
        var holding = (await house.Holdings(id))[0];
        Assert.False((await house.Get<PayRest, Result>(s => s.Do(id, holding.Id, 5100, default))).Ok);
        Assert.True((await house.Get<PayRest, Result>(s => s.Do(id, holding.Id, 5200, default))).Ok);
        Assert.False((await house.Get<PayRest, Result>(s => s.Do(id, holding.Id, 5200, default))).Ok);
        await house.Days(100);
        Assert.Equal([2600, 5200], (await house.Payments(id)).Select(p => p.Amount.Minor));
        Assert.Null(Obligations.Of((await house.Holdings(id))[0], house.Clock.Moment).Next);
        await Balances(house);
    }

    // 24 November to 24 December has 30 days; on 4 December 20 are left: 18.00 × 20/30 = 12.00; 180.00 − 12.00 = 168.00.
    [Fact]
    public async Task From_month_to_year_what_is_shown_is_charged_and_joining_counts_from_the_first_day()
    {
        await using var house = await House.Open();
        var year = await Price(house, Draft(PriceKind.Recurring, "180", unit: PeriodUnit.Years));
        var email = House.NewAddress();
        var id = await house.Join(house.Monthly, email: email);
        await house.Days(10);
        var (done, shown) = await Change(house, id, year);
        Assert.True(done.Ok, done.Refusal);
        Assert.Equal((20, 30, 1200L, 16800L), (shown.Unused, shown.Days, shown.UnusedWorth.Minor, shown.First.Amount.Minor));
        var payments = await house.Payments(id);
        Assert.Equal([1800, 16800], payments.Select(p => p.Amount.Minor));
        Assert.Equal([18000, -1200], payments[1].Lines.Select(l => l.Amount.Minor));
        var holdings = await house.Holdings(id);
        Assert.Equal((EndReason.Replaced, holdings[0].Id), (holdings[0].Ending!.Reason, holdings[1].Continues!.Value));
        // November was current when they joined, and December is now.
        var facts = await house.FactsOf(id);
        Assert.All(house.Now.Pieces, piece => Assert.True(house.Now.Book.Decide(facts, piece.Id, house.Clock.Moment).IsOpen, piece.Title));
        Assert.Equal(Standing.Active, (await house.Member(id)).Standing);
        await house.To(house.Now.Calendar.At(new(2027, 12, 5, 12, 0)));
        Assert.Equal(18000, (await house.Payments(id))[^1].Amount.Minor);
        Assert.Equal(3, (await house.Payments(id)).Count);
        await house.Deliver();
        Assert.Contains(await House.Post(email), s => s.StartsWith("You’re on Keeper now", StringComparison.Ordinal));
        await Balances(house);
    }

    [Fact]
    public async Task From_year_to_month_at_once_the_credit_pays_the_months_first()
    {
        await using var house = await House.Open();
        var year = await Price(house, Draft(PriceKind.Recurring, "36", unit: PeriodUnit.Years));
        var id = await house.Join(year);
        await house.Days(1);
        var (done, shown) = await Change(house, id, house.Monthly, ChangeWhen.AtOnce);
        Assert.True(done.Ok, done.Refusal);
        // 364 of 365 days: 36.00 × 364/365 = 35.90; the first month takes 18.00 of it, the second 17.90 and ten pence.
        Assert.Equal((3590L, 0L, 1790L), (shown.UnusedWorth.Minor, shown.First.Amount.Minor, shown.Left.Minor));
        Assert.Single(await house.Payments(id));
        await Balances(house);
        await house.Days(65);
        Assert.Equal([3600, 10, 1800], (await house.Payments(id)).Select(p => p.Amount.Minor));
        Assert.Equal(1, await house.Ask(db => db.Journal.CountAsync(j => j.MemberId == id && j.Kind == "covered")));
        await Balances(house);
    }

    [Fact]
    public async Task Down_waits_for_the_end_of_the_paid_time_and_can_be_taken_back()
    {
        await using var house = await House.Open();
        var apiary = await Plan(house, "Apiary", 3);
        var high = await Price(house, Draft(PriceKind.Recurring, "39"), apiary);
        var id = await house.Join(high);
        var (done, shown) = await Change(house, id, house.Monthly);
        Assert.True(done.Ok, done.Refusal);
        Assert.Equal((ChangeWhen.AtPeriodEnd, 1800L), (shown.When, shown.First.Amount.Minor));
        Assert.Equal((Standing.Active, apiary), ((await house.Member(id)).Standing, (await house.Member(id)).StandingPlanId!.Value));
        var planned = (await house.Holdings(id))[1];
        Assert.False((await Look(house, id, (await house.Holdings(id))[0].Id, house.Monthly)).Ok);
        Assert.True((await house.Get<ChangePlan, Result>(s => s.TakeBack(id, planned.Id, default))).Ok);
        Assert.False((await house.Get<ChangePlan, Result>(s => s.TakeBack(id, planned.Id, default))).Ok);
        await house.Days(31);
        Assert.Equal([3900, 3900], (await house.Payments(id)).Select(p => p.Amount.Minor));
        // Once more, and this time it stays.
        await Change(house, id, house.Monthly);
        await house.Days(31);
        Assert.Equal([3900, 3900, 1800], (await house.Payments(id)).Select(p => p.Amount.Minor));
        Assert.Equal((Standing.Active, house.Keeper), ((await house.Member(id)).Standing, (await house.Member(id)).StandingPlanId!.Value));
        Assert.Equal(EndReason.Replaced, (await house.Holdings(id))[0].Ending!.Reason);
        await house.Days(31);
        Assert.Equal(4, (await house.Payments(id)).Count);
        await Balances(house);
    }

    [Fact]
    public async Task A_planned_change_whose_first_payment_fails_is_in_grace_and_then_lapses()
    {
        await using var house = await House.Open();
        var high = await Price(house, Draft(PriceKind.Recurring, "39"), await Plan(house, "Apiary", 3));
        var id = await house.Join(high, DemoTill.FailsLater);
        await Change(house, id, house.Monthly);
        await house.Days(31);
        Assert.Equal((Standing.Grace, house.Keeper), ((await house.Member(id)).Standing, (await house.Member(id)).StandingPlanId!.Value));
        await house.Days(8);
        Assert.Equal(Standing.Lapsed, (await house.Member(id)).Standing);
        await Balances(house);
    }

    [Fact]
    public async Task A_card_that_refuses_changes_nothing_and_a_lost_answer_settles_itself()
    {
        await using var house = await House.Open();
        var year = await Price(house, Draft(PriceKind.Recurring, "180", unit: PeriodUnit.Years));
        var poor = await house.Join(house.Monthly, DemoTill.FailsLater);
        var (refused, _) = await Change(house, poor, year);
        Assert.Contains("refused", refused.Refusal);
        Assert.Equal(HoldingState.Active, Assert.Single(await house.Holdings(poor)).StateAt(house.Clock.Moment));
        Assert.Equal(1, await house.Ask(db => db.Journal.CountAsync(j => j.MemberId == poor && j.Kind == "change-refused")));

        var lost = await house.Join(house.Monthly, DemoTill.TimesOut);
        var (waits, _) = await Change(house, lost, year);
        Assert.False(waits.Ok);
        Assert.Equal(1, await house.Ask(db => db.ChargeAsks.CountAsync(a => a.MemberId == lost)));
        // Nobody comes back to it: a worker looks after it, and the money has moved once.
        await house.To(house.Clock.Moment + Duration.FromMinutes(20));
        Assert.Equal(0, await house.Ask(db => db.ChargeAsks.CountAsync()));
        var holdings = await house.Holdings(lost);
        Assert.Equal([HoldingState.Over, HoldingState.Active], holdings.Select(h => h.StateAt(house.Clock.Moment)));
        Assert.Equal(1, await House.ChargesLike($"recurring-{holdings[1].Id.Value}-0-1"));
        await Balances(house);
    }

    /// <summary>Is cut off once the money has moved.</summary>
    sealed class CutOff(IPaymentGateway real) : IPaymentGateway
    {
        public async Task<ChargeResult> Charge(ChargeRequest request, CancellationToken ct)
        {
            await real.Charge(request, ct);
            throw new InvalidOperationException("Cut off.");
        }
        public Task<OpenedSession?> Open(SessionRequest request, CancellationToken ct) => real.Open(request, ct);
        public Task<SessionResult?> Result(string session, CancellationToken ct) => real.Result(session, ct);
        public Task<IReadOnlyList<GatewayCharge>?> List(Instant from, Instant to, CancellationToken ct) => real.List(from, to, ct);
        public Task<RefundResult> Refund(string key, string chargeRef, Money amount, Instant at, CancellationToken ct) =>
            real.Refund(key, chargeRef, amount, at, ct);
        public Task<RefundResult> Answer(string key, string disputeRef, string text, CancellationToken ct) => real.Answer(key, disputeRef, text, ct);
        public Task<IReadOnlyList<GatewayPayout>?> Payouts(Instant from, Instant to, CancellationToken ct) => real.Payouts(from, to, ct);
        public Task<bool> Forget(string cardToken, CancellationToken ct) => real.Forget(cardToken, ct);
        public GatewayCallback Read(string? timestamp, string? signature, ReadOnlySpan<byte> body) => real.Read(timestamp, signature, body);
    }

    [Fact]
    public async Task Cut_off_between_money_and_books_a_change_takes_place_once_as_it_was_shown()
    {
        await using var house = await House.Open();
        var year = await Price(house, Draft(PriceKind.Recurring, "180", unit: PeriodUnit.Years));
        var id = await house.Join(house.Monthly);
        await house.Days(10);
        var holding = (await house.Holdings(id))[0];
        await using var cut = await house.AnotherNode(services =>
        {
            var real = services.Last(s => s.ServiceType == typeof(IPaymentGateway)).ImplementationFactory!;
            services.AddScoped<IPaymentGateway>(s => new CutOff((IPaymentGateway)real(s)));
        });
        cut.Clock.StandAt(house.Clock.Moment);
        await Assert.ThrowsAnyAsync<Exception>(() => cut.Get<ChangePlan, Result>(s => s.Do(id, holding.Id, year, ChangeWhen.AtOnce, 16800, default)));
        Assert.Single(await house.Holdings(id));
        // Whoever comes next settles it first; days later it is still worked out as of the moment it was shown.
        await house.Days(3);
        Assert.False((await house.Get<LeavePlan, Result>(s => s.Do(id, holding.Id, default))).Ok);
        Assert.Equal([1800, 16800], (await house.Payments(id)).Select(p => p.Amount.Minor));
        var holdings = await house.Holdings(id);
        Assert.Equal(1, await House.ChargesLike($"recurring-{holdings[1].Id.Value}-0-1"));
        Assert.Equal(new LocalDate(2026, 12, 4), Date(house, holdings[1].StartsAt));
        await Balances(house);
    }

    [Fact]
    public async Task Two_tabs_change_once()
    {
        await using var house = await House.Open();
        var year = await Price(house, Draft(PriceKind.Recurring, "180", unit: PeriodUnit.Years));
        var id = await house.Join(house.Monthly);
        await house.Days(10);
        var holding = (await house.Holdings(id))[0];
        var done = await Task.WhenAll(Enumerable.Range(0, 4).Select(
            _ => house.Get<ChangePlan, Result>(s => s.Do(id, holding.Id, year, ChangeWhen.AtOnce, 16800, default))));
        Assert.Contains(done, d => d.Ok);
        Assert.Equal([1800, 16800], (await house.Payments(id)).Select(p => p.Amount.Minor));
        Assert.Equal(2, (await house.Holdings(id)).Count);
        await Balances(house);
    }

    // 24 November to 24 December; paused on 4 December until 24 December: 20 days later, so on 13 January.
    [Fact]
    public async Task A_pause_charges_nothing_and_moves_what_is_paid()
    {
        await using var house = await House.Open();
        Assert.True((await house.Get<EditPrice, Result>(s => s.Words(house.Owner, house.Monthly, new("Monthly", "Join", PauseDays: 30, PauseYear: 45),
            default))).Ok);
        var id = await house.Join(house.Monthly);
        await house.Days(10);
        var holding = (await house.Holdings(id))[0];
        Task<Result> Pause(LocalDate until, TeamActor? by = null) => house.Get<PausePlan, Result>(s => s.Do(id, holding.Id, until, by, default));
        Assert.Contains("30", (await Pause(new(2027, 1, 4))).Refusal);
        Assert.True((await Pause(new(2026, 12, 24))).Ok);
        Assert.Equal(Standing.Paused, (await house.Member(id)).Standing);
        Assert.False((await house.FactsOf(id)).HoldsAnything);
        await house.To(house.Now.Calendar.At(new(2026, 12, 24, 12, 0)));
        Assert.Equal(Standing.Active, (await house.Member(id)).Standing);
        Assert.Single(await house.Payments(id));
        await house.To(house.Now.Calendar.At(new(2027, 1, 13, 12, 0)));
        var second = (await house.Payments(id))[^1];
        Assert.Equal((new LocalDate(2027, 1, 13), 1), (Date(house, second.PeriodFrom), second.Turn));
        // Ended before its time by the member, and by the team once more, whose pauses have no such limit.
        Assert.Contains("45", (await Pause(new(2027, 2, 9))).Refusal);
        Assert.True((await Pause(new(2027, 2, 1))).Ok);
        await house.Days(2);
        Assert.True((await house.Get<PausePlan, Result>(s => s.Resume(id, holding.Id, null, default))).Ok);
        Assert.False((await house.Get<PausePlan, Result>(s => s.Resume(id, holding.Id, null, default))).Ok);
        Assert.Equal(new LocalDate(2027, 2, 15), Date(house, Obligations.Of((await house.Holdings(id))[0], house.Clock.Moment).Next!.DueAt));
        Assert.True((await Pause(new(2027, 8, 1), house.Owner)).Ok);
        Assert.Equal(["paused", "pause-over", "paused", "pause-over", "paused"],
            await house.Ask(db => db.Journal.Where(j => j.MemberId == id && j.Kind.StartsWith("pause")).OrderBy(j => j.Id).Select(j => j.Kind).ToListAsync()));
        // Whoever leaves in a pause keeps the rest of what was paid.
        Assert.True((await house.Get<LeavePlan, Result>(s => s.Do(id, holding.Id, default))).Ok);
        Assert.Equal((HoldingState.Ending, new LocalDate(2027, 2, 15)), ((await house.Holdings(id))[0].StateAt(house.Clock.Moment),
            Date(house, (await house.Holdings(id))[0].LeavingAt(house.Clock.Moment)!.Value)));
        await Balances(house);
    }

    static async Task<long> Coupon(House house, CouponDraft draft)
    {
        var saved = await house.Get<Coupons, Result<long>>(s => s.Save(house.Owner, null, draft, default));
        Assert.True(saved.Ok, saved.Refusal);
        return saved.Value;
    }

    static async Task<(long Checkout, Result Typed)> WithCoupon(House house, PriceId price, string code, MemberId? member = null, string? email = null)
    {
        var start = (JoinStart.Begun)await house.Get<BeginJoin, JoinStart>(s =>
            s.Do(house.Now.PriceById[price], "Mirela Duarte", email ?? House.NewAddress(), member, default));
        return (start.Checkout, await house.Get<UseCoupon, Result>(s => s.Type(start.Checkout, code, default)));
    }

    [Fact]
    public async Task A_coupon_lowers_as_many_payments_as_it_says()
    {
        await using var house = await House.Open();
        var coupon = await Coupon(house, new("frost 10", "Winter", OffKind.Percent, "10", LastsKind.Payments, 3));
        var (checkout, typed) = await WithCoupon(house, house.Monthly, " Frost\u00a010 ");
        Assert.True(typed.Ok, typed.Refusal);
        await house.Till.Pay((await house.TillPage(checkout))!, DemoTill.Approves);
        var id = (await house.Return(checkout))!.MemberId!.Value;
        await house.Days(95);
        Assert.Equal([1620, 1620, 1620, 1800], (await house.Payments(id)).Select(p => p.Amount.Minor));
        Assert.Equal([coupon, coupon, coupon, null], (await house.Payments(id)).Select(p => p.CouponId));
        var row = Assert.Single(await house.Get<Coupons, IReadOnlyList<CouponRow>>(s => s.All(default)));
        Assert.Equal((1, 0, 540L, 6660L), (row.Used, row.Kept, row.Given.Minor, row.Brought.Minor));
        Assert.Contains("no coupon", (await WithCoupon(house, house.Monthly, "FROST11")).Typed.Refusal);
        Assert.Contains("nothing to pay", (await WithCoupon(house, house.Free, "FROST10")).Typed.Refusal);
        await Balances(house);
    }

    [Fact]
    public async Task A_coupon_for_an_audience_is_for_those_who_belong_to_it_when_they_use_it()
    {
        await using var house = await House.Open();
        var tag = (await house.Get<MemberTags, Result<TagId>>(s => s.Save(house.Owner, null, "helper", "", 1, null, default))).Value;
        var audience = (await house.Get<Audiences, Result<AudienceId>>(s => s.Save(house.Owner, null, "Helpers", new Condition.Tagged(tag), default))).Value;
        Assert.Equal("Audience", (await house.Get<Coupons, Result<long>>(s => s.Save(house.Owner, null, new("THANKS", null, Off: "50", Audience: 7),
            default))).Field);
        var coupon = await Coupon(house, new("THANKS", null, Off: "50", Audience: audience.Value));
        async Task<MemberId> Somebody(string name) => (await house.Get<App.Rights.AddMember,
            Result<MemberId>>(s => s.Do(house.Owner, name, House.NewAddress(), default))).Value;
        var (helps, other) = (await Somebody("Nell Ash"), await Somebody("Ede Moor"));
        await house.Do<MemberTags>(async s => Assert.True((await s.PutOn(house.Owner, helps, "helper", default)).Ok));
        Assert.Contains("sign in first", (await WithCoupon(house, house.Monthly, "THANKS")).Typed.Refusal);
        Assert.Contains("for some of the members", (await WithCoupon(house, house.Monthly, "THANKS", other)).Typed.Refusal);
        var (checkout, typed) = await WithCoupon(house, house.Monthly, "thanks", helps);
        Assert.True(typed.Ok, typed.Refusal);
        // Whoever belongs to it no more when they go to pay, pays without it.
        var (late, _) = await WithCoupon(house, house.Monthly, "thanks", helps);
        await house.Till.Pay((await house.TillPage(checkout))!, DemoTill.Approves);
        await house.Return(checkout);
        Assert.Equal([900L], (await house.Payments(helps)).Select(p => p.Amount.Minor));
        await house.Do<MemberTags>(s => s.TakeOff(house.Owner, helps, tag, default));
        await house.TillPage(late);
        Assert.Null((await house.Ask(db => db.Checkouts.AsNoTracking().SingleAsync(c => c.Id == late))).Coupon);
        // It stays as long as the coupon asks for it.
        Assert.Contains("THANKS", (await house.Get<Audiences, Result>(s => s.Remove(house.Owner, audience, default))).Refusal);
        Assert.True((await house.Get<Coupons, Result<long>>(s => s.Save(house.Owner, coupon, new("", null), default))).Ok);
        Assert.True((await house.Get<Audiences, Result>(s => s.Remove(house.Owner, audience, default))).Ok);
        await Balances(house);
    }

    // The worked case: 20.00 once on 18.00 is nothing to pay, and the rest is gone.
    [Fact]
    public async Task Where_a_coupon_leaves_nothing_the_card_is_only_kept()
    {
        await using var house = await House.Open();
        await Coupon(house, new("WELCOME", null, OffKind.Amount, "20.00"));
        var (checkout, _) = await WithCoupon(house, house.Monthly, "welcome");
        await house.Till.Pay((await house.TillPage(checkout))!, DemoTill.Approves);
        var id = (await house.Return(checkout))!.MemberId!.Value;
        Assert.Empty(await house.Payments(id));
        Assert.Equal(Standing.Active, (await house.Member(id)).Standing);
        await house.Days(31);
        Assert.Equal([1800], (await house.Payments(id)).Select(p => p.Amount.Minor));
        await Balances(house);
    }

    [Fact]
    public async Task Of_fifty_who_want_the_last_use_of_a_coupon_one_gets_it()
    {
        await using var house = await House.Open();
        await Coupon(house, new("LAST", null, OffKind.Percent, "50", Limit: 1));
        var checkouts = new List<long>();
        for (var i = 0; i < 50; i++) checkouts.Add((await WithCoupon(house, house.Monthly, "LAST")).Checkout);
        var gone = await Task.WhenAll(checkouts.Select(c => house.Get<GoToTill, Result<string>>(s => s.Join(c, "http://site.example/join/back", default))));
        Assert.Equal(1, gone.Count(g => g.Ok));
        Assert.All(gone.Where(g => !g.Ok), g => Assert.Contains("used up", g.Refusal));
        Assert.Equal(1, await house.Ask(db => db.CouponUses.CountAsync()));
        // They go on without it, at the usual price.
        var other = checkouts[Array.FindIndex(gone, g => !g.Ok)];
        Assert.Null((await house.Ask(db => db.Checkouts.AsNoTracking().SingleAsync(c => c.Id == other))).Coupon);
        Assert.NotNull(await house.TillPage(other));
        Assert.Equal(1800, (await house.Ask(db => db.Checkouts.AsNoTracking().SingleAsync(c => c.Id == other))).AskedMinor);
    }

    [Fact]
    public async Task A_coupon_for_newcomers_tells_nothing_about_an_address_and_gives_the_money_back()
    {
        await using var house = await House.Open();
        await Coupon(house, new("HELLO", null, OffKind.Percent, "50", OnlyNewcomers: true));
        var email = House.NewAddress();
        var id = await house.Join(house.Monthly, email: email);
        await house.Get<LeavePlan, Result>(s => s.Do(id, house.Holdings(id).Result[0].Id, default));
        await house.Days(40);
        // Signed in they hear it at once; somebody who only typed the address doesn't learn that it is known.
        Assert.Contains("first time", (await WithCoupon(house, house.Monthly, "HELLO", id)).Typed.Refusal);
        var (checkout, typed) = await WithCoupon(house, house.Monthly, "HELLO", email: email);
        Assert.True(typed.Ok);
        await house.Till.Pay((await house.TillPage(checkout))!, DemoTill.Approves);
        var back = (await house.Return(checkout))!;
        Assert.Contains("first time", back.RefusedBecause);
        await house.Days(1);
        Assert.Equal(900, (await house.Payments(id))[^1].RefundedMinor);
        Assert.Single(await house.Holdings(id));
        await Balances(house);
    }

    [Fact]
    public async Task A_sale_counts_as_it_did_when_the_buyer_went_to_pay()
    {
        await using var house = await House.Open();
        var price = await Price(house, Draft(PriceKind.Once, "69") with { HasSale = true, SaleAmount = "49", SaleUntil = "2026-11-24" },
            await Plan(house, "Winter", 0));
        house.Clock.StandAt(house.Now.Calendar.At(new(2026, 11, 24, 23, 50)));
        var (checkout, page, _) = await house.Begin(price);
        await house.Till.Pay(page!, DemoTill.Approves);
        house.Clock.StandAt(house.Now.Calendar.At(new(2026, 11, 25, 0, 20)));
        var id = (await house.Return(checkout))!.MemberId!.Value;
        var paid = Assert.Single(await house.Payments(id));
        Assert.Equal((4900L, false), (paid.Amount.Minor, paid.TakenDiffers));
        // A minute later it costs what it costs.
        var (_, _, _) = await house.Begin(price);
        Assert.Equal(6900, (await house.Ask(db => db.Checkouts.AsNoTracking().OrderByDescending(c => c.Id).FirstAsync())).AskedMinor);
    }

    [Fact]
    public async Task A_price_may_be_for_some_only()
    {
        await using var house = await House.Open();
        var thanks = await Price(house, Draft(PriceKind.Recurring, "9"), await Plan(house, "Thanks", 3));
        Task<Result> Words(BuyersKind kind) => house.Get<EditPrice, Result>(s => s.Words(house.Owner, thanks, new("Thanks", "Take it", Buyers: kind,
            BuyerPlans: [house.Keeper.Value]), default));
        Task<JoinStart> Begin(MemberId? member) => house.Get<BeginJoin, JoinStart>(s =>
            s.Do(house.Now.PriceById[thanks], "Mirela Duarte", House.NewAddress(), member, default));
        var holds = await house.Join(house.Monthly);
        var held = await house.Join(house.Free);
        await house.Get<LeavePlan, Result>(s => s.Do(held, house.Holdings(held).Result[0].Id, default));
        Assert.Null(App.Words.Say.Buyers(house.Now.PriceById[thanks].Buyers, house.Now));
        Assert.True((await Words(BuyersKind.Holders)).Ok);
        Assert.Equal("for who holds Keeper", App.Words.Say.Buyers(house.Now.PriceById[thanks].Buyers, house.Now));
        Assert.IsType<JoinStart.Begun>(await Begin(holds));
        Assert.IsType<JoinStart.Refused>(await Begin(held));
        Assert.IsType<JoinStart.Refused>(await Begin(null));
        Assert.True((await Words(BuyersKind.FormerHolders)).Ok);
        Assert.IsType<JoinStart.Refused>(await Begin(holds));
        Assert.IsType<JoinStart.Begun>(await Begin(held));
        Assert.True((await Words(BuyersKind.Newcomers)).Ok);
        Assert.IsType<JoinStart.Refused>(await Begin(holds));
        Assert.IsType<JoinStart.Begun>(await Begin(held));
        Assert.IsType<JoinStart.Begun>(await Begin(null));
        // Whoever stands in a list of members.
        Task<Result> List(string? search, Standing? standing = null, PlanId? plan = null, string? from = null, string? to = null) =>
            house.Get<EditPrice, Result>(s => s.Words(house.Owner, thanks, new("Thanks", "Take it", Buyers: BuyersKind.Listed, BuyerSearch: search,
                BuyerStanding: standing, BuyerPlan: plan?.Value ?? 0, BuyerFrom: from, BuyerTo: to), default));
        Assert.Equal("BuyerSearch", (await List(" ")).Field);
        Assert.Equal("BuyerSearch", (await List(new string('x', 121))).Field);
        Assert.Equal("BuyerFrom", (await List("x", from: "soon")).Field);
        Assert.Equal("BuyerTo", (await List("x", to: "soon")).Field);
        Assert.Equal("BuyerTo", (await List(null, from: "2026-11-02", to: "2026-11-01")).Field);
        Assert.Equal("BuyerPlan", (await List(null, plan: new(7))).Field);
        Assert.True((await List(null, Standing.Active, house.Keeper, "2026-11-01", "2026-11-30")).Ok);
        Assert.Equal((BuyersKind.Listed, Standing.Active, "2026-11-01"), (PriceWords.Of(house.Now.PriceById[thanks]).Buyers,
            PriceWords.Of(house.Now.PriceById[thanks]).BuyerStanding, PriceWords.Of(house.Now.PriceById[thanks]).BuyerFrom));
        Assert.IsType<JoinStart.Begun>(await Begin(holds));
        Assert.IsType<JoinStart.Refused>(await Begin(held));
        Assert.IsType<JoinStart.Refused>(await Begin(null));
        Assert.True((await List(null, to: "2026-10-31")).Ok);
        Assert.IsType<JoinStart.Refused>(await Begin(holds));
    }

    // What is offered beside a price looks at all that somebody held, also at what is over.
    [Fact]
    public async Task What_is_offered_beside_may_be_for_those_who_held_something()
    {
        await using var house = await House.Open();
        var course = await Price(house, Draft(PriceKind.Once, "20"), await Plan(house, "Course", 0));
        Assert.True((await house.Get<EditPrice, Result>(s => s.Words(house.Owner, course, new("Course", "Take it", Buyers: BuyersKind.FormerHolders,
            BuyerPlans: [house.Keeper.Value]), default))).Ok);
        Assert.True((await house.Get<EditPrice, Result>(s => s.Words(house.Owner, house.Monthly, PriceWords.Of(house.Now.PriceById[house.Monthly]) with
        {
            ExtraPrice = course.Value
        }, default))).Ok);
        var back = await house.Join(house.Monthly);
        Assert.True((await house.Get<LeavePlan, Result>(s => s.Do(back, house.Holdings(back).Result[0].Id, default))).Ok);
        await house.Days(40);
        async Task<bool> Offered(MemberId? member)
        {
            var begun = Assert.IsType<JoinStart.Begun>(await house.Get<BeginJoin, JoinStart>(s =>
                s.Do(house.Now.PriceById[house.Monthly], "Mirela Duarte", House.NewAddress(), member, default)));
            return (await house.Get<ReviewJoin, JoinReview?>(s => s.Find(begun.Checkout, begun.Secret, default)))!.Extra is not null;
        }
        Assert.True(await Offered(back));
        Assert.False(await Offered(null));
    }

    [Fact]
    public async Task Another_amount_takes_the_place_of_a_price_at_its_link()
    {
        await using var house = await House.Open();
        var id = await house.Join(house.Monthly);
        var code = house.Now.PriceById[house.Monthly].Code;
        Assert.False((await house.Get<AddPrice, Result<PriceId>>(s => s.Do(house.Owner, house.Keeper,
            Draft(PriceKind.Recurring, "18") with { Replaces = house.Monthly.Value }, default))).Ok);
        var dearer = await Price(house, Draft(PriceKind.Recurring, "21") with { Replaces = house.Monthly.Value });
        Assert.Equal((code, Availability.OnOffer), (house.Now.PriceById[dearer].Code, house.Now.PriceById[dearer].Availability));
        Assert.Equal((code + "-was", Availability.Closed), (house.Now.PriceById[house.Monthly].Code, house.Now.PriceById[house.Monthly].Availability));
        await house.Days(31);
        Assert.Equal([1800, 1800], (await house.Payments(id)).Select(p => p.Amount.Minor));
    }

    [Fact]
    public async Task Those_who_have_a_price_are_moved_with_notice_from_their_first_payment_after_a_day()
    {
        await using var house = await House.Open();
        var dearer = await Price(house, Draft(PriceKind.Recurring, "21"));
        var email = House.NewAddress();
        var (stays, leaves, poor) = (await house.Join(house.Monthly, email: email), await house.Join(house.Monthly),
            await house.Join(house.Monthly, DemoTill.FailsLater));
        await house.Get<LeavePlan, Result>(s => s.Do(leaves, house.Holdings(leaves).Result[0].Id, default, "It costs too much for me"));
        var (look, _) = await house.Get<MovePrice, (PriceMoveLook?, IReadOnlyList<PriceMove>)>(s => s.Look(house.Now.PriceById[house.Monthly],
            house.Now.PriceById[dearer], default));
        Assert.Equal((3, 5400L, 6300L), (look!.People, look.Before.Minor, look.After.Minor));
        Task<Result> Move(LocalDate on) => house.Get<MovePrice, Result>(s => s.Do(house.Owner, house.Monthly, dearer, on, default));
        Assert.Equal("On", (await Move(new(2026, 11, 24))).Field);
        Assert.Equal("On", (await Move(new(2028, 11, 24))).Field);
        Assert.True((await Move(new(2027, 1, 10))).Ok);
        Assert.False((await Move(new(2027, 1, 10))).Ok);
        await house.To(house.Clock.Moment + Duration.FromMinutes(5));
        Assert.Equal(2, (await house.Ask(db => db.PriceMoves.SingleAsync())).Told);
        await house.Deliver();
        Assert.Contains(await House.Post(email), s => s.StartsWith("Keeper will cost £21.00 a month from 10 January 2027 on", StringComparison.Ordinal));
        // December still at the old price, and from the first payment after the day at the new one; nobody can take that back for themselves.
        await house.To(house.Now.Calendar.At(new(2027, 1, 11, 12, 0)));
        Assert.Equal([1800, 1800], (await house.Payments(stays)).Select(p => p.Amount.Minor));
        var planned = (await house.Holdings(stays))[^1];
        Assert.Equal((HoldingState.NotYet, new LocalDate(2027, 1, 24)), (planned.StateAt(house.Clock.Moment), Date(house, planned.StartsAt)));
        Assert.False((await house.Get<ChangePlan, Result>(s => s.TakeBack(stays, planned.Id, default))).Ok);
        await house.To(house.Now.Calendar.At(new(2027, 2, 25, 12, 0)));
        Assert.Equal([1800, 1800, 2100, 2100], (await house.Payments(stays)).Select(p => p.Amount.Minor));
        Assert.Single(await house.Holdings(leaves));
        Assert.Equal(Standing.Lapsed, (await house.Member(poor)).Standing);
        Assert.Equal(1, (await house.Ask(db => db.PriceMoves.SingleAsync())).Moved);
        await Balances(house);
    }

    [Fact]
    public async Task A_move_can_be_taken_back_before_its_day_and_waits_for_whoever_pauses()
    {
        await using var house = await House.Open();
        var dearer = await Price(house, Draft(PriceKind.Recurring, "21"));
        var id = await house.Join(house.Monthly);
        Task<Result> Move(LocalDate on) => house.Get<MovePrice, Result>(s => s.Do(house.Owner, house.Monthly, dearer, on, default));
        await Move(new(2026, 12, 1));
        var first = (await house.Ask(db => db.PriceMoves.SingleAsync())).Id;
        Assert.True((await house.Get<MovePrice, Result>(s => s.TakeBack(house.Owner, first, default))).Ok);
        Assert.False((await house.Get<MovePrice, Result>(s => s.TakeBack(house.Owner, first, default))).Ok);
        await house.Days(31);
        Assert.Equal([1800, 1800], (await house.Payments(id)).Select(p => p.Amount.Minor));
        await Move(new(2026, 12, 27));
        await house.Get<PausePlan, Result>(s => s.Do(id, house.Holdings(id).Result[0].Id, new(2027, 1, 5), house.Owner, default));
        await house.Days(3);
        Assert.Single(await house.Holdings(id));
        Assert.Null((await house.Ask(db => db.PriceMoves.OrderByDescending(m => m.Id).FirstAsync())).DoneAt);
        await house.To(house.Now.Calendar.At(new(2027, 1, 7, 12, 0)));
        Assert.Equal(2, (await house.Holdings(id)).Count);
        Assert.NotNull((await house.Ask(db => db.PriceMoves.OrderByDescending(m => m.Id).FirstAsync())).DoneAt);
        await Balances(house);
    }

    [Fact]
    public async Task What_the_books_and_the_payment_service_dont_agree_on_is_found()
    {
        await using var house = await House.Open();
        MemberId[] all = [await house.Join(house.Monthly), await house.Join(house.Monthly), await house.Join(house.Monthly), await house.Join(house.Monthly)];
        var month = new YearMonth(2026, 11);
        Task<Comparison?> Compare() => house.Get<CompareBooks, Comparison?>(s => s.Of(month, default));
        Assert.Equal((4, 7200L, 4, 7200L, 0), await Figures());
        await using (var source = NpgsqlDataSource.Create(house.Database))
        {
            async Task Sql(string text, MemberId who)
            {
                await using var command = source.CreateCommand(text);
                command.Parameters.Add(new() { Value = who.Value });
                await command.ExecuteNonQueryAsync();
            }
            // As if somebody had tampered with what is written down: another amount, a charge nobody made, one that isn't named.
            await Sql("alter table payments disable trigger user", all[0]);
            await Sql("update payments set amount_minor = 1700 where member_id = $1", all[0]);
            await Sql("update payments set charge_ref = 'charge-of-nobody' where member_id = $1", all[1]);
            await Sql("update refunds set amount_minor = 1 where payment_id in (select id from payments where member_id = $1)", all[2]);
        }
        var payment = (await house.Payments(all[3]))[0];
        await house.Services.GetRequiredService<IPaymentGateway>().Refund("by-hand", payment.ChargeRef, new(500, new("GBP")), house.Clock.Moment, default);
        var found = (await Compare())!.Differences;
        Assert.Equal([Difference.NotInBooks, Difference.NotAtService, Difference.AmountDiffers, Difference.RefundDiffers], found.Select(d => d.Kind).Order());
        Assert.Equal((1800L, 1700L), (found.Single(d => d.Kind == Difference.AmountDiffers).Service!.Value.Minor,
            found.Single(d => d.Kind == Difference.AmountDiffers).Books!.Value.Minor));
        Assert.Equal((500L, 0L), (found.Single(d => d.Kind == Difference.RefundDiffers).Service!.Value.Minor,
            found.Single(d => d.Kind == Difference.RefundDiffers).Books!.Value.Minor));
        Assert.Equal((0, 0L, 0, 0L, 0), await FiguresOf(new(2026, 10)));

        Task<(int, long, int, long, int)> Figures() => FiguresOf(month);
        async Task<(int, long, int, long, int)> FiguresOf(YearMonth of)
        {
            var c = (await house.Get<CompareBooks, Comparison?>(s => s.Of(of, default)))!;
            return (c.Charges, c.Service.Minor, c.Payments, c.Books.Minor, c.Differences.Count);
        }
    }

    [Fact]
    public async Task What_was_paid_goes_to_their_credit_instead_of_back_and_never_more_than_there_is()
    {
        await using var house = await House.Open();
        var email = House.NewAddress();
        var id = await house.Join(house.Monthly, email: email);
        var payment = (await house.Payments(id))[0];
        Task<Result> Credit(long minor) => house.Get<RefundPayment, Result>(s =>
            s.ToCredit(house.Owner, payment.Id, new(minor, new("GBP")), "A slow week", default));
        Assert.Equal("Amount", (await Credit(0)).Field);
        Assert.Equal("Amount", (await Credit(1801)).Field);
        var done = await Task.WhenAll(Credit(1000), Credit(1000));
        Assert.Equal(1, done.Count(d => d.Ok));
        Assert.False((await house.Get<RefundPayment, Result>(s => s.Do(house.Owner, payment.Id, new(801, new("GBP")), false, "", default))).Ok);
        Assert.True((await house.Get<RefundPayment, Result>(s => s.Do(house.Owner, payment.Id, new(300, new("GBP")), false, "", default))).Ok);
        Assert.Equal((1000L, 300L, 500L), ((await house.Payments(id))[0].CreditedMinor, (await house.Payments(id))[0].RefundedMinor,
            (await house.Payments(id))[0].Refundable.Minor));
        await Balances(house);
        await house.Days(31);
        var next = (await house.Payments(id))[1];
        Assert.Equal((800L, -1000L), (next.Amount.Minor, next.Lines.Single(l => l.Kind == ChargeLineKind.Credit).Amount.Minor));
        await Balances(house);
        await house.Deliver();
        Assert.Contains(await House.Post(email), s => s.Contains("£10.00", StringComparison.Ordinal) && s.Contains("credit", StringComparison.Ordinal));
        // Where nothing more is charged, credit would never be used.
        var pass = await Price(house, Draft(PriceKind.Once, "69"), await Plan(house, "Winter", 0));
        var once = await house.Join(pass);
        var bought = (await house.Payments(once))[0];
        Assert.Contains("never be used", (await house.Get<RefundPayment, Result>(s => s.ToCredit(house.Owner, bought.Id, new(100, new("GBP")), "", default)))
            .Refusal);
    }

    [Fact]
    public async Task A_price_form_says_what_is_wrong_where()
    {
        await using var house = await House.Open(empty: true);
        Result<PriceTerms> Read(PriceDraft d) => d.Read(house.Now, house.Clock.Moment);
        Assert.Equal("Times", Read(Draft(PriceKind.Instalments, "26") with { Times = 1 }).Field);
        Assert.Equal("First", Read(Draft(PriceKind.Recurring, "26") with { First = "0" }).Field);
        Assert.Equal("SaleAmount", Read(Draft(PriceKind.Once, "26") with { HasSale = true, SaleAmount = "26", SaleUntil = "2030-01-01" }).Field);
        Assert.Equal("SaleUntil", Read(Draft(PriceKind.Once, "26") with { HasSale = true, SaleAmount = "20" }).Field);
        Assert.Equal("SaleUntil", Read(Draft(PriceKind.Once, "26") with { HasSale = true, SaleAmount = "20", SaleUntil = "2026-10-19" }).Field);
        Assert.Equal("AccessUntil", Read(Draft(PriceKind.Once, "26") with { Access = AccessKind.UntilDay, AccessUntil = "2026-10-20" }).Field);
        Assert.Equal("AccessCount", Read(Draft(PriceKind.Instalments, "26") with
        {
            Times = 3,
            Access = AccessKind.For,
            AccessCount = 2,
            AccessUnit = PeriodUnit.Months
        }).Field);
        Assert.True(Read(Draft(PriceKind.Instalments, "26") with { Times = 3, Access = AccessKind.For, AccessCount = 3, AccessUnit = PeriodUnit.Months }).Ok);
        Assert.Equal("Seats", Read(Draft(PriceKind.Once, "26") with { Seats = -1 }).Field);
        Assert.Equal("JoiningFee", Read(Draft(PriceKind.Once, "26") with { JoiningFee = "ten" }).Field);
    }
}
