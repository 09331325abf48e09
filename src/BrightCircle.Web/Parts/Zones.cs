namespace BrightCircle.Web.Parts;

/// <summary>The time zones that people choose from.</summary>
public static class Zones
{
    /// <summary>Those of the tz database that are named for a place.</summary>
    public static IReadOnlyList<string> All { get; } = [.. NodaTime.TimeZones.TzdbDateTimeZoneSource.Default.ZoneLocations!.Select(l => l.ZoneId)
        .Append("UTC").Distinct().Order(StringComparer.Ordinal)];
}
