namespace BrightCircle.Core.Events;

/// <summary>What is told of an hour that a member has with the host alone.</summary>
public enum HourNewsKind
{
    /// <summary>They booked it.</summary>
    Booked,
    /// <summary>They took another time.</summary>
    Moved,
    /// <summary>They gave it back.</summary>
    GaveBack,
    /// <summary>The team can’t.</summary>
    Cancelled,
    /// <summary>It is a day away.</summary>
    Tomorrow,
    /// <summary>It begins in some minutes.</summary>
    Soon,
}
