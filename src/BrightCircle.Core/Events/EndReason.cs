namespace BrightCircle.Core.Events;

/// <summary>Why a holding is over.</summary>
public enum EndReason
{
    /// <summary>The member left.</summary>
    Left,
    /// <summary>Payments failed to the last retry.</summary>
    Lapsed,
    /// <summary>A gift's time ran out.</summary>
    RanOut,
    /// <summary>Given up for another plan.</summary>
    Replaced,
    /// <summary>The team ended it.</summary>
    EndedByTeam,
    Refunded,
    ChargedBack,
    /// <summary>The group's holder freed the seat.</summary>
    SeatFreed,
    /// <summary>What the group held is over.</summary>
    GroupOver,
    /// <summary>A change that was planned was taken back before it began.</summary>
    TakenBack,
    /// <summary>The order it came with was called off before its money was there.</summary>
    CalledOff,
}

public static class EndReasons
{
    /// <summary>Why a holding ended, to stand in a sentence.</summary>
    public static string Words(this EndReason reason) => reason switch
    {
        EndReason.Left => "left",
        EndReason.Lapsed => "payment failed",
        EndReason.RanOut => "its time ran out",
        EndReason.Replaced => "changed for another",
        EndReason.EndedByTeam => "ended by the team",
        EndReason.Refunded => "refunded",
        EndReason.ChargedBack => "charged back",
        EndReason.SeatFreed => "the seat was given to somebody else",
        EndReason.GroupOver => "the group’s time is over",
        EndReason.TakenBack => "taken back before it began",
        EndReason.CalledOff => "the order was called off",
    };
}
