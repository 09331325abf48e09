using BrightCircle.Core;
using BrightCircle.Core.Learning;
using NodaTime;

namespace BrightCircle.Data;

/// <summary>A practice sheet handed in: one try.</summary>
public sealed class SheetTry
{
    public long Id { get; init; }
    public BlockId BlockId { get; init; }
    public LessonId LessonId { get; init; }
    public MemberId MemberId { get; init; }
    /// <summary>1 for the first.</summary>
    public int Number { get; init; }
    public Instant At { get; init; }
    public Dictionary<string, Answer> Answers { get; init; } = [];
    /// <summary>What the team gave for open answers.</summary>
    public Dictionary<string, Mark> Marks { get; set; } = [];
    public SheetResult Result { get; set; } = null!;
    /// <summary>Open answers nobody has read yet.</summary>
    public int Waiting { get; set; }
    public bool? Passed { get; set; }
    public string? MarkedBy { get; set; }
    public Instant? MarkedAt { get; set; }
}

/// <summary>Answers begun and not yet handed in.</summary>
public sealed class SheetDraft
{
    public BlockId BlockId { get; init; }
    public MemberId MemberId { get; init; }
    public Dictionary<string, Answer> Answers { get; set; } = [];
    public Instant At { get; set; }
}

/// <summary>A form answered by one member, once or for one week.</summary>
public sealed class FormEntry
{
    public long Id { get; init; }
    public BlockId BlockId { get; init; }
    public LessonId LessonId { get; init; }
    public MemberId MemberId { get; init; }
    /// <summary>Empty, or the ISO 8601 week.</summary>
    public string Turn { get; init; } = "";
    public Dictionary<string, string> Answers { get; set; } = [];
    public Instant At { get; set; }
}

/// <summary>One "I did it" of a member.</summary>
public sealed class TallyMark
{
    public long Id { get; init; }
    public TallyId TallyId { get; init; }
    public MemberId MemberId { get; init; }
    public Instant At { get; init; }
    /// <summary>The day it was there for the member, kept so that moving to another zone changes no week that has been.</summary>
    public LocalDate Day { get; init; }
    /// <summary>The follow-along it was done with, and which of its runs: one run is marked once.</summary>
    public BlockId? BlockId { get; init; }
    public int? Run { get; init; }
}

/// <summary>How far a member has played a recording, or how often they finished a follow-along.</summary>
public sealed class Played
{
    public BlockId BlockId { get; init; }
    public LessonId LessonId { get; init; }
    public MemberId MemberId { get; init; }
    /// <summary>Where to go on, in seconds.</summary>
    public int Position { get; set; }
    /// <summary>The furthest share played, 0 to 1.</summary>
    public double Share { get; set; }
    /// <summary>For a follow-along: how often it was finished.</summary>
    public int Times { get; set; }
    public Instant At { get; set; }
}

/// <summary>A member's own note beside a lesson.</summary>
public sealed class Note
{
    public MemberId MemberId { get; init; }
    public LessonId LessonId { get; init; }
    public string Text { get; set; } = "";
    public Instant At { get; set; }
}

public sealed class Bookmark
{
    public MemberId MemberId { get; init; }
    public LessonId LessonId { get; init; }
    public Instant At { get; init; }
}

/// <summary>A question under a lesson, or an answer to one.</summary>
public sealed class LessonQuestion
{
    public long Id { get; init; }
    public LessonId LessonId { get; init; }
    /// <summary>The question it answers; null for a question.</summary>
    public long? AnswersId { get; init; }
    public long AccountId { get; init; }
    public string Name { get; init; } = "";
    public bool ByTeam { get; init; }
    public string Text { get; init; } = "";
    public Instant At { get; init; }
    /// <summary>Taken away by the team; the row stays.</summary>
    public Instant? HiddenAt { get; set; }
    /// <summary>For a question: the team has seen to it.</summary>
    public Instant? SettledAt { get; set; }
}

/// <summary>A member's place in a piece that has only so many, or on its waiting list.</summary>
public sealed class PiecePlace
{
    public PieceId PieceId { get; init; }
    public MemberId MemberId { get; init; }
    public Instant At { get; init; }
    public bool Waiting { get; set; }
}
