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

    /// <summary>What of it is shown to somebody; empty once nothing is left to do.</summary>
    /// <param name="chosen">By the owner.</param>
    /// <param name="settled">What they did or put away.</param>
    /// <param name="asksAbout">There is something the owner asks.</param>
    /// <param name="hasStart">A plan they hold has a piece to start with, and they may open it.</param>
    /// <param name="startDone">And have done it.</param>
    /// <param name="came">When their account was made; null where that isn't known.</param>
    /// <param name="putAway">Of what is settled, what they didn't do.</param>
    public static IReadOnlyList<(FirstStep Step, bool Done)> For(IReadOnlyList<FirstStep> chosen, IReadOnlySet<FirstStep> settled,
        IReadOnlySet<FirstStep> putAway, bool asksAbout, bool hasStart, bool startDone, Instant? came, Instant now)
    {
        var isNew = came is { } at && now < at + Duration.FromDays(Days);
        var steps = new List<(FirstStep Step, bool Done)>();
        if (isNew)
            foreach (var step in chosen.Distinct().Order())
                if (step != FirstStep.StartHere && (step != FirstStep.About || asksAbout) && !putAway.Contains(step)) steps.Add((step, settled.Contains(step)));
        if (hasStart && !putAway.Contains(FirstStep.StartHere)) steps.Add((FirstStep.StartHere, startDone));
        return steps.All(s => s.Done) ? [] : steps;
    }
}
