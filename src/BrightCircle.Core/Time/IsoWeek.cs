using System.Globalization;
using NodaTime;
using NodaTime.Calendars;

namespace BrightCircle.Core.Time;

/// <summary>A week of ISO 8601: Monday to Sunday, counted in the year that holds its Thursday.</summary>
/// <param name="Monday">Its first day.</param>
public readonly record struct IsoWeek(LocalDate Monday) : IComparable<IsoWeek>
{
    public static IsoWeek Of(LocalDate day) => new(day.PlusDays(1 - (int)day.DayOfWeek));

    /// <summary>The week year, which at the turn of the year differs from the calendar's.</summary>
    public int Year => WeekYearRules.Iso.GetWeekYear(Monday);
    /// <summary>1 to 53.</summary>
    public int Number => WeekYearRules.Iso.GetWeekOfWeekYear(Monday);
    public LocalDate Sunday => Monday.PlusDays(6);

    public IsoWeek Plus(int weeks) => new(Monday.PlusWeeks(weeks));

    /// <summary>How many weeks from another to this one.</summary>
    public int Since(IsoWeek other) => NodaTime.Period.DaysBetween(other.Monday, Monday) / 7;

    public int CompareTo(IsoWeek other) => Monday.CompareTo(other.Monday);
    public static bool operator <(IsoWeek a, IsoWeek b) => a.Monday < b.Monday;
    public static bool operator >(IsoWeek a, IsoWeek b) => a.Monday > b.Monday;
    public static bool operator <=(IsoWeek a, IsoWeek b) => a.Monday <= b.Monday;
    public static bool operator >=(IsoWeek a, IsoWeek b) => a.Monday >= b.Monday;

    /// <summary>"2026-W53", for 2026-12-31 and for 2027-01-01.</summary>
    public override string ToString() => string.Create(CultureInfo.InvariantCulture, $"{Year:0000}-W{Number:00}");
}
