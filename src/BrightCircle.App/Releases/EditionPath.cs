using BrightCircle.Core.Content;

namespace BrightCircle.App.Releases;

/// <summary>An edition's address on the member side: /editions/2026-11 for a month, /editions/week-2026-11-09 for a week, /editions/day-2026-11-14 for a
/// day.</summary>
public static class EditionPath
{
    public static string Of(Edition e) => "/editions/" + Key(e);

    public static string Key(Edition e) => e.Span switch
    {
        EditionSpan.Month => e.FirstDay.ToString("uuuu-MM", null),
        EditionSpan.Week => "week-" + e.FirstDay.ToString("uuuu-MM-dd", null),
        _ => "day-" + e.FirstDay.ToString("uuuu-MM-dd", null),
    };
}
