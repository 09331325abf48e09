using System.Text.RegularExpressions;

namespace BrightCircle.Core.Billing;

/// <summary>
/// The reference a buyer writes on a bank transfer: "RF", two check digits and up to 21 letters and digits, by ISO 11649:2009. The check digits are those
/// of ISO 7064 MOD 97-10: with the first four signs moved to the end and letters counted as 10 to 35, the number leaves 1 when it is divided by 97.
/// </summary>
public static partial class CreditorReference
{
    public const int Longest = 25;

    /// <summary>Makes the reference of a number.</summary>
    /// <exception cref="ArgumentOutOfRangeException">Negative.</exception>
    public static string For(long number)
    {
        ArgumentOutOfRangeException.ThrowIfNegative(number);
        var body = number.ToString(System.Globalization.CultureInfo.InvariantCulture);
        return $"RF{98 - Remainder(body + "RF00"):D2}{body}";
    }

    /// <summary>Whether these are signs of a reference whose check digits are right; spaces and small letters are as people write them.</summary>
    public static bool IsValid(string? typed)
    {
        var r = Normalise(typed);
        return Shape().IsMatch(r) && Remainder(r[4..] + r[..4]) == 1;
    }

    /// <summary>In capitals and without spaces.</summary>
    public static string Normalise(string? typed) => typed is null ? "" : new([.. typed.Where(c => !char.IsWhiteSpace(c)).Select(char.ToUpperInvariant)]);

    /// <summary>In groups of four, as it is printed.</summary>
    public static string Show(string reference) => string.Join(' ', Normalise(reference).Chunk(4).Select(c => new string(c)));

    /// <summary>
    /// All that can be a valid reference in a text, each once, the longest first of those that begin together: a bank may put spaces or other words around
    /// them, so that where one ends isn't always seen. Which of them was given out, whoever asks knows.
    /// </summary>
    public static IReadOnlyList<string> FindIn(string? text)
    {
        var flat = Normalise(text);
        var found = new List<string>();
        for (var at = flat.IndexOf("RF", StringComparison.Ordinal); at >= 0; at = flat.IndexOf("RF", at + 1, StringComparison.Ordinal))
        {
            for (var length = Math.Min(Longest, flat.Length - at); length >= 5; length--)
            {
                var candidate = flat.Substring(at, length);
                if (IsValid(candidate) && !found.Contains(candidate)) found.Add(candidate);
            }
        }
        return found;
    }

    static int Remainder(string signs)
    {
        var rest = 0;
        foreach (var c in signs)
            if (char.IsAsciiDigit(c)) rest = (rest * 10 + (c - '0')) % 97;
            else rest = (rest * 100 + (c - 'A' + 10)) % 97;
        return rest;
    }

    [GeneratedRegex("^RF[0-9]{2}[0-9A-Z]{1,21}$")] private static partial Regex Shape();
}
