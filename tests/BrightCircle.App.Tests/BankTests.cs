using BrightCircle.App.Billing;
using BrightCircle.App.Demo;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>What banks and the payment service do by themselves: they take money back and decide, cards run out, payouts come with fees, answers
/// don't.</summary>
public class BankTests
{
    static async Task<(MemberId Member, Payment Payment)> Disputed(House house, string dispute, Money? amount = null)
    {
        var id = await house.Join(house.Monthly);
        var payment = (await house.Payments(id))[0];
        await house.Do<NoteChargeback>(s => s.Do(payment.ChargeRef, amount ?? payment.Amount, default, new(dispute, "unknown to the cardholder", 10)));
        await Run(house);
        return (id, (await house.Payments(id))[0]);
    }

    static async Task Run(House house)
    {
        await house.Services.GetRequiredService<RunDue>().Run();
        Assert.Equal("", await house.Ask(async db => string.Join("; ", await db.DueWork.Where(d => d.Tries > 0 && d.LastError != null
            && !d.LastError.EndsWith(" yet.")).Select(d => d.LastError!).ToListAsync())));
    }
    static Task Decide(House house, string dispute, bool won) => house.Do<NoteChargeback>(s => s.Decided(dispute, won, default));
    static Task<Dispute> Of(House house, string dispute) => house.Ask(db => db.Disputes.AsNoTracking().SingleAsync(d => d.Ref == dispute));
    static Task<Result> Answer(House house, long id, string? text) => house.Get<Disputes, Result>(s => s.Answer(house.Owner, id, text, default));

    /// <summary>A dispute at the Till itself, so that it can be answered there.</summary>
    static async Task<Dispute> AtTheTill(House house)
    {
        var id = await house.Join(house.Monthly);
        var charge = (await house.Payments(id))[0].ChargeRef;
        var found = await house.Till.TakeBack(charge);
        await house.Do<NoteChargeback>(s => s.Do(charge, new(1800, new("GBP")), default, new(found, "unknown to the cardholder", 10)));
        await Run(house);
        return await Of(house, found);
    }

    [Fact]
    public async Task A_dispute_is_answered_once_and_in_time()
    {
        await using var house = await House.Open();
        var dispute = await AtTheTill(house);
        Assert.Equal(new LocalDate(2026, 12, 4), house.Now.Calendar.Date(dispute.AnswerBy));
        Assert.False((await Answer(house, dispute.Id, " ")).Ok);
        Assert.False((await Answer(house, dispute.Id, new string('x', Disputes.LongestAnswer + 1))).Ok);
        Assert.False((await Answer(house, 7, "They used it.")).Ok);
        Assert.True((await Answer(house, dispute.Id, "They used it every day.")).Ok);
        Assert.False((await Answer(house, dispute.Id, "And more.")).Ok);
        var answered = await Of(house, dispute.Ref);
        Assert.Equal((DisputeState.Answered, "They used it every day.", "Ines Maren"), (answered.State, answered.Answer, answered.AnsweredBy));
        // Another can't be answered any more when its day is over: not at that moment, and still just before.
        var late = await AtTheTill(house);
        Assert.True(late.CanBeAnswered(late.AnswerBy - Duration.FromSeconds(1)));
        await house.To(late.AnswerBy);
        Assert.False((await Answer(house, late.Id, "They used it.")).Ok);
        Assert.Equal(DisputeState.Open, (await Of(house, late.Ref)).State);
    }

    [Fact]
    public async Task Of_twenty_who_answer_at_once_one_has_answered()
    {
        await using var house = await House.Open();
        var dispute = await AtTheTill(house);
        var done = await Task.WhenAll(Enumerable.Range(0, 20).Select(_ => Answer(house, dispute.Id, "They used it every day.")));
        Assert.Equal(1, done.Count(d => d.Ok));
        Assert.Equal(1, await house.Ask(db => db.Journal.CountAsync(j => j.Kind == "dispute-answered")));
    }

