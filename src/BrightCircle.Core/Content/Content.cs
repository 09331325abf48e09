using NodaTime;

namespace BrightCircle.Core.Content;

/// <summary>A lasting theme of the content.</summary>
public sealed class Shelf
{
    public ShelfId Id { get; init; }
    public string Name { get; set; } = "";
    /// <summary>Two letters that stand for it beside its colour.</summary>
    public string Mark { get; set; } = "";
    /// <summary>One of the eight shelf colours, 1 to 8.</summary>
    public int Colour { get; set; } = 1;
    public int Order { get; set; }
    public string Description { get; set; } = "";
}

public enum PieceState { Draft, Ready, Released }

/// <summary>One published thing on a shelf; today a single lesson.</summary>
public sealed class Piece
{
    public PieceId Id { get; init; }
    public ShelfId ShelfId { get; set; }
    public EditionId? EditionId { get; set; }
    public string Title { get; set; } = "";
    public string Summary { get; set; } = "";
    /// <summary>The content address of its picture in the file store, or null.</summary>
    public string? Picture { get; set; }
    public string? PictureAlt { get; set; }
    public string? VideoUrl { get; set; }
    /// <summary>About how long it takes, in minutes; null where nobody said.</summary>
    public int? Minutes { get; set; }
    /// <summary>The author holds it finished: it may be released with its edition.</summary>
    public bool Ready { get; set; }
    /// <summary>The moment it opened to those whose promise covers it, UTC; null before.</summary>
    public Instant? ReleasedAt { get; private set; }
    /// <summary>Counts up with every saved change, so that nobody overwrites unseen.</summary>
    public int Version { get; set; }
    public Instant ChangedAt { get; set; }

    public PieceState State => ReleasedAt is not null ? PieceState.Released : Ready ? PieceState.Ready : PieceState.Draft;

    public void Release(Instant moment) => ReleasedAt ??= moment;
}

/// <summary>The text of a piece, kept apart so that outlines are read without it.</summary>
public sealed class PieceBody
{
    public PieceId PieceId { get; init; }
    /// <summary>Sanitised HTML.</summary>
    public string Html { get; set; } = "";
}

public enum EditionState { Draft, Scheduled, Released }

/// <summary>The content released for one month.</summary>
public sealed class Edition
{
    /// <summary>Where nobody chooses otherwise, editions open on the 1st at this local time.</summary>
    public static LocalTime DefaultTime { get; } = new(9, 0);

    public EditionId Id { get; init; }
    /// <summary>The first day of its month.</summary>
    public LocalDate MonthDate { get; init; }
    public YearMonth Month => MonthDate.ToYearMonth();
    public string Title { get; set; } = "";
    public string Opening { get; set; } = "";
    /// <summary>When it opens or opened, UTC.</summary>
    public Instant ReleaseAt { get; set; }
    public bool Scheduled { get; set; }
    public Instant? ReleasedAt { get; private set; }
    /// <summary>Whether the current members get a letter when it opens.</summary>
    public bool Announce { get; set; } = true;

    public EditionState State => ReleasedAt is not null ? EditionState.Released : Scheduled ? EditionState.Scheduled : EditionState.Draft;

    public void Release(Instant moment) => ReleasedAt ??= moment;
}
