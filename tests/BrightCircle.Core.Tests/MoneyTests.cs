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
    [InlineData("CLF", 4)]
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

    static string Read(string? typed, string culture, string currency = "GBP") => Money.Read(typed, new(currency), CultureInfo.GetCultureInfo(culture)) switch
    {
        AmountRead.Amount a => a.Money.Minor.ToString(CultureInfo.InvariantCulture),
        AmountRead.Ambiguous x => $"{x.One.Minor} or {x.Other.Minor}",
        AmountRead.TooFine => "too fine",
        AmountRead.OutOfRange => "out of range",
        _ => "not a number",
    };

    // What a sign parts is the culture's to say; where it can't, both readings are told and none is taken.
    [Theory]
    [InlineData("18", "en-GB", "1800")]
    [InlineData("18.5", "en-GB", "1850")]
    [InlineData("1,234.50", "en-GB", "123450")]
    [InlineData("1,234", "en-GB", "123400")]
    [InlineData("1,234,567", "en-GB", "123456700")]
    [InlineData(" 0.01 ", "en-GB", "1")]
    [InlineData("1 234.50", "en-GB", "123450")]
    [InlineData("1'234.50", "en-GB", "123450")]
    [InlineData("12,50", "en-GB", "1250 or 125000")]
    [InlineData("12,5", "en-GB", "1250 or 12500")]
    [InlineData("1.234", "en-GB", "123 or 123400")]
    [InlineData("0.125", "en-GB", "too fine")]
    [InlineData("18.005", "en-GB", "1800 or 1800500")]
    [InlineData("12,50", "de-DE", "1250")]
    [InlineData("1.234,50", "de-DE", "123450")]
    [InlineData("1.234", "de-DE", "123400")]
    [InlineData("12.50", "de-DE", "1250 or 125000")]
    [InlineData("1.234,50", "en-GB", "123450")]
    [InlineData("1,234.50", "de-DE", "123450")]
    [InlineData("1,23,456", "en-GB", "not a number")]
    [InlineData("12.34.56", "en-GB", "not a number")]
    [InlineData("-3", "en-GB", "not a number")]
    [InlineData("eighteen", "en-GB", "not a number")]
    [InlineData("", "en-GB", "not a number")]
    [InlineData(null, "en-GB", "not a number")]
    [InlineData(".", "en-GB", "not a number")]
    [InlineData("100000000", "en-GB", "10000000000")]
    [InlineData("100000000.01", "en-GB", "out of range")]
    [InlineData("999999999999", "en-GB", "out of range")]
    public void Typed_amounts_are_read_by_the_culture_and_never_guessed(string? typed, string culture, string minor) =>
        Assert.Equal(minor, Read(typed, culture));

    // Decimals are the currency's: three for the dinar, none for the yen (ISO 4217).
    [Theory]
    [InlineData("1.234", "en-GB", "BHD", "1234")]
    [InlineData("1.2345", "en-GB", "BHD", "too fine")]
    [InlineData("1,234", "en-GB", "JPY", "1234")]
    [InlineData("1.5", "en-GB", "JPY", "too fine")]
    public void Decimals_of_typed_amounts_are_the_currencys(string typed, string culture, string currency, string minor) =>
        Assert.Equal(minor, Read(typed, culture, currency));

    [Fact]
    public void What_is_shown_is_read_back_in_every_culture() =>
        Gen.Select(Gen.Long[0, 10_000_000_000], Gen.Int[0, 5]).Sample((minor, which) =>
        {
            var culture = new[] { "en-GB", "de-DE", "fr-FR", "de-CH", "ja-JP", "es-ES" }[which];
            return Read(Pounds(minor).Major.ToString("N2", CultureInfo.GetCultureInfo(culture)), culture) == minor.ToString(CultureInfo.InvariantCulture);
        });

    [Fact]
    public void Signs_stand_where_the_culture_puts_them()
    {
        var euro = new Money(-123450, new("EUR"));
        Assert.Equal("−1.234,50\u00a0€", euro.Format(CultureInfo.GetCultureInfo("de-DE")));
        Assert.Equal("−€1,234.50", euro.Format(CultureInfo.GetCultureInfo("en-IE")));
        Assert.Equal("18\u00a0€", new Money(1800, new("EUR")).FormatShort(CultureInfo.GetCultureInfo("de-DE")));
        Assert.Equal("12,500\u00a0BHD", new Money(12500, new("BHD")).Format(CultureInfo.GetCultureInfo("de-DE")));
    }

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
        Assert.All([Posting.Paid(Pounds(1800)), Posting.Failed(Pounds(1800)), Posting.GivenBack(Pounds(700))],
            p => Assert.Equal(0, p.Lines.Sum(l => l.Amount.Minor)));
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
