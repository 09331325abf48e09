using System.Globalization;

namespace BrightCircle.Core.Billing;

/// <summary>How a fraction of a minor unit is settled.</summary>
public enum Rounding
{
    /// <summary>0.5 goes away from zero: the rule for prices and taxes.</summary>
    HalfAwayFromZero,
    /// <summary>0.5 goes to the even neighbour.</summary>
    HalfToEven,
}

/// <summary>An amount in integer minor units of one currency. Amounts of different currencies don't add.</summary>
public readonly record struct Money(long Minor, Currency Currency) : IComparable<Money>
{
    public static Money Zero(Currency currency) => new(0, currency);

    public bool IsZero => Minor == 0;

    /// <exception cref="InvalidOperationException">The currencies differ.</exception>
    public static Money operator +(Money a, Money b) => new(checked(a.Minor + b.Same(a).Minor), a.Currency);
    /// <exception cref="InvalidOperationException">The currencies differ.</exception>
    public static Money operator -(Money a, Money b) => new(checked(a.Minor - b.Same(a).Minor), a.Currency);
    public static Money operator -(Money a) => new(checked(-a.Minor), a.Currency);
    public static Money operator *(Money a, int times) => new(checked(a.Minor * times), a.Currency);
    public static bool operator <(Money a, Money b) => a.CompareTo(b) < 0;
    public static bool operator >(Money a, Money b) => a.CompareTo(b) > 0;
    public static bool operator <=(Money a, Money b) => a.CompareTo(b) <= 0;
    public static bool operator >=(Money a, Money b) => a.CompareTo(b) >= 0;

    public int CompareTo(Money other) => Minor.CompareTo(other.Same(this).Minor);

    Money Same(Money other) => Currency == other.Currency ? this
        : throw new InvalidOperationException($"{Currency} and {other.Currency} don't mix.");

    /// <summary>The amount times <paramref name="numerator"/> ÷ <paramref name="denominator"/>, exact until the one rounding at the end.</summary>
    /// <exception cref="ArgumentOutOfRangeException">The denominator is not above zero.</exception>
    public Money Times(long numerator, long denominator, Rounding rounding = Rounding.HalfAwayFromZero)
    {
        ArgumentOutOfRangeException.ThrowIfNegativeOrZero(denominator);
        var exact = (Int128)Minor * numerator;
        var (whole, rest) = Int128.DivRem(exact, denominator);
        var twice = Int128.Abs(rest) * 2;
        var up = twice > denominator || twice == denominator && (rounding == Rounding.HalfAwayFromZero || whole % 2 != 0);
        return new(checked((long)(whole + (up ? Int128.Sign(exact) : 0))), Currency);
    }

    /// <summary>
    /// The amount split by <paramref name="weights"/> without losing a unit: each part gets its whole share, and the units left over
    /// go to the largest remainders, ties to the earliest part (largest-remainder method). The parts sum to the amount.
    /// </summary>
    /// <exception cref="ArgumentException">No weights, a negative one, or all zero.</exception>
    public Money[] Allocate(params ReadOnlySpan<long> weights)
    {
        Int128 total = 0;
        foreach (var w in weights)
        {
            if (w < 0) throw new ArgumentException("A share can't be negative.", nameof(weights));
            total += w;
        }
        if (total == 0) throw new ArgumentException("There is nothing to share among.", nameof(weights));

        var sign = Math.Sign(Minor);
        var amount = Int128.Abs(Minor);
        var parts = new Money[weights.Length];
        var remainders = new Int128[weights.Length];
        var left = amount;
        for (var i = 0; i < weights.Length; i++)
        {
            var (share, rest) = Int128.DivRem(amount * weights[i], total);
            parts[i] = new((long)share * sign, Currency);
            remainders[i] = rest;
            left -= share;
        }
        foreach (var i in Enumerable.Range(0, weights.Length).OrderByDescending(i => remainders[i]).ThenBy(i => i).Take((int)left))
            parts[i] = new(parts[i].Minor + sign, Currency);
        return parts;
    }

    /// <summary>Equal parts, the odd units to the earliest.</summary>
    public Money[] Split(int parts)
    {
        ArgumentOutOfRangeException.ThrowIfNegativeOrZero(parts);
        var weights = new long[parts];
        Array.Fill(weights, 1);
        return Allocate(weights);
    }

    /// <summary>The amount in major units, exact.</summary>
    public decimal Major => (decimal)Minor / Currency.MinorPerMajor;

    /// <summary>Reads what a person typed as an amount in major units: "18", "18.00", "1,234.50".</summary>
    /// <returns>False where it isn't a number, is negative, has more decimals than the currency, or is beyond a hundred million.</returns>
    public static bool TryParse(string? text, Currency currency, CultureInfo culture, out Money money)
    {
        money = Zero(currency);
        if (!decimal.TryParse(text?.Trim(), NumberStyles.AllowDecimalPoint | NumberStyles.AllowThousands, culture, out var major)) return false;
        var minor = major * currency.MinorPerMajor;
        if (minor != decimal.Truncate(minor) || minor is < 0 or > 10_000_000_000m) return false;
        money = new((long)minor, currency);
        return true;
    }

    /// <summary>With the currency's sign and decimals, grouped as the culture does: "£1,234.50", "¥980".</summary>
    public string Format(CultureInfo culture)
    {
        var f = (NumberFormatInfo)culture.NumberFormat.Clone();
        f.CurrencySymbol = Currency.Sign;
        f.CurrencyDecimalDigits = Currency.Decimals;
        f.CurrencyNegativePattern = 1;
        f.NegativeSign = "−";
        return Major.ToString("C", f);
    }

    /// <summary>As <see cref="Format"/>, but whole amounts without decimals: "£18".</summary>
    public string FormatShort(CultureInfo culture)
    {
        if (Minor % Currency.MinorPerMajor != 0) return Format(culture);
        var f = (NumberFormatInfo)culture.NumberFormat.Clone();
        f.CurrencySymbol = Currency.Sign;
        f.CurrencyDecimalDigits = 0;
        f.CurrencyNegativePattern = 1;
        f.NegativeSign = "−";
        return Major.ToString("C", f);
    }

    public override string ToString() => $"{Major.ToString("F" + Currency.Decimals, CultureInfo.InvariantCulture)} {Currency}";
}
