using System.Collections.Frozen;
using System.Globalization;

namespace BrightCircle.Core;

/// <summary>A currency of ISO 4217 with its own number of decimals (JPY 0, GBP 2, BHD 3).</summary>
/// <remarks>The list is the published list one with its date, kept beside this file in iso-4217.txt.</remarks>
public readonly record struct Currency
{
    static readonly FrozenDictionary<string, int> Known = Read();

    static FrozenDictionary<string, int> Read()
    {
        using var text = new StreamReader(typeof(Currency).Assembly.GetManifestResourceStream("BrightCircle.Core.iso-4217.txt")!);
        var map = new Dictionary<string, int>();
        while (text.ReadLine() is { } line)
            if (line is [_, _, _, ' ', var digit]) map[line[..3]] = digit - '0';
        return map.ToFrozenDictionary();
    }

    /// <exception cref="ArgumentException">Not an active ISO 4217 code.</exception>
    public Currency(string code)
    {
        if (!IsKnown(code)) throw new ArgumentException($"“{code}” is not a currency code of ISO 4217.", nameof(code));
        Code = code;
    }

    public string Code { get; }

    /// <summary>How many decimals the minor unit stands for, 0 to 4.</summary>
    public int Decimals => Known[Code];

    /// <summary>Minor units in one major unit: 1, 100, 1,000 or 10,000.</summary>
    public int MinorPerMajor => Decimals switch
    {
        0 => 1,
        2 => 100,
        3 => 1000,
        4 => 10_000,
        var other => throw new InvalidOperationException($"No currency has {other.ToString(CultureInfo.InvariantCulture)} decimals."),
    };

    public static bool IsKnown(string? code) => code is not null && Known.ContainsKey(code);
    public static IReadOnlyCollection<string> All => Known.Keys;

    /// <summary>The sign people write before an amount, or the code with a space that doesn't break where there is no common one.</summary>
    public string Sign => Code switch
    {
        "GBP" => "£",
        "EUR" => "€",
        "USD" => "$",
        "JPY" => "¥",
        "INR" => "₹",
        _ => Code + "\u00a0",
    };

    public override string ToString() => Code;
}
