using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using NodaTime;

namespace BrightCircle.Data;

/// <summary>What stands in a lesson, kept apart so that outlines are read without it.</summary>
public sealed class LessonContent
{
    public LessonId LessonId { get; init; }
    public IReadOnlyList<Block> Blocks { get; set; } = [];
}

/// <summary>A lesson as it was saved once. Every saved version is kept.</summary>
public sealed class LessonVersion
{
    public long Id { get; init; }
    public LessonId LessonId { get; init; }
    public int Version { get; init; }
    public Instant At { get; init; }
    public string By { get; init; } = "";
    public string Title { get; init; } = "";
    public IReadOnlyList<Block> Blocks { get; init; } = [];
}

/// <summary>A lesson kept as a pattern: new lessons can start from it.</summary>
public sealed class LessonPattern
{
    public long Id { get; init; }
    public string Name { get; set; } = "";
    public int? Minutes { get; init; }
    public DoneWhen DoneWhen { get; init; }
    public IReadOnlyList<Block> Blocks { get; init; } = [];
    public Instant CreatedAt { get; init; }
}

/// <summary>Somebody of the team has a lesson open in the editor.</summary>
public sealed class Editing
{
    public LessonId LessonId { get; init; }
    public long AccountId { get; init; }
    public string Name { get; init; } = "";
    public Instant At { get; set; }
}

public enum FileKind { Picture, Video, Audio, Document }

/// <summary>A file of the site: a name and facts for what the file store keeps by its content.</summary>
public sealed class StoredFile
{
    public FileId Id { get; init; }
    /// <summary>Where the file store has it.</summary>
    public string Address { get; set; } = "";
    public string Name { get; set; } = "";
    public string MediaType { get; set; } = "";
    public FileKind Kind { get; set; }
    public long Bytes { get; set; }
    public int? Width { get; set; }
    public int? Height { get; set; }
    /// <summary>What a picture shows, for those who can't see it.</summary>
    public string Alt { get; set; } = "";
    /// <summary>A picture's smaller sizes: width in pixels to address.</summary>
    public Dictionary<string, string> Sizes { get; set; } = [];
    public Instant AddedAt { get; init; }
    public string AddedBy { get; init; } = "";
    public Instant? ReplacedAt { get; set; }
}

public enum FileUser { Lesson, Piece, Shelf }

/// <summary>Where a file is used.</summary>
public sealed class FileUse
{
    public FileId FileId { get; init; }
    public FileUser User { get; init; }
    public long UserId { get; init; }
}

/// <summary>A file on its way up in parts.</summary>
public sealed class Upload
{
    public long Id { get; init; }
    public string Name { get; init; } = "";
    public long Bytes { get; init; }
    public long Received { get; set; }
    public long AccountId { get; init; }
    public Instant StartedAt { get; init; }
    public FileId? FileId { get; set; }
}

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

/// <summary>An import on its way or done: any node can say how far it is.</summary>
public sealed class ImportRun
{
    public long Id { get; init; }
    public Instant StartedAt { get; init; }
    /// <summary>When the node that runs it last wrote; one that is silent for long is gone.</summary>
    public Instant BeatAt { get; set; }
    /// <summary>The dry run before it; each is done for real once.</summary>
    public long? DryId { get; init; }
    public bool Dry { get; init; }
    public string Name { get; init; } = "";
    /// <summary>The file it reads, in the folder of uploads.</summary>
    public string Path { get; init; } = "";
    public string Kind { get; init; } = "zip";
    public string Piece { get; init; } = "";
    public int Done { get; set; }
    public int Of { get; set; }
    /// <summary>What came of it, as JSON; null as long as it runs, and where it failed.</summary>
    public string? Report { get; set; }
    public string? Failed { get; set; }
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

/// <summary>What is found when somebody searches: the words of a piece or of one of its lessons.</summary>
public sealed class SearchText
{
    public long Id { get; init; }
    public PieceId PieceId { get; init; }
    public LessonId? LessonId { get; init; }
    public string Title { get; set; } = "";
    public string Body { get; set; } = "";
    public string Transcript { get; set; } = "";
}

/// <summary>What an edition is aimed to hold: "2 courses a month".</summary>
/// <param name="What">What counts.</param>
/// <param name="Shelf">Only on this shelf; null for any.</param>
public sealed record CadenceTarget(int Count, CadenceUnit What, long? Shelf);

public enum CadenceUnit { Pieces, Courses, Lessons }
