using System.Text.Json;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using Xunit;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Tests;

/// <summary>Every way to offer: instalments, fees, first payments, sales, lengths of access, coupons, and what they come to.</summary>
public class TermsTests
{
    static readonly SiteCalendar London = SiteCalendar.For(Make.London);
    static Instant Day(int year, int month, int day, int hour = 9) => London.At(new(year, month, day, hour, 0));
    static readonly Instant Start = Day(2026, 10, 31);

    static Agreement Agreed(PriceTerms terms, AppliedCoupon? coupon = null, Instant? start = null) => new(terms, true, start ?? Start, Make.London, coupon);
    static PriceTerms.Instalments Parts(int count, decimal each, decimal? first = null) =>
        new(Make.Pounds(each), count, Period.Months(1), First: first is { } f ? Make.Pounds(f) : null);
    static AppliedCoupon Percent(int of100, int? payments) => new(1, "TEST", new CouponOff.Percent(of100), payments);
    static AppliedCoupon Off(decimal pounds, int? payments) => new(1, "TEST", new CouponOff.Amount(Make.Pounds(pounds)), payments);
    static long[] Amounts(Agreement a, int count) => [.. a.Charges().Take(count).Select(c => c.Amount.Minor)];

    // The rules' check values (section 3; common practice).
    [Theory]
    [InlineData(99, 3, 39, null, 117, 182)]
    [InlineData(997, 6, 197, null, 1182, 186)]
    [InlineData(69, 3, 26, null, 78, 130)]
    public void Instalments_beside_one_payment(int once, int count, int each, int? first, int total, int perMille)
    {
        var s = PaymentSchedule.For(Agreed(Parts(count, each, first)));
        Assert.Equal((count, Make.Pounds(total)), (s.Payments.Count, s.Total!.Value));
        var beside = s.Beside(PaymentSchedule.For(Agreed(Make.Once(once))))!.Value;
        Assert.Equal((Make.Pounds(total - once), (long)perMille, false), (beside.Difference, beside.PerMille, beside.OverAYear));
    }

    [Fact]
    public void First_1000_then_10_times_100_is_2000_in_eleven_payments()
    {
        var s = PaymentSchedule.For(Agreed(Parts(11, 100, first: 1000)));
        Assert.Equal((11, Make.Pounds(2000), false), (s.Payments.Count, s.Total!.Value, s.GoesOn));
        Assert.Equal([1000_00, .. Enumerable.Repeat(100_00L, 10)], s.Payments.Select(p => p.Amount.Minor));
        Assert.Equal(Enumerable.Range(0, 11).Select(n => (PaymentPurpose.Instalment, n)), s.Payments.Select(p => (p.Purpose, p.Turn)));
    }

    // 12 × 35 = 420 beside 350: 70 less, 16.7 % (rules, section 3).
    [Fact]
    public void A_year_beside_twelve_months()
    {
        var year = PaymentSchedule.For(Agreed(new PriceTerms.Recurring(Make.Pounds(350), Period.Years(1))));
        var month = PaymentSchedule.For(Agreed(Make.Monthly(35)));
        var beside = year.Beside(month)!.Value;
        Assert.Equal((Make.Pounds(-70), -167L, true), (beside.Difference, beside.PerMille, beside.OverAYear));
        Assert.Equal(Make.Pounds(350), Make.Pounds(35) * 10);
        Assert.Null(year.Beside(PaymentSchedule.For(Agreed(Make.Once(350)))));
        Assert.Null(PaymentSchedule.For(Agreed(Make.Once())).Beside(PaymentSchedule.For(Agreed(Make.Free))));
        Assert.Null(PaymentSchedule.For(Agreed(Make.Once())).Beside(PaymentSchedule.For(Agreed(new PriceTerms.OnePayment(new(900, new("EUR")))))));
    }

