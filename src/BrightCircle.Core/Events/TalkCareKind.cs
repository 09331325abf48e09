namespace BrightCircle.Core.Events;

/// <summary>How the team sees to what somebody wrote in a space.</summary>
public enum TalkCareKind
{
    /// <summary>Words of theirs were taken away.</summary>
    TakenAway,
    /// <summary>They were told what doesn’t belong; what they wrote stands.</summary>
    Warned,
    /// <summary>They can’t write for a time.</summary>
    Barred,
}
