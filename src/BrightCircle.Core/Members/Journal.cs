using NodaTime;

namespace BrightCircle.Core.Members;

public enum JournalKind { Joined, Returned, Paid, PaymentFailed, Refunded, ChargedBack, GaveGift, Left, Stayed, Ended, Lapsed, SignedIn, CardChanged, Finished, LetterRefused, Team }

/// <summary>One line of what happened to a member (or on the site, without one). Lines are only ever added.</summary>
public sealed class JournalEntry
{
    public long Id { get; init; }
    public MemberId? MemberId { get; init; }
    public Instant At { get; init; }
    public JournalKind Kind { get; init; }
    /// <summary>What happened, as a sentence part that stands after the member's name: "joined Keeper".</summary>
    public string Text { get; init; } = "";
    /// <summary>Who of the team did it; null where it happened by itself or the member did it.</summary>
    public string? By { get; init; }
    public PaymentId? PaymentId { get; init; }
    public PieceId? PieceId { get; init; }
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
