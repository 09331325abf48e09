using NodaTime;

namespace BrightCircle.Core.Community;

/// <summary>When somebody is told of what is said in a space.</summary>
public enum Telling
{
    /// <summary>Once a day, of the threads they follow.</summary>
    Followed,
    /// <summary>Within minutes, of every thread.</summary>
    AtOnce,
    /// <summary>Once a day, of every thread.</summary>
    Daily,
    /// <summary>Once a week, of every thread.</summary>
    Weekly,
    Never,
}

/// <summary>Of what somebody is told, and when.</summary>
public static class TellingRule
{
    /// <summary>The hour of the reader’s own day at which the letter of the day is written; on Mondays that of the week with it.</summary>
    public const int Hour = 18;
    public const IsoDayOfWeek WeeklyDay = IsoDayOfWeek.Monday;

    /// <summary>How much of the talk the letter of a day looks back over for somebody; null where it says nothing of a thread.</summary>
    /// <param name="follows">They follow the thread; false for one they want to hear nothing of; null where they said neither.</param>
    public static Duration? LooksBack(Telling telling, bool? follows, IsoDayOfWeek day) => (telling, follows) switch
    {
        (Telling.Never, _) or (_, false) => null,
        (Telling.Weekly, _) => day == WeeklyDay ? Duration.FromDays(7) : null,
        (Telling.Daily, _) => Duration.FromDays(1),
        (Telling.Followed, true) => Duration.FromDays(1),
        (Telling.Followed, null) => null,
        // What was told at once isn’t told again.
        (Telling.AtOnce, _) => null,
        _ => throw new ArgumentOutOfRangeException(nameof(telling), telling, "No such telling."),
    };

    /// <summary>Whether somebody is told within minutes.</summary>
    public static bool AtOnce(Telling telling, bool? follows) => telling == Telling.AtOnce && follows != false;
}