    // The worked cases: 3 × 26.00 monthly with a year's access from 31 October 2026.
    [Fact]
    public void Paying_and_access_have_lengths_of_their_own()
    {
        var a = Agreed(Parts(3, 26) with { Access = new AccessLength.For(Period.Years(1)) });
        Assert.Equal([new(2026, 10, 31), new(2026, 11, 30), new LocalDate(2026, 12, 31)], a.Charges().Select(c => London.Date(c.DueAt)));
        Assert.Equal([Day(2026, 11, 30), Day(2026, 12, 31), Day(2027, 10, 31)], a.Charges().Select(c => c.PaidThrough!.Value));
        Assert.Equal(Day(2027, 10, 31), PaymentSchedule.For(a).AccessEnds);
        Assert.Null(a.From(Day(2027, 1, 1)));
        Assert.Equal(2, a.From(Day(2026, 12, 31))!.Turn);
        Assert.Equal(1, a.From(Day(2026, 11, 30))!.Turn);
        Assert.Equal(2, a.From(Day(2026, 11, 30) + Duration.Epsilon)!.Turn);
        Assert.Equal(2, a.At(Day(2027, 6, 1))!.Turn);
        Assert.Null(a.At(Day(2027, 10, 31)));
        Assert.Null(Agreed(Parts(3, 26)).Charges().Last().PaidThrough);
    }

    [Fact]
    public void Until_a_day_is_to_its_end_in_the_sites_zone()
    {
        var a = Agreed(Make.Once() with { Access = new AccessLength.UntilDay(new(2027, 6, 30)) });
        Assert.Equal(London.At(new(2027, 7, 1, 0, 0)), a.AccessEnds);
        Assert.Equal(a.AccessEnds, a.First!.PaidThrough);
        // What recurs is open as long as it is paid.
        Assert.Null(Agreed(Make.Monthly() with { Access = new AccessLength.UntilDay(new(2027, 6, 30)) }).AccessEnds);
    }

    [Fact]
    public void A_trial_stands_before_instalments_too()
    {
        // The drawn screen: £1 for a week, then 3 × £26: £79 together.
        var a = Agreed(Parts(3, 26) with { Trial = new(Period.Days(7), Make.Pounds(1)) }, start: Day(2026, 11, 24, 10));
        var s = PaymentSchedule.For(a);
        Assert.Equal(Make.Pounds(79), s.Total);
        Assert.Equal([new(2026, 11, 24), new(2026, 12, 1), new(2027, 1, 1), new LocalDate(2027, 2, 1)], s.Payments.Select(p => London.Date(p.DueAt)));
        Assert.Equal(4, a.Charges().Count());
        Assert.Equal(3, new Agreement(a.Terms, false, a.Start, Make.London).Charges().Count());
    }

    [Fact]
    public void A_joining_fee_stands_with_the_first_charge_and_nowhere_else()
    {
        var fee = Make.Monthly() with { JoiningFee = Make.Pounds(25) };
        Assert.Equal([4300, 1800, 1800], Amounts(Agreed(fee), 3));
        Assert.Equal([ChargeLineKind.Plan, ChargeLineKind.JoiningFee], Agreed(fee).First!.Lines.Select(l => l.Kind));
        Assert.Equal(Make.Pounds(18), Agreed(fee).First!.Worth);
        var withTrial = Make.Monthly(18, new Trial(Period.Days(7), Make.Pounds(0))) with { JoiningFee = Make.Pounds(25) };
        Assert.Equal([2500, 1800], Amounts(Agreed(withTrial), 2));
        Assert.Equal([4300], Amounts(Agreed((Make.Once(18) with { JoiningFee = Make.Pounds(25) })), 1));
    }

    [Theory]
    [InlineData(false, new long[] { 1000, 1800, 1800 })]
    [InlineData(true, new long[] { 1000, 1000, 1000 })]
    public void A_sale_counts_for_the_first_payment_or_for_all(bool all, long[] amounts)
    {
        var terms = Make.Monthly() with { Sale = new(Make.Pounds(10), Day(2026, 11, 20), Day(2026, 12, 1), all) };
        Assert.Equal(amounts, Amounts(Agreed(terms, start: Day(2026, 11, 20)), 3));
        Assert.Equal(amounts, Amounts(Agreed(terms, start: Day(2026, 12, 1) - Duration.Epsilon), 3));
        foreach (var outside in new[] { Day(2026, 11, 20) - Duration.Epsilon, Day(2026, 12, 1) })
        {
            Assert.Equal([1800, 1800, 1800], Amounts(Agreed(terms, start: outside), 3));
            Assert.Equal((null, Make.Pounds(18)), (terms.SaleAt(outside), terms.HeadlineAt(outside)!.Value));
        }
        Assert.Equal(Make.Pounds(10), terms.HeadlineAt(Day(2026, 11, 20)));
        // Whoever agreed while it ran keeps it: the moment of agreeing decides, not that of paying.
        Assert.Equal(all ? 1000 : 1800, Agreed(terms, start: Day(2026, 11, 25)).From(Day(2027, 3, 1))!.Amount.Minor);
        Assert.Equal(all ? Make.Pounds(120) : Make.Pounds(216), PaymentSchedule.For(Agreed(terms, start: Day(2026, 11, 25))).EffectiveYearly);
    }

