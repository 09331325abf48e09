using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

public class ScheduleTests
{
    static readonly Currency Gbp = new("GBP");
    static readonly SiteCalendar London = SiteCalendar.For("Europe/London");
    static readonly Instant Start = London.At(new(2026, 11, 24, 10, 42));
    static Money Pounds(decimal major) => new((long)(major * 100), Gbp);

    [Fact]
    public void Free_asks_for_nothing() => Assert.Empty(PaymentSchedule.For(new PriceTerms.Free(), Start, London).Payments);

    [Fact]
    public void One_payment_is_all_there_is()
    {
        var s = PaymentSchedule.For(new PriceTerms.OnePayment(Pounds(69)), Start, London);
        var only = Assert.Single(s.Payments);
        Assert.Equal((Start, null, Pounds(69)), (only.DueAt, only.PaidThrough, only.Amount));
        Assert.Equal(Pounds(69), s.Total);
        Assert.Null(s.EffectiveMonthly);
    }

    // Common practice: 35 a month against 350 a year is ten months paid; a year saves 70, which is 16.7 %.
    [Fact]
    public void A_year_for_ten_months()
    {
        var month = PaymentSchedule.For(new PriceTerms.Recurring(Pounds(35), Period.Months(1)), Start, London);
        var year = PaymentSchedule.For(new PriceTerms.Recurring(Pounds(350), Period.Years(1)), Start, London);
        Assert.Equal(Pounds(420), month.EffectiveYearly);
        Assert.Equal(Pounds(70), month.EffectiveYearly!.Value - year.EffectiveYearly!.Value);
        Assert.Equal(16.7, Math.Round(70.0 / 420 * 100, 1));
        Assert.Equal(Pounds(29.17m), year.EffectiveMonthly);
    }

    // Common practice: 1.00 for a seven-day trial, then the normal price.
    [Fact]
    public void A_trial_comes_first_and_moves_the_anchor()
    {
        var s = PaymentSchedule.For(new PriceTerms.Recurring(Pounds(39), Period.Months(1), new(Period.Days(7), Pounds(1))), Start, London, 4);
        Assert.Equal([PaymentPurpose.Trial, PaymentPurpose.Recurring, PaymentPurpose.Recurring, PaymentPurpose.Recurring], s.Payments.Select(p => p.Purpose));
        Assert.Equal([new(2026, 11, 24), new(2026, 12, 1), new(2027, 1, 1), new LocalDate(2027, 2, 1)], s.Payments.Select(p => London.Date(p.DueAt)));
        Assert.Equal([Pounds(1), Pounds(39), Pounds(39), Pounds(39)], s.Payments.Select(p => p.Amount));
    }

    [Theory]
    [InlineData(PeriodUnit.Weeks, 1, 10.00, 43.33, 520.00)]
    [InlineData(PeriodUnit.Weeks, 2, 10.00, 21.67, 260.00)]
    [InlineData(PeriodUnit.Months, 3, 50.00, 16.67, 200.00)]
    [InlineData(PeriodUnit.Days, 30, 18.00, 18.25, 219.00)]
    [InlineData(PeriodUnit.Years, 2, 300.00, 12.50, 150.00)]
    public void Effective_amounts_are_normalised(PeriodUnit unit, int count, decimal amount, decimal monthly, decimal yearly)
    {
        var s = PaymentSchedule.For(new PriceTerms.Recurring(Pounds(amount), new(count, unit)), Start, London);
        Assert.Equal((Pounds(monthly), Pounds(yearly)), (s.EffectiveMonthly!.Value, s.EffectiveYearly!.Value));
    }

    [Fact]
    public void Each_payment_begins_where_the_one_before_ends() =>
        Gen.Select(Gen.Int[1, 40], Gen.Int[0, 3], Gen.Int[0, 4000], Gen.Bool).Sample((count, unit, hours, trial) =>
        {
            var terms = new PriceTerms.Recurring(Pounds(18), new(count, (PeriodUnit)unit), trial ? new(Period.Days(14), Pounds(0)) : null);
            var s = PaymentSchedule.For(terms, Start + Duration.FromHours(hours), London, 8);
            return s.Payments.Zip(s.Payments.Skip(1)).All(p => p.First.PaidThrough == p.Second.DueAt && p.First.DueAt < p.Second.DueAt);
        });

    [Fact]
    public void Retries_come_on_days_1_3_5_and_7_and_then_it_lapses()
    {
        var rule = FailedPaymentRule.Default;
        var failed = London.At(new(2026, 10, 22, 8, 0));
        var at = failed;
        var days = new List<int>();
        while (rule.Next(ChargeOutcome.DeclinedSoft, failed, at, London) is FailureStep.RetryAt retry)
        {
            at = retry.Moment;
            days.Add(NodaTime.Period.DaysBetween(London.Date(failed), London.Date(at)));
        }
        Assert.Equal([1, 3, 5, 7], days);
        Assert.Equal(rule.GraceUntil(failed, London), at);
        Assert.IsType<FailureStep.Lapse>(rule.Next(ChargeOutcome.DeclinedSoft, failed, at, London));
        // The clocks go back on 25 October: seven calendar days, 169 hours.
        Assert.Equal(Duration.FromHours(169), at - failed);
    }

    [Theory]
    [InlineData(ChargeOutcome.DeclinedHard)]
    [InlineData(ChargeOutcome.NeedsCardholder)]
    public void What_only_the_member_can_mend_is_not_retried(ChargeOutcome outcome)
    {
        var step = FailedPaymentRule.Default.Next(outcome, Start, Start, London);
        Assert.Equal(FailedPaymentRule.Default.GraceUntil(Start, London), Assert.IsType<FailureStep.AwaitCard>(step).Until);
    }

    [Fact]
    public void Terms_survive_being_stored()
    {
        PriceTerms[] all = [new PriceTerms.Free(), new PriceTerms.OnePayment(Pounds(69)),
            new PriceTerms.Recurring(Pounds(18), Period.Months(1), new(Period.Days(7), Pounds(1)))];
        Assert.All(
            all, t =>
            Assert.Equal(t, System.Text.Json.JsonSerializer.Deserialize<PriceTerms>(
            System.Text.Json.JsonSerializer.Serialize(t, CoreJson.Options), CoreJson.Options)));
    }
}
