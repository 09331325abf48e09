using System.Globalization;
using System.Text.RegularExpressions;

namespace BrightCircle.Core.Content;

/// <summary>What a copy is called: names that carry a number or a month count on, others say that they are a copy.</summary>
public static partial class NextName
{
    static readonly string[] Months = CultureInfo.InvariantCulture.DateTimeFormat.MonthNames[..12];

    /// <summary>
    /// "Week 3" → "Week 4", "3. Boil" → "4. Boil", "Day 09" → "Day 10", "October" → "November", "December 2026" → "January 2027";
    /// a name that carries neither becomes "… (copy)". The first month or counting number in the name is the one that counts on.
    /// A number counts where it begins the name, ends it, or follows a counting word (week, day, part …): "5 mm of ice" is not one.
    /// </summary>
    /// <param name="taken">Names that are there already: it counts on until it finds a free one.</param>
    public static string After(string name, IReadOnlyCollection<string>? taken = null)
    {
        var used = taken ?? [];
        var next = Once(name);
        for (var i = 0; i < 1000 && used.Contains(next, StringComparer.CurrentCultureIgnoreCase); i++) next = Once(next);
        return next;
    }

    static string Once(string name)
    {
        var month = MonthName().Match(name);
        var number = Counting().Match(name);
        if (month.Success && (!number.Success || month.Index <= number.Index)) return NextMonth(name, month);
        if (number.Success)
        {
            var digits = number.Groups["n"];
            var value = (long.Parse(digits.Value, CultureInfo.InvariantCulture) + 1).ToString(CultureInfo.InvariantCulture).PadLeft(digits.Length, '0');
            return name[..digits.Index] + value + name[(digits.Index + digits.Length)..];
        }
        var copy = Copy().Match(name);
        return !copy.Success ? name + " (copy)"
            : name[..copy.Index] + $" (copy {(copy.Groups["n"].Success ? int.Parse(copy.Groups["n"].Value, CultureInfo.InvariantCulture) : 1) + 1})";
    }

    static string NextMonth(string name, Match month)
    {
        var at = Array.IndexOf(Months, month.Groups["m"].Value);
        var year = month.Groups["y"];
        var tail = name[(month.Index + month.Length)..];
        var between = year.Success ? name[(month.Groups["m"].Index + month.Groups["m"].Length)..year.Index] : "";
        var nextYear = year.Success ? (int.Parse(year.Value, CultureInfo.InvariantCulture) + (at == 11 ? 1 : 0)).ToString(CultureInfo.InvariantCulture) : "";
        return name[..month.Index] + Months[(at + 1) % 12] + between + nextYear + tail;
    }

    [GeneratedRegex(@"\b(?<m>January|February|March|April|May|June|July|August|September|October|November|December)\b(?:,?\s+(?<y>(?:19|20|21)\d\d)\b)?",
        RegexOptions.CultureInvariant)]
    private static partial Regex MonthName();

    [GeneratedRegex(
        @"^(?<n>\d{1,9})(?=[.):,\s–-]*$|[.):])|(?<=\b(?:week|day|part|module|chapter|lesson|step|session|unit|month|year|edition|round|no\.?|nr\.?)\s?)"
            + @"(?<n>\d{1,9})\b|(?<=\s|#)(?<n>\d{1,9})$",
        RegexOptions.CultureInvariant | RegexOptions.IgnoreCase)]
    private static partial Regex Counting();

    [GeneratedRegex(@" \(copy(?: (?<n>\d{1,6}))?\)$", RegexOptions.CultureInvariant)]
    private static partial Regex Copy();
}