    [Fact]
    public void A_sale_and_a_first_payment()
    {
        PriceTerms terms = new PriceTerms.Recurring(Make.Pounds(30), Period.Months(1), First: Make.Pounds(5));
        var window = (From: Start, Until: Start + Duration.FromDays(1));
        Assert.Equal([500, 3000, 3000], Amounts(Agreed(terms), 3));
        Assert.Equal([500, 2000, 2000], Amounts(Agreed(terms with { Sale = new(Make.Pounds(20), window.From, window.Until, true) }), 3));
        Assert.Equal([400, 3000, 3000], Amounts(Agreed(terms with { Sale = new(Make.Pounds(4), window.From, window.Until, false) }), 3));
    }

    // The worked cases: 10 % for three payments on 18.00; 20.00 once on 18.00.
    [Fact]
    public void Coupons()
    {
        Assert.Equal([1620, 1620, 1620, 1800], Amounts(Agreed(Make.Monthly(), Percent(10, 3)), 4));
        Assert.Equal([0, 1800], Amounts(Agreed(Make.Monthly(), Off(20, 1)), 2));
        Assert.Equal([0, 0, 0], Amounts(Agreed(Make.Monthly(), Percent(100, null)), 3));
        Assert.Equal([ChargeLineKind.Plan, ChargeLineKind.Coupon], Agreed(Make.Monthly(), Percent(10, 3)).First!.Lines.Select(l => l.Kind));
        Assert.Single(Agreed(Make.Monthly(), Percent(10, 3)).From(Day(2027, 2, 1))!.Lines);
        // Half away from zero, once: 10 % of 18.05 is 1.805, so 1.81 goes off.
        Assert.Equal([1624], Amounts(Agreed(Make.Once(18.05m), Percent(10, 1)), 1));
    }

    [Fact]
    public void A_coupon_lowers_neither_a_trial_nor_a_fee()
    {
        var terms = Make.Monthly(18, new Trial(Period.Days(7), Make.Pounds(1))) with { JoiningFee = Make.Pounds(5) };
        Assert.Equal([600, 900, 1800], Amounts(Agreed(terms, Percent(50, 1)), 3));
        Assert.Equal([500, 1800], Amounts(Agreed(terms.WithoutTrial(), Percent(100, 1)), 2));
        Assert.Equal([2010], Amounts(Agreed(Make.Once(100), Off(79.90m, 1)), 1));
    }

    [Fact]
    public void A_coupon_knows_whom_and_what_it_is_for()
    {
        var price = new Price { Id = new(7), PlanId = new(3), Terms = Make.Monthly() };
        Coupon With(Action<Coupon>? change = null, CouponOff? off = null)
        {
            var c = new Coupon { Id = 1, Code = "FROST", Off = off ?? new CouponOff.Percent(10) };
            change?.Invoke(c);
            return c;
        }
        CouponRefusal? Ask(Coupon c, Instant? at = null, int used = 0, int byThem = 0, bool before = false,
            bool belongs = false) => c.Refuses(price, at ?? Start, used, byThem, before, belongs);
        Assert.Null(Ask(With()));
        Assert.Null(Ask(With(c => (c.From, c.Until) = (Start, Start + Duration.Epsilon))));
        Assert.Equal(CouponRefusal.NotYet, Ask(With(c => c.From = Start + Duration.Epsilon)));
        Assert.Equal(CouponRefusal.Over, Ask(With(c => c.Until = Start)));
        Assert.Equal(CouponRefusal.Over, Ask(With(c => c.IsClosed = true)));
        Assert.Null(Ask(With(c => c.Plans = [new(3)])));
        Assert.Equal(CouponRefusal.NotForThisPrice, Ask(With(c => c.Plans = [new(4)])));
        Assert.Null(Ask(With(c => c.Prices = [new(7)])));
        Assert.Equal(CouponRefusal.NotForThisPrice, Ask(With(c => c.Prices = [new(8)])));
        Assert.Null(Ask(With(c => c.Limit = 3), used: 2));
        Assert.Equal(CouponRefusal.UsedUp, Ask(With(c => c.Limit = 3), used: 3));
        Assert.Null(Ask(With(c => c.LimitEach = 1), used: 9));
        Assert.Equal(CouponRefusal.UsedByThem, Ask(With(c => c.LimitEach = 1), byThem: 1));
        Assert.Null(Ask(With(), before: true));
        Assert.Equal(CouponRefusal.OnlyNewcomers, Ask(With(c => c.OnlyNewcomers = true), before: true));
        Assert.Equal(CouponRefusal.NotForThem, Ask(With(c => c.AudienceId = new(5))));
        Assert.Null(Ask(With(c => c.AudienceId = new(5)), belongs: true));
        Assert.Null(Ask(With(off: new CouponOff.Amount(Make.Pounds(1)))));
        Assert.Equal(CouponRefusal.OtherCurrency, Ask(With(off: new CouponOff.Amount(new(100, new("EUR"))))));
        Assert.Equal(CouponRefusal.NothingToLower, With().Refuses(new() { Terms = Make.Free }, Start, 0, 0, false, true));
    }

