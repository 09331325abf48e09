using System.Globalization;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.App;

/// <summary>In which order a date has its day, month and year, where it isn't written as in ISO 8601.</summary>
public enum DateOrder { DayFirst, MonthFirst }

/// <summary>A day as it stands in somebody else's list.</summary>
public static class TypedDay
{
    public const int EarliestYear = 1900, LatestYear = 2200;
    static readonly LocalDatePattern[] written =
        [.. new[] { "d MMM uuuu", "d MMMM uuuu" }.Select(LocalDatePattern.CreateWithInvariantCulture)];

    /// <summary>The order in which people of a culture write a date in figures.</summary>
    public static DateOrder OrderOf(CultureInfo culture)
    {
        var pattern = culture.DateTimeFormat.ShortDatePattern;
        return pattern.IndexOf('M', StringComparison.Ordinal) < pattern.IndexOf('d', StringComparison.Ordinal)
            && !pattern.StartsWith('y') ? DateOrder.MonthFirst : DateOrder.DayFirst;
    }

    /// <summary>
    /// The year first as in ISO 8601, or last with dots, strokes or hyphens between, or with the month's English name. A time of day behind it doesn't matter.
    /// </summary>
    /// <returns>Null for what is no day, or one out of <see cref="EarliestYear"/> to <see cref="LatestYear"/>.</returns>
    public static LocalDate? Read(string typed, DateOrder order)
    {
        typed = typed.Trim();
        if (typed.Length is 0 or > 40) return null;
        foreach (var pattern in written)
            if (pattern.Parse(typed) is { Success: true } named) return Within(named.Value);
        var day = typed.Split('T', ' ')[0];
        if (LocalDatePattern.Iso.Parse(day) is { Success: true } iso) return Within(iso.Value);
        var parts = day.Split('.', '/', '-');
        if (parts.Length != 3 || parts[2].Length != 4 || !parts.All(p => p.Length is 1 or 2 or 4 && p.All(char.IsAsciiDigit))) return null;
        var n = parts.Select(p => int.Parse(p, CultureInfo.InvariantCulture)).ToArray();
        var (d, m) = order == DateOrder.DayFirst ? (n[0], n[1]) : (n[1], n[0]);
        return n[2] is >= EarliestYear and <= LatestYear && m is >= 1 and <= 12 && d >= 1 && d <= CalendarSystem.Iso.GetDaysInMonth(n[2], m)
            ? new LocalDate(n[2], m, d) : null;
    }

    static LocalDate? Within(LocalDate day) => day.Year is >= EarliestYear and <= LatestYear ? day : null;
}
