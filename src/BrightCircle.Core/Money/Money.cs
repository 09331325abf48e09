using System.Globalization;

namespace BrightCircle.Core;

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

    const long Most = 10_000_000_000;

    /// <summary>
    /// Reads what a person typed as an amount in major units, by a culture's signs: "18", "18.00", "1,234.50" in one, "1.234,50" in another. A sign that
    /// can't be what the culture takes it for ("12,50" where the comma parts thousands) makes the amount ambiguous: it isn't guessed.
    /// </summary>
    public static AmountRead Read(string? typed, Currency currency, CultureInfo culture)
    {
        var text = (typed ?? "").Trim().Replace("\u00a0", "", StringComparison.Ordinal).Replace("\u202f", "", StringComparison.Ordinal)
            .Replace(" ", "", StringComparison.Ordinal).Replace("'", "", StringComparison.Ordinal).Replace("’", "", StringComparison.Ordinal);
        if (text.Length is 0 or > 24 || text.Any(c => !char.IsAsciiDigit(c) && c is not ('.' or ','))) return new AmountRead.NotANumber();
        var point = culture.NumberFormat.NumberDecimalSeparator is "," ? ',' : '.';
        var (points, commas) = (text.Count(c => c == '.'), text.Count(c => c == ','));
        if (points > 0 && commas > 0)
        {
            // Of both signs the last one, standing once, parts the decimals, whatever the culture; the other has to part thousands.
            var last = text.LastIndexOf('.') > text.LastIndexOf(',') ? '.' : ',';
            return text.Count(c => c == last) == 1
                && Grouped(text[..text.IndexOf(last)], last == '.' ? ',' : '.') ? Made(text, last, currency) : new AmountRead.NotANumber();
        }
        if (points + commas == 0) return Made(text, point, currency);
        var sign = points > 0 ? '.' : ',';
        if (points + commas > 1) return Grouped(text, sign) ? Made(text, sign == '.' ? ',' : '.', currency) : new AmountRead.NotANumber();
        var decimals = text.Length - 1 - text.IndexOf(sign);
        var couldGroup = Grouped(text, sign);
        if (sign == point ? !couldGroup || decimals <= currency.Decimals : couldGroup)
            return Made(text, sign == point ? point : sign == '.' ? ',' : '.', currency);
        return Made(text, sign, currency, cut: true) is AmountRead.Amount asDecimals
            && Made(text, sign == '.' ? ',' : '.', currency) is AmountRead.Amount asThousands
            ? new AmountRead.Ambiguous(asDecimals.Money, asThousands.Money) : new AmountRead.NotANumber();
    }

    /// <summary>Whether every sign stands before exactly three digits, and the first group isn't empty or longer.</summary>
    static bool Grouped(string text, char sign) =>
        text.Split(sign) is var groups && groups[0].Length is >= 1 and <= 3 && groups[0] != "0" && groups.Skip(1).All(g => g.Length == 3);

    /// <param name="point">What parts the decimals; the other sign parts thousands.</param>
    static AmountRead Made(string text, char point, Currency currency, bool cut = false)
    {
        var plain = text.Replace(point == '.' ? "," : ".", "", StringComparison.Ordinal).Replace(point, '.');
        if (!decimal.TryParse(plain, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var major)) return new AmountRead.NotANumber();
        var minor = major * currency.MinorPerMajor;
        if (cut) minor = decimal.Truncate(minor);
        if (minor != decimal.Truncate(minor)) return new AmountRead.TooFine();
        return minor > Most ? new AmountRead.OutOfRange() : new AmountRead.Amount(new((long)minor, currency));
    }

    /// <summary>With the currency's sign and decimals, grouped and placed as the culture does: "£1,234.50", "¥980", "12,50 €".</summary>
    public string Format(CultureInfo culture) => Format(culture, Currency.Decimals);

    /// <summary>As <see cref="Format(CultureInfo)"/>, but whole amounts without decimals: "£18".</summary>
    public string FormatShort(CultureInfo culture) => Format(culture, Minor % Currency.MinorPerMajor == 0 ? 0 : Currency.Decimals);

    string Format(CultureInfo culture, int decimals)
    {
        var f = (NumberFormatInfo)culture.NumberFormat.Clone();
        // 0 and 2 put the sign before the amount, 1 and 3 behind it.
        var before = f.CurrencyPositivePattern is 0 or 2;
        f.CurrencySymbol = before ? Currency.Sign : Currency.Sign.TrimEnd();
        f.CurrencyDecimalDigits = decimals;
        f.CurrencyNegativePattern = before ? f.CurrencyPositivePattern == 0 ? 1 : 9 : f.CurrencyPositivePattern == 1 ? 5 : 8;
        f.NegativeSign = "−";
        // An amount never breaks apart at the end of a line.
        return Major.ToString("C", f).Replace(' ', '\u00a0');
    }

    public override string ToString() => $"{Major.ToString("F" + Currency.Decimals, CultureInfo.InvariantCulture)} {Currency}";
}

/// <summary>What a typed amount was read as.</summary>
public abstract record AmountRead
{
    private AmountRead() { }
    public sealed record Amount(Money Money) : AmountRead;
    public sealed record NotANumber : AmountRead;
    /// <summary>More decimals than the currency has.</summary>
    public sealed record TooFine : AmountRead;
    public sealed record OutOfRange : AmountRead;
    /// <summary>It can be read in two ways.</summary>
    public sealed record Ambiguous(Money One, Money Other) : AmountRead;
}
