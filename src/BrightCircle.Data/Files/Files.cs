using BrightCircle.Core;
using NodaTime;

namespace BrightCircle.Data;

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

public enum FileUser { Lesson, Piece, Shelf, Site, Page, Letter, HouseLetter }

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
