namespace BrightCircle.Core.Events;

/// <summary>What is told of a live session to those who come to it.</summary>
public enum SessionNewsKind
{
    /// <summary>It is a day away.</summary>
    Tomorrow,
    /// <summary>It begins in some minutes.</summary>
    Soon,
    /// <summary>It takes place at another time, or elsewhere.</summary>
    Moved,
    /// <summary>It doesn’t take place.</summary>
    Cancelled,
    /// <summary>Who waited has a seat.</summary>
    GotSeat,
}