    [Theory]
    [InlineData(" frost 10 ", "FROST10")]
    [InlineData("Frost\u00a010\n", "FROST10")]
    [InlineData("ＦＲＯＳＴ", "FROST")]
    [InlineData(null, "")]
    public void Codes_are_typed_in_any_case_and_with_stray_spaces(string? typed, string code) => Assert.Equal(code, Coupon.Normalise(typed));

    [Fact]
    public void The_rest_of_instalments_is_one_charge()
    {
        var a = Agreed(Parts(3, 26) with { Access = new AccessLength.For(Period.Years(1)) }, Percent(50, 2));
        var rest = a.RestFrom(1)!;
        Assert.Equal((PaymentPurpose.Rest, 1, Day(2026, 11, 30), (Instant?)Day(2027, 10, 31)), (rest.Purpose, rest.Turn, rest.DueAt, rest.PaidThrough));
        Assert.Equal(Make.Pounds(13 + 26), rest.Amount);
        Assert.Equal([5200, -1300], rest.Lines.Select(l => l.Amount.Minor));
        Assert.Null(a.RestFrom(3));
        Assert.Null(Agreed(Make.Monthly()).RestFrom(0));
        Assert.Equal(rest, a.Find(PaymentPurpose.Rest, 1));
    }

    [Fact]
    public void Credit_is_used_first_and_never_more_than_is_asked()
    {
        var charge = Agreed(Make.Monthly()).First!;
        Assert.Same(charge, charge.Using(null));
        Assert.Same(charge, charge.Using(Make.Pounds(0)));
        Assert.Same(charge, charge.Using(new Money(500, new("EUR"))));
        Assert.Equal((1300L, 500L, 1800L), Split(charge.Using(Make.Pounds(5))));
        Assert.Equal((0L, 1800L, 1800L), Split(charge.Using(Make.Pounds(18))));
        Assert.Equal((0L, 1800L, 1800L), Split(charge.Using(Make.Pounds(99))));
        static (long, long, long) Split(Charge c) => (c.Amount.Minor, c.CreditUsed.Minor, c.Worth.Minor);
    }

    [Fact]
    public void For_a_change_nothing_of_a_beginning_is_left()
    {
        var terms = new PriceTerms.Recurring(Make.Pounds(30), Period.Months(1), new(Period.Days(7), Make.Pounds(1)), Make.Pounds(5))
        {
            JoiningFee = Make.Pounds(9),
            Sale = new(Make.Pounds(20), Start, Start + Duration.FromDays(9), false),
        };
        Assert.Equal(Make.Monthly(30), terms.ForAChange());
        var kept = terms with { Sale = terms.Sale! with { All = true } };
        Assert.Equal(kept.Sale, kept.ForAChange().Sale);
        Assert.Equal(Parts(3, 26), (Parts(3, 26, 50) with { Trial = new(Period.Days(7), Make.Pounds(0)) }).ForAChange());
    }