    // What nobody knows yet waits two hours; what is known needn't wait for it.
    [Fact]
    public async Task A_charge_that_nobody_knows_holds_up_no_other()
    {
        await using var house = await House.Open();
        await house.Do<NoteChargeback>(s => s.Do("nobody-knows", new(1800, new("GBP")), default));
        await Decide(house, "d-nobody", true);
        var (_, payment) = await Disputed(house, "d-known");
        Assert.True(payment.ChargedBack);
        await Decide(house, "d-known", true);
        await Run(house);
        Assert.Equal(DisputeState.Won, (await Of(house, "d-known")).State);
        Assert.Equal(2, await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.Chargeback || d.Kind == DueKind.DisputeDecided)));
    }

    [Theory]
    [InlineData(69, false)]
    [InlineData(70, true)]
    public void The_key_of_a_long_reference_is_short_and_its_own(int length, bool hashed)
    {
        var keys = new[] { 'a', 'b' }.Select(last => DueRows.KeyOf("chargeback", new string('x', length - 1) + last)).ToArray();
        Assert.All(keys, k => Assert.InRange(k.Length, 12, 80));
        Assert.NotEqual(keys[0], keys[1]);
        Assert.Equal(hashed, !keys[0].Contains("xxx", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_dispute_that_is_won_brings_the_money_back_once()
    {
        await using var house = await House.Open();
        var (id, payment) = await Disputed(house, "d-won");
        Assert.True(payment.ChargedBack);
        async Task<long> Cash() => await house.Ask(db => db.Ledger.Where(l => l.Account == LedgerAccount.Cash).SumAsync(l => l.Amount.Minor));
        Assert.Equal(0, await Cash());
        for (var i = 0; i < 3; i++) await Decide(house, "d-won", true);
        await Run(house);
        await Decide(house, "d-won", false);
        await Run(house);
        Assert.Equal(1800, await Cash());
        Assert.Equal(0, await house.LedgerSum());
        Assert.Equal(DisputeState.Won, (await Of(house, "d-won")).State);
        // What it paid for stays over: whether it is given again is the team's to say.
        Assert.Equal(HoldingState.Over, (await house.Holdings(id))[0].StateAt(house.Clock.Moment));
        Assert.Equal(1, await house.Ask(db => db.PaymentsToLookAt.CountAsync(p => p.Concern == PaymentConcern.DisputeWon)));
        Assert.NotNull((await house.Get<PaymentList, PaymentFile?>(s => s.Load(payment.Id, default)))!.Dispute);
    }

    [Fact]
    public async Task A_dispute_that_is_lost_changes_nothing_more_and_a_decision_can_come_first()
    {
        await using var house = await House.Open();
        await Disputed(house, "d-lost");
        await Decide(house, "d-lost", false);
        await Run(house);
        Assert.Equal(DisputeState.Lost, (await Of(house, "d-lost")).State);
        Assert.False((await Answer(house, (await Of(house, "d-lost")).Id, "Too late.")).Ok);
        // The decision overtakes the charge that was taken back: it waits for it.
        await Decide(house, "d-early", true);
        await Run(house);
        await Disputed(house, "d-early");
        await house.To(house.Clock.Moment + Duration.FromMinutes(20));
        Assert.Equal(DisputeState.Won, (await Of(house, "d-early")).State);
        // Of what nobody knows it is given up some time.
        await Decide(house, "d-nobody", true);
        await house.To(house.Clock.Moment + Duration.FromHours(3));
        Assert.False(await house.Ask(db => db.DueWork.AnyAsync(d => d.Kind == DueKind.DisputeDecided)));
        Assert.Equal(0, await house.LedgerSum());
    }

    // A card good until the end of January 2027, joined on 24 November: on 10 January, 21 days before its last day, the member is told of the 24th of February.
    [Fact]
    public async Task Whose_card_runs_out_is_told_before_and_nobody_else()
    {
        await using var house = await House.Open();
        async Task<(MemberId, string)> With(string? expires)
        {
            var (checkout, page, email) = await house.Begin(house.Monthly);
            await house.Till.Pay(page!, DemoTill.Approves, expires);
            return ((await house.Return(checkout))!.MemberId!.Value, email);
        }
        var (running, runningPost) = await With("2027-01");
        var (_, fine) = await With("2031-01");
        var (_, unknown) = await With(null);
        var (changed, changedPost) = await With("2027-01");
        var (left, leftPost) = await With("2027-01");
        Assert.True((await house.Get<LeavePlan, Result>(s => s.Do(left, house.Holdings(left).GetAwaiter().GetResult()[0].Id, default))).Ok);
        long again = 0;
        var card = await house.Get<GoToTill, Result<string>>(s => s.Card(changed, c => "http://site.example/back/" + (again = c), default));
        await house.Till.Pay(card.Value!, DemoTill.Approves, "2030-05");
        await house.Return(again);
        await house.To(house.Now.Calendar.At(new(2027, 1, 10, 8, 59)));
        await house.Deliver();
        Assert.DoesNotContain(await House.Post(runningPost), s => s.Contains("runs out", StringComparison.Ordinal));
        await house.To(house.Now.Calendar.At(new(2027, 1, 10, 9, 1)));
        await house.Deliver();
        Assert.Single(await House.Post(runningPost), s => s.Contains("runs out", StringComparison.Ordinal));
        Assert.Contains("24 February 2027", (await House.Letter(runningPost, "runs out")).GetProperty("text").GetString(), StringComparison.Ordinal);
        foreach (var other in new[] { fine, unknown, changedPost, leftPost })
            Assert.DoesNotContain(await House.Post(other), s => s.Contains("runs out", StringComparison.Ordinal));
        // In January it still pays; in February it is refused for good.
        await house.To(house.Now.Calendar.At(new(2027, 1, 25, 12, 0)));
        Assert.Equal(3, (await house.Payments(running)).Count(p => p.IsPaid));
        await house.To(house.Now.Calendar.At(new(2027, 2, 24, 12, 0)));
        Assert.Equal(ChargeOutcome.DeclinedHard, (await house.Payments(running))[^1].Outcome);
    }

    // Two of 18.00 in the week of 23 November: fees of 1.5 % and 20 p each, 47 p; 36.00 − 0.94 = 35.06. One goes back whole in the next week.
    [Fact]
    public async Task Payouts_come_with_their_fees_and_agree_with_the_books()
    {
        await using var house = await House.Open();
        var first = await house.Join(house.Monthly);
        await house.Join(house.Monthly);
        await house.To(house.Now.Calendar.At(new(2026, 12, 1, 12, 0)));
        var payment = (await house.Payments(first))[0];
        Assert.True((await house.Get<RefundPayment, Result>(s => s.Do(house.Owner, payment.Id, payment.Amount, true, "", default))).Ok);
        await house.To(house.Now.Calendar.At(new(2026, 12, 12, 12, 0)));
        Task<IReadOnlyList<PayoutRow>?> Month(int m) => house.Get<Payouts, IReadOnlyList<PayoutRow>?>(s => s.Of(new(2026, m), default));
        Assert.Equal([(3600L, 0L, 94L, 3506L)], (await Month(11))!.Select(r =>
            (r.Payout.Gross.Minor, r.Payout.GivenBack.Minor, r.Payout.Fees.Minor, r.Payout.Net.Minor)));
        Assert.True((await Month(11))![0].Agrees);
        Assert.Equal([(0L, 1800L, 0L, -1800L)], (await Month(12))!.Where(r => r.Payout.To <= new LocalDate(2026, 12, 7))
            .Select(r => (r.Payout.Gross.Minor, r.Payout.GivenBack.Minor, r.Payout.Fees.Minor, r.Payout.Net.Minor)));
        // A charge that isn't in the books is said.
        await house.Get<IPaymentGateway, ChargeResult>(s => s.Charge(new($"stray-{Guid.NewGuid():N}", new(500, new("GBP")), CardOf(house, first), "",
            payment.At), default));
        var row = (await Month(11))![0];
        Assert.False(row.Agrees);
        Assert.Single(row.Unknown);
    }

    static string CardOf(House house, MemberId member) => house.Ask(db => db.Cards.Where(c => c.MemberId == member).Select(c => c.Token).FirstAsync())
        .GetAwaiter().GetResult();

    [Fact]
    public async Task A_payment_service_that_is_away_or_slow_loses_nothing()
    {
        await using var house = await House.Open();
        var shop = house.Services.GetRequiredService<TillSettings>().Shop;
        Assert.NotEmpty(shop);
        var id = await house.Join(house.Monthly);
        foreach (var mode in new[] { "away", "slow" })
        {
            await house.Till.Reach(shop, mode, 9);
            // Nobody can begin to pay, and is told so; what falls due waits.
            var (_, page, _) = await house.Begin(house.Monthly);
            Assert.Null(page);
            Assert.Null(await house.Get<Payouts, IReadOnlyList<PayoutRow>?>(s => s.Of(new(2026, 11), default)));
            var before = (await house.Payments(id)).Count;
            await house.To((await house.Holdings(id))[0].PaidThrough(house.Clock.Moment)!.Value + Duration.FromMinutes(1));
            Assert.Equal(before, (await house.Payments(id)).Count);
            Assert.Equal(HoldingState.Active, (await house.Holdings(id))[0].StateAt(house.Clock.Moment));
            await house.Till.Reach(shop, "");
            await house.To(house.Clock.Moment + Duration.FromMinutes(30));
            Assert.Equal(before + 1, (await house.Payments(id)).Count(p => p.IsPaid));
        }
    }
}
