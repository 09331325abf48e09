using BrightCircle.Core.Offer;

namespace BrightCircle.App.Access;

/// <summary>What a pace may say.</summary>
static class PaceLimits
{
    /// <summary>A sentence about what is wrong with it; null where nothing is.</summary>
    public static string? Wrong(Pace pace) => pace switch
    {
        Pace.Steps { Every: < 1 or > Pace.Most } => $"A step is a number from 1 to {Pace.Most}.",
        Pace.Steps { Lead: < 0 or > Pace.Most } => $"The first part waits 0 to {Pace.Most} days.",
        Pace.OnDates { Dates.Count: > Pace.MostDates } => $"{Pace.MostDates} dates are the most.",
        Pace.OnDates d when d.Dates.Any(x => x.Year is < 2000 or > 2200) => "Choose dates within reason.",
        Pace.OnDates d when !d.Dates.SequenceEqual(d.Dates.Order()) => "Put the dates in their order.",
        _ => null,
    };
}