    // What is stored is read again, and what was stored before there was more than an amount still is.
    [Fact]
    public void Terms_are_stored_as_json()
    {
        PriceTerms[] all =
        [
            Make.Free, Make.Once() with { Access = new AccessLength.UntilDay(new(2027, 6, 30)), Seats = 4 },
            Parts(3, 26, 50) with { Trial = new(Period.Days(7), Make.Pounds(1)), Access = new AccessLength.For(Period.Years(1)) },
            Make.Monthly() with { JoiningFee = Make.Pounds(9), Sale = new(Make.Pounds(10), Start, Start + Duration.FromDays(1), true) },
        ];
        foreach (var terms in all)
            Assert.Equal(terms, JsonSerializer.Deserialize<PriceTerms>(JsonSerializer.Serialize(terms, CoreJson.Options), CoreJson.Options));
        Assert.Equal(Make.Monthly(), JsonSerializer.Deserialize<PriceTerms>(
            """{"$type":"recurring","amount":{"minor":1800,"currency":"GBP"},"every":{"count":1,"unit":"months"}}""", CoreJson.Options));
        var agreement = Agreed(all[2], Percent(10, 3));
        Assert.Equal(agreement.Charges(), JsonSerializer.Deserialize<Agreement>(JsonSerializer.Serialize(agreement, CoreJson.Options),
            CoreJson.Options)!.Charges());
    }

    static readonly Gen<PriceTerms> AnyTerms = Gen.Select(Gen.Int[0, 3], Gen.Long[1, 100_000], Gen.Int[2, 24], Gen.Int[1, 3], Gen.Enum<PeriodUnit>(),
        Gen.Long[0, 5000], Gen.Bool, Gen.Int[0, 40]).Select((kind, minor, count, n, unit, extra, flag, days) =>
        {
            var (amount, every) = (new Money(minor, Make.Gbp), new Period(n, unit));
            var trial = flag ? new Trial(Period.Days(1 + days), new(extra, Make.Gbp)) : null;
            Money? first = extra % 3 == 1 ? new(extra, Make.Gbp) : null;
            PriceTerms terms = kind switch
            {
                0 => new PriceTerms.Free(),
                1 => new PriceTerms.OnePayment(amount),
                2 => new PriceTerms.Instalments(amount, count, every, trial, first),
                _ => new PriceTerms.Recurring(amount, every, trial, first),
            };
            return terms with
            {
                JoiningFee = extra % 5 == 0 ? new(extra, Make.Gbp) : null,
                Sale = extra % 2 == 0 ? new(new(minor / 2, Make.Gbp), Start - Duration.FromDays(days), Start + Duration.FromDays(1), flag) : null,
            };
        });
    static readonly Gen<AppliedCoupon?> AnyCoupon = Gen.Select(Gen.Int[0, 2], Gen.Int[1, 100], Gen.Int[0, 5]).Select((kind, n, payments) => kind == 0 ? null
        : new AppliedCoupon(1, "ANY", kind == 1 ? new CouponOff.Percent(n) : new CouponOff.Amount(new(n * 100, Make.Gbp)), payments == 0 ? null : payments));

    [Fact]
    public void Whatever_the_terms_charges_stand_in_order_without_gap_and_never_below_zero() =>
        Gen.Select(AnyTerms, AnyCoupon, Gen.Int[0, 4000], Gen.Int[0, 700]).Sample((terms, coupon, startDay, balance) =>
        {
            var a = Agreed(terms, coupon, Start + Duration.FromDays(startDay) + Duration.FromMinutes(startDay % 1440));
            var s = PaymentSchedule.For(a, new Money(balance, Make.Gbp), count: 40);
            var used = s.Payments.Aggregate(0L, (sum, c) => sum + c.CreditUsed.Minor);
            Assert.True(used <= balance);
            for (var i = 0; i < s.Payments.Count; i++)
            {
                var c = s.Payments[i];
                Assert.True(c.Amount.Minor >= 0 && c.Worth.Minor >= 0 && c.CreditUsed.Minor >= 0, $"{c}");
                Assert.Equal(c.Amount.Minor, c.Lines.Sum(l => l.Amount.Minor));
                if (i > 0) Assert.Equal(s.Payments[i - 1].PaidThrough, c.DueAt);
                // Each charge is found again by name, by where its time is, and by what comes after the one before.
                var plain = a.Find(c.Purpose, c.Turn)!;
                Assert.Equal((c.DueAt, c.PaidThrough), (plain.DueAt, plain.PaidThrough));
                Assert.Equal(plain, a.At(c.DueAt));
                Assert.Equal(plain, a.From(c.DueAt));
                if (i > 0 && s.Payments[i - 1].DueAt < c.DueAt - Duration.Epsilon) Assert.Equal(plain, a.From(s.Payments[i - 1].DueAt + Duration.Epsilon));
            }
            if (s.Total is { } total) Assert.Equal(total.Minor, s.Payments.Sum(c => c.Amount.Minor));
        }, iter: Make.Tries(4000));
}
