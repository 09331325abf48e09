using NodaTime;

namespace BrightCircle.Data;

public enum ClockMoveState { Running, Done, Failed }

/// <summary>One moving-forward of the house clock, with what happened on the way.</summary>
public sealed class ClockMove
{
    public long Id { get; init; }
    public Instant FromMoment { get; init; }
    public Instant ToMoment { get; init; }
    public Instant Reached { get; set; }
    public ClockMoveState State { get; set; }
    public Dictionary<string, long> Counts { get; set; } = [];
    public string? Error { get; set; }
}
