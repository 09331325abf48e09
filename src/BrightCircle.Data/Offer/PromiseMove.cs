using BrightCircle.Core;
using NodaTime;

namespace BrightCircle.Data;

/// <summary>One act of moving those who hold a plan to a version of its promise; it can be taken back as a whole.</summary>
public sealed class PromiseMove
{
    public long Id { get; init; }
    public PlanId PlanId { get; init; }
    public int To { get; init; }
    public Instant At { get; init; }
    public string By { get; init; } = "";
    /// <summary>How many were moved, so far while it goes on.</summary>
    public int Moved { get; set; }
    /// <summary>All are moved.</summary>
    public bool Done { get; set; }
    public Instant? TakenBackAt { get; set; }
}
