using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>What a newcomer is asked to do first, in this order.</summary>
public enum FirstStep
{
    /// <summary>Saying hello: a few words, which the team answers.</summary>
    Hello,
    /// <summary>Saying where one is, so that days and weeks begin there.</summary>
    Zone,
    /// <summary>What the owner asks members about themselves.</summary>
    About,
    /// <summary>The piece a plan starts with.</summary>
    StartHere,
}

/// <summary>The first steps of newcomers. The owner chooses which; the piece to start with comes with the plan.</summary>
public static class FirstSteps
{
    /// <summary>For so many days after somebody came they are shown. The piece to start with stays until it is done, or put away.</summary>
    public const int Days = 30;
    /// <summary>The most letters of a hello.</summary>
    public const int MostHello = 300;

    /// <summary>Whether somebody is a newcomer still.</summary>
    /// <param name="came">When their account was made; null where that isn't known.</param>
    public static bool IsNew(Instant? came, Instant now) => came is { } at && now < at + Duration.FromDays(Days);

    /// <summary>What of it is shown to somebody; empty once nothing is left to do.</summary>
    /// <param name="chosen">By the owner.</param>
    /// <param name="did">What they did.</param>
    /// <param name="putAway">What they didn't do, and don't want to see any more.</param>
    /// <param name="asksAbout">There is something the owner asks.</param>
    /// <param name="hasStart">A plan they hold has a piece to start with, and they may open it.</param>
    /// <param name="startDone">And have done it.</param>
    /// <param name="came">When their account was made; null where that isn't known.</param>
    public static IReadOnlyList<(FirstStep Step, bool Done)> For(IReadOnlyList<FirstStep> chosen, IReadOnlySet<FirstStep> did,
        IReadOnlySet<FirstStep> putAway, bool asksAbout, bool hasStart, bool startDone, Instant? came, Instant now)
    {
        var steps = new List<(FirstStep Step, bool Done)>();
        if (IsNew(came, now))
            foreach (var step in chosen.Distinct().Order())
                if (step != FirstStep.StartHere && (step != FirstStep.About || asksAbout) && !putAway.Contains(step)) steps.Add((step, did.Contains(step)));
        if (hasStart && !putAway.Contains(FirstStep.StartHere)) steps.Add((FirstStep.StartHere, startDone));
        return steps.All(s => s.Done) ? [] : steps;
    }
}
