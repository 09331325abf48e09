using BrightCircle.Core;
using BrightCircle.Core.Content;
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
