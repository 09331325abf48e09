using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>A payment and what goes back of it; the rule after a failure; what stands on receipts.</summary>
public class PaymentTests
{
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static readonly Instant At = London.At(new(2026, 11, 24, 9, 0));

    static Payment Paid(decimal amount = 18, ChargeOutcome outcome = ChargeOutcome.Approved) => new() { Amount = Make.Pounds(amount), Outcome = outcome };

    [Fact]
    public void What_went_back_makes_the_state()
    {
        var p = Paid();
        Assert.Equal((PaymentState.Paid, true, Make.Pounds(18)), (p.State, p.IsPaid, p.Refundable));
        p.GiveBack(Make.Pounds(5), chargeback: false);
        Assert.Equal((PaymentState.PartlyRefunded, Make.Pounds(5), Make.Pounds(13)), (p.State, p.Refunded, p.Refundable));
        p.GiveBack(Make.Pounds(13), chargeback: false);
        Assert.Equal((PaymentState.Refunded, Make.Pounds(0)), (p.State, p.Refundable));
        Assert.False(p.ChargedBack);
    }

    [Theory]
    [InlineData(0, false)]
    [InlineData(-1, false)]
    [InlineData(0.01, true)]
    [InlineData(18, true)]
    [InlineData(18.01, false)]
    public void No_more_goes_back_than_came_and_something_does(decimal amount, bool goes)
    {
        var p = Paid();
        if (goes) p.GiveBack(Make.Pounds(amount), chargeback: false);
        else Assert.Throws<InvalidOperationException>(() => p.GiveBack(Make.Pounds(amount), chargeback: false));
        Assert.Equal(goes ? Make.Pounds(amount) : Make.Pounds(0), p.Refunded);
    }

    [Fact]
    public void A_chargeback_stays_one_whatever_goes_back_later()
    {
        var p = Paid();
        p.GiveBack(Make.Pounds(10), chargeback: true);
        Assert.Equal(PaymentState.ChargedBack, p.State);
        p.GiveBack(Make.Pounds(4), chargeback: false);
        Assert.True(p.ChargedBack);
        p.GiveBack(Make.Pounds(4), chargeback: true);
        Assert.Equal((PaymentState.ChargedBack, true), (p.State, p.ChargedBack));
    }

    [Fact]
    public void Of_what_failed_nothing_goes_back()
    {
        var p = Paid(outcome: ChargeOutcome.DeclinedSoft);
        Assert.Equal((PaymentState.Failed, false, Make.Pounds(0)), (p.State, p.IsPaid, p.Refundable));
        Assert.Throws<InvalidOperationException>(() => p.GiveBack(Make.Pounds(1), chargeback: false));
    }

    [Theory]
    [InlineData(null, null, false)]
    [InlineData(1800L, "GBP", false)]
    [InlineData(1799L, "GBP", true)]
    [InlineData(1801L, "GBP", true)]
    [InlineData(1800L, "EUR", true)]
    public void What_was_taken_is_compared_with_what_was_asked(long? taken, string? currency, bool differs) =>
        Assert.Equal(differs, new Payment { Amount = Make.Pounds(18), TakenMinor = taken, TakenCurrency = currency }.TakenDiffers);

    [Fact]
    public void Receipts_carry_the_year_and_a_number_of_five_digits()
    {
        Assert.Equal("2026-00042", new Payment { Amount = Make.Pounds(18), ReceiptYear = 2026, ReceiptNumber = 42 }.Receipt);
        Assert.Equal("2026-123456", new Payment { Amount = Make.Pounds(18), ReceiptYear = 2026, ReceiptNumber = 123456 }.Receipt);
        Assert.Equal("", Paid().Receipt);
    }

    public static TheoryData<int[], bool> RetryDays =>
        new() { { [], false }, { [0], false }, { [1], true }, { [60], true }, { [61], false }, { [1, 1], false }, { [2, 1], false }, { [1, 2], true },
        { [5, 60], true }, { [1, 61], false }, { [3, 5, 4], false }, { [1, 3, 3], false }, { [0, 3], false } };

    [Theory]
    [MemberData(nameof(RetryDays))]
    public void Retry_days_rise_from_1_to_60(int[] days, bool fits)
    {
        if (fits) Assert.Equal(days, new FailedPaymentRule(days).RetryDays);
        else Assert.Throws<ArgumentException>(() => new FailedPaymentRule(days));
    }

    [Fact]
    public void At_the_last_moment_of_grace_it_lapses_and_before_it_does_not()
    {
        var (rule, until) = (FailedPaymentRule.Default, FailedPaymentRule.Default.GraceUntil(At, London));
        foreach (var outcome in new[] { ChargeOutcome.DeclinedSoft, ChargeOutcome.DeclinedHard, ChargeOutcome.NeedsCardholder })
        {
            Assert.IsType<FailureStep.Lapse>(rule.Next(outcome, At, until, London));
            Assert.IsNotType<FailureStep.Lapse>(rule.Next(outcome, At, until - Duration.Epsilon, London));
        }
        Assert.Throws<ArgumentOutOfRangeException>(() => rule.Next(ChargeOutcome.Approved, At, At, London));
    }

    [Fact]
    public void Before_it_begins_the_first_charge_is_what_comes()
    {
        var bought = Make.Holding(1, At, Make.Monthly());
        Assert.Equal((HoldingState.NotYet, At), (Obligations.Of(bought, At - Duration.FromDays(1)).State,
            Obligations.Of(bought, At - Duration.FromDays(1)).Next!.DueAt));
        Assert.Null(Obligations.Of(Make.Holding(1, At, Make.Free), At - Duration.FromDays(1)).Next);
        Assert.Null(Obligations.Of(Make.Holding(1, At, source: HoldingSource.Gift), At - Duration.FromDays(1)).Next);
        // Paid for ever, then given more: nothing is asked.
        Assert.Null(Obligations.Of(Make.Holding(1, At, Make.Monthly(), facts: Make.Paid(At, null)), At + Duration.FromDays(40)).Next);
    }

    [Fact]
    public void A_tier_that_is_just_due_ends_at_once_when_another_is_joined()
    {
        var until = At + Duration.FromDays(30);
        var other = Make.Holding(1, At, Make.Monthly(), facts: Make.Paid(At, until));
        Assert.IsType<GivesWay.EndsNow>(GivesWay.Of(other, Make.Tier(1, 1), Make.Tier(2, 2), Make.Monthly(), until));
        Assert.IsType<GivesWay.RunsOut>(GivesWay.Of(other, Make.Tier(1, 1), Make.Tier(2, 2), Make.Monthly(), until - Duration.Epsilon));
        Assert.Null(Leaving.OpenUntil(other, until));
        Assert.Equal(until, Leaving.OpenUntil(other, until - Duration.Epsilon));
    }

    // What was paid a second time for a voucher's order isn't what the voucher stands on.
    [Theory]
    [InlineData(7L, "voucher-7", true)]
    [InlineData(7L, "voucher-8", false)]
    [InlineData(7L, "again-7-1", false)]
    [InlineData(null, "voucher-7", false)]
    public void Only_the_payment_for_a_voucher_is_of_it(long? order, string key, bool isOf) =>
        Assert.Equal(isOf, new Payment { OrderId = order, Key = key }.IsOfVoucher);
}
