using System.Globalization;
using NodaTime;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Offer;

/// <summary>A pace in words.</summary>
public static class PaceWords
{
    static readonly CultureInfo English = CultureInfo.GetCultureInfo("en-GB");

    /// <summary>"one lesson every 7 days at 09:00", "a module on the first of each month", "all at once".</summary>
    public static string Describe(Pace pace) => pace switch
    {
        Pace.AtOnce { AfterPrevious: false } => "all at once",
        Pace.AtOnce => "each as soon as the one before it is done",
        Pace.Steps s => One(s.Part) + " " + Every(s) + (s.At is { } at ? $" at {Time(at)}" : "") + From(s) + Lead(s.Lead) + Done(s),
        Pace.OnDates d => One(d.Part) + (d.Dates.Count == 0 ? " on dates that aren’t named yet" : d.Dates.Count == 1
            ? $" on {Day(d.Dates[0])}" : $" on {d.Dates.Count} dates from {Day(d.Dates[0])}") + Done(d),
        _ => throw new InvalidOperationException($"No such pace: {pace}"),
    };

    static string One(PacePart part) => part switch { PacePart.Lesson => "one lesson", PacePart.Module => "one module" };

    static string Every(Pace.Steps s) => (s.Unit, s.Every) switch
    {
        (PaceUnit.Days, 1) => "a day",
        (PaceUnit.Days, _) => $"every {s.Every} days",
        (PaceUnit.Weekdays, 1) => "each weekday",
        (PaceUnit.Weekdays, _) => $"every {s.Every} weekdays",
        (PaceUnit.Weeks, 1) => "a week",
        (PaceUnit.Weeks, _) => $"every {s.Every} weeks",
        (PaceUnit.Months, 1) => "a month",
        (PaceUnit.Months, _) => $"every {s.Every} months",
        (PaceUnit.FirstsOfMonth, 1) => "on the first of each month",
        (PaceUnit.FirstsOfMonth, _) => $"on the first of every {s.Every} months",
        _ => throw new InvalidOperationException($"No such unit: {s.Unit}"),
    };

    static string From(Pace.Steps s) => s.From switch { PaceFrom.Joining => "", PaceFrom.Cohort => ", from the start of their group" };
    static string Lead(int days) => days == 0 ? "" : $", the first after {Period.Days(days)}";
    static string Done(Pace pace) => pace.AfterPrevious ? ", when the one before it is done" : "";
    static string Time(LocalTime at) => at.ToString("HH:mm", CultureInfo.InvariantCulture);
    static string Day(LocalDateTime at) => at.ToString("d MMMM uuuu", English);
}
