using System.Text.Json.Serialization;
using NodaTime;

namespace BrightCircle.Core.Time;

public enum PeriodUnit { Days, Weeks, Months, Years }

/// <summary>A calendar length: a whole number of days, weeks, months or years, from 1 to 1,000 of them.</summary>
/// <remarks>It has no fixed number of seconds: a month is as long as the calendar makes it, a day can have 23 or 25 hours.</remarks>
public readonly record struct Period
{
    public const int MaxCount = 1000;

    /// <exception cref="ArgumentOutOfRangeException">The count is below 1 or above <see cref="MaxCount"/>.</exception>
    [JsonConstructor]
    public Period(int count, PeriodUnit unit)
    {
        ArgumentOutOfRangeException.ThrowIfLessThan(count, 1);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(count, MaxCount);
        Count = count;
        Unit = unit;
    }

    public int Count { get; }
    public PeriodUnit Unit { get; }

    public static Period Days(int count) => new(count, PeriodUnit.Days);
    public static Period Weeks(int count) => new(count, PeriodUnit.Weeks);
    public static Period Months(int count) => new(count, PeriodUnit.Months);
    public static Period Years(int count) => new(count, PeriodUnit.Years);

    /// <summary>The word for one of the unit: day, week, month, year.</summary>
    public string UnitWord => Unit switch
    {
        PeriodUnit.Days => "day",
        PeriodUnit.Weeks => "week",
        PeriodUnit.Months => "month",
        PeriodUnit.Years => "year",
        _ => throw new InvalidOperationException($"No such unit: {Unit}"),
    };

    /// <summary>"7 days", "1 month".</summary>
    public override string ToString() => Count == 1 ? $"1 {UnitWord}" : $"{Count} {UnitWord}s";

    /// <summary>"month" or "3 months", to stand after "every" or "a".</summary>
    public string AfterEvery() => Count == 1 ? UnitWord : ToString();

    /// <summary>The date <paramref name="times"/> periods after <paramref name="anchor"/>, the day clamped to the month's length.</summary>
    internal LocalDate AddTo(LocalDate anchor, int times) => Unit switch
    {
        PeriodUnit.Days => anchor.PlusDays(Count * times),
        PeriodUnit.Weeks => anchor.PlusWeeks(Count * times),
        PeriodUnit.Months => anchor.PlusMonths(Count * times),
        PeriodUnit.Years => anchor.PlusYears(Count * times),
        _ => throw new InvalidOperationException($"No such unit: {Unit}"),
    };
}
