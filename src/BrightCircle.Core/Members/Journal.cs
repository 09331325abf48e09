using BrightCircle.Core.Events;
using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>One event in a member's journal. Entries are only ever added, and have an order.</summary>
public sealed class JournalEntry
{
    public long Id { get; init; }
    /// <summary>Given by the database: of two entries of one member the later one has the higher number.</summary>
    public long Seq { get; init; }
    public MemberId? MemberId { get; init; }
    public Instant At { get; init; }
    /// <summary>The event's name, for filters.</summary>
    public string Kind { get; init; } = "";
    public required Event Event { get; init; }
    /// <summary>Who of the team did it; null where it happened by itself or the member did it.</summary>
    public string? By { get; init; }
}

/// <summary>A member's standing changed. Lines are only ever added.</summary>
public sealed class StandingChange
{
    public long Id { get; init; }
    public MemberId MemberId { get; init; }
    public Instant At { get; init; }
    public Standing? From { get; init; }
    public Standing To { get; init; }
    public PlanId? PlanId { get; init; }
}

/// <summary>A member's way with one lesson: opened, and perhaps done.</summary>
public sealed class Opening
{
    public MemberId MemberId { get; init; }
    public LessonId LessonId { get; init; }
    public Instant FirstAt { get; init; }
    public Instant LastAt { get; set; }
    public Instant? DoneAt { get; set; }
}
