using NodaTime;

namespace BrightCircle.Core.Community;

/// <summary>When something in the talk wants somebody of the team. The numbers are common practice: a day is what people who ask bear, a month is when nobody
/// waits any more, and five posts in two months is somebody who takes part.</summary>
public static class TalkRules
{
    /// <summary>So long after it was written it is said that nobody has answered; and so far back.</summary>
    public static readonly Duration After = Duration.FromDays(1), Back = Duration.FromDays(30);
    /// <summary>Quiet for so long, after so many posts in so long before.</summary>
    public static readonly Duration Quiet = Duration.FromDays(30), Before = Duration.FromDays(60);
    public const int Usual = 5;

    /// <summary>From when to when something has waited long enough, and not so long that nobody waits any more.</summary>
    public static (Instant From, Instant To) Waits(Instant at) => (at - Back, at - After);

    /// <summary>From when on somebody’s posts count, and since when they have said nothing.</summary>
    public static (Instant From, Instant Since) Silent(Instant at) => (at - Quiet - Before, at - Quiet);
}
