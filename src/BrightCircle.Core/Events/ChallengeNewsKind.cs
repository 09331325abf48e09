namespace BrightCircle.Core.Events;

/// <summary>What is told of a challenge to those who take part.</summary>
public enum ChallengeNewsKind
{
    /// <summary>It begins today.</summary>
    Begins,
    /// <summary>It is over, and they reached the aim of every week.</summary>
    Finished,
    /// <summary>It is over.</summary>
    Over,
}
