using System.Globalization;
using BrightCircle.Core.Billing;
using CsCheck;
using Xunit;

namespace BrightCircle.Core.Tests;

public class MoneyTests
{
    static readonly Currency Gbp = new("GBP");
    static readonly CultureInfo English = CultureInfo.GetCultureInfo("en-GB");
    static Money Pounds(long minor) => new(minor, Gbp);

    // ISO 4217: the minor unit exponents that the standard's table A.1 gives.
    [Theory]
    [InlineData("JPY", 0)]
    [InlineData("EUR", 2)]
    [InlineData("GBP", 2)]
    [InlineData("BHD", 3)]
    [InlineData("KWD", 3)]
    [InlineData("KRW", 0)]
    public void Decimals_are_those_of_ISO_4217(string code, int decimals) => Assert.Equal(decimals, new Currency(code).Decimals);

    [Theory]
    [InlineData("XYZ")]
    [InlineData("gbp")]
    [InlineData("")]
    public void Other_codes_are_refused(string code) => Assert.Throws<ArgumentException>(() => new Currency(code));

    [Fact]
    public void Currencies_do_not_mix() => Assert.Throws<InvalidOperationException>(() => Pounds(1) + new Money(1, new("EUR")));

    [Fact]
    public void Sums_differences_and_order_are_those_of_the_minor_units() =>
        Gen.Select(Gen.Long[-1_000_000_000, 1_000_000_000], Gen.Long[-1_000_000_000, 1_000_000_000], Gen.Int[-50, 50]).Sample((a, b, n) =>
        {
            var (x, y) = (Pounds(a), Pounds(b));
            return (x + y).Minor == a + b && (x - y).Minor == a - b && (-x).Minor == -a && (x * n).Minor == a * n && x - y == -(y - x)
                && (x < y) == (a < b) && (x > y) == (a > b) && (x <= y) == (a <= b) && (x >= y) == (a >= b) && x.CompareTo(y) == a.CompareTo(b);
        });

    [Fact]
    public void What_does_not_fit_is_an_error_and_not_another_amount()
    {
        Assert.Throws<OverflowException>(() => Pounds(long.MaxValue) + Pounds(1));
        Assert.Throws<OverflowException>(() => -Pounds(long.MinValue));
        Assert.Throws<OverflowException>(() => Pounds(long.MaxValue) * 2);
        Assert.Throws<InvalidOperationException>(() => Pounds(1) < new Money(1, new("JPY")));
    }

    [Theory]
    [InlineData(5, 1, 2, 3)]
    [InlineData(-5, 1, 2, -3)]
    [InlineData(100, 1, 3, 33)]
    [InlineData(200, 1, 3, 67)]
    public void Halves_go_away_from_zero(long amount, long n, long d, long expected) => Assert.Equal(expected, Pounds(amount).Times(n, d).Minor);

    [Fact]
    public void The_other_rule_is_named()
    {
        Assert.Equal(2, Pounds(5).Times(1, 2, Rounding.HalfToEven).Minor);
        Assert.Equal(4, Pounds(7).Times(1, 2, Rounding.HalfToEven).Minor);
    }

    [Fact]
    public void Splitting_gives_the_odd_units_to_the_earliest() => Assert.Equal([34, 33, 33], Pounds(100).Split(3).Select(m => m.Minor));

    // Largest-remainder (Hamilton) method, worked by hand: 10 over 10:20:34 is 1.56, 3.13, 5.31; the unit left goes to .56.
    [Fact]
    public void Remainders_decide_who_gets_a_unit() => Assert.Equal([2, 3, 5], Pounds(10).Allocate(10, 20, 34).Select(m => m.Minor));

    [Fact]
    public void Allocation_never_loses_a_unit_and_is_fair() =>
        Gen.Select(Gen.Long[-1_000_000, 1_000_000], Gen.Long[0, 10_000].Array[1, 12]).Where(t => t.Item2.Sum() > 0).Sample((amount, weights) =>
        {
            var parts = Pounds(amount).Allocate(weights);
            var total = weights.Sum();
            return parts.Sum(p => p.Minor) == amount && parts.Zip(weights).All(p => Math.Abs(p.First.Minor - (double)amount * p.Second / total) < 1);
        });

    [Theory]
    [InlineData("18", 1800)]
    [InlineData("18.5", 1850)]
    [InlineData("1,234.50", 123450)]
    [InlineData(" 0.01 ", 1)]
    public void Typed_amounts_are_read(string typed, long minor)
    {
        Assert.True(Money.TryParse(typed, Gbp, English, out var money));
        Assert.Equal(minor, money.Minor);
    }

    [Theory]
    [InlineData("18.005")]
    [InlineData("-3")]
    [InlineData("eighteen")]
    [InlineData("")]
    [InlineData("999999999999")]
    public void Other_things_are_not(string typed) => Assert.False(Money.TryParse(typed, Gbp, English, out _));

    [Fact]
    public void Amounts_are_shown_with_the_currency_and_its_decimals()
    {
        Assert.Equal("£1,234.50", Pounds(123450).Format(English));
        Assert.Equal("¥980", new Money(980, new("JPY")).Format(English));
        Assert.Equal("BHD\u00a01.250", new Money(1250, new("BHD")).Format(English));
        Assert.Equal("£18", Pounds(1800).FormatShort(English));
        Assert.Equal("−£3.00", Pounds(-300).Format(English));
    }

    [Fact]
    public void A_posting_can_not_be_unbalanced()
    {
        Assert.Throws<InvalidOperationException>(() => new Posting(new LedgerLine(LedgerAccount.Cash, Pounds(1))));
        Assert.All([Posting.Paid(Pounds(1800)), Posting.Failed(Pounds(1800)), Posting.GivenBack(Pounds(700))], p => Assert.Equal(0, p.Lines.Sum(l => l.Amount.Minor)));
        Assert.All(Posting.Failed(Pounds(1800)).Lines.GroupBy(l => l.Account), g => Assert.Equal(0, g.Sum(l => l.Amount.Minor)));
    }

    [Fact]
    public void No_more_goes_back_than_was_paid()
    {
        var p = new Payment { Amount = Pounds(1800), Outcome = ChargeOutcome.Approved };
        p.GiveBack(Pounds(800), false);
        Assert.Equal(PaymentState.PartlyRefunded, p.State);
        Assert.Throws<InvalidOperationException>(() => p.GiveBack(Pounds(1001), false));
        p.GiveBack(Pounds(1000), false);
        Assert.Equal(PaymentState.Refunded, p.State);
        Assert.Throws<InvalidOperationException>(() => p.GiveBack(Pounds(1), false));
        Assert.True(new Payment { Amount = Pounds(1800), Outcome = ChargeOutcome.DeclinedSoft }.Refundable.IsZero);
    }
}
