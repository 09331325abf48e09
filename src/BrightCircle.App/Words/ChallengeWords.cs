using System.Globalization;
using BrightCircle.Core.Community;
using NodaTime;

namespace BrightCircle.App.Words;

/// <summary>Where a challenge stands, as people say it.</summary>
public static class ChallengeWords
{
    /// <summary>For lists: “week 3 of 6”, “begins on 9 November”, “over since 20 December 2026”.</summary>
    public static string Short(Challenge c, LocalDate today, CultureInfo culture) => c.IsUnderWay(today) ? $"week {c.WeekOf(today)} of {c.Weeks}"
        : c.IsOver(today) ? $"over since {c.EndsOn.ToString("d MMMM uuuu", culture)}" : $"begins on {c.StartsOn.ToString("d MMMM uuuu", culture)}";

    /// <summary>For its own page, without a full stop: “Week 3 of 6, until Sunday, 20 December”.</summary>
    public static string Long(Challenge c, LocalDate today, CultureInfo culture)
    {
        var words = Short(c, today, culture);
        return char.ToUpper(words[0], culture) + words[1..] + (c.IsUnderWay(today) ? $", until {c.EndsOn.ToString("dddd, d MMMM", culture)}" : "");
    }

    /// <summary>What is done in it, for those who think of taking part: “From Monday, 9 November 2026, for 6 weeks, 3 times a week.”</summary>
    public static string Terms(LocalDate startsOn, int weeks, int aWeek, CultureInfo culture) =>
        $"From {startsOn.ToString("dddd, d MMMM uuuu", culture)}, for {Say.Count(weeks, "week")}, {(aWeek == 1 ? "once" : $"{aWeek} times")} a week.";
}
