using NodaTime;

namespace BrightCircle.Core.Content;

/// <summary>A lasting theme of the content.</summary>
public sealed class Shelf
{
    /// <summary>A shelf that holds more pieces than this is hard to find one's way on.</summary>
    public const int Comfortable = 40;

    public ShelfId Id { get; init; }
    public string Name { get; set; } = "";
    /// <summary>Two letters that stand for it beside its colour.</summary>
    public string Mark { get; set; } = "";
    /// <summary>One of the eight shelf colours, 1 to 8.</summary>
    public int Colour { get; set; } = 1;
    public int Order { get; set; }
    public string Description { get; set; } = "";
    /// <summary>The picture that stands for it, or null.</summary>
    public FileId? Cover { get; set; }
    /// <summary>What those meet who may not open something on it; null for the site's.</summary>
    public DoorwayWish? Doorway { get; set; }
}

/// <summary>Of a piece as of a lesson: in the making, finished by its author, open to those whose promise covers it.</summary>
public enum PieceState { Draft, Ready, Released }

/// <summary>How much a piece asks of those who take part.</summary>
public enum Difficulty { Anyone, Beginner, Practised, Expert }

/// <summary>Where the links of a lesson stand.</summary>
public enum ResourcesPlace { WhereWritten, AtTheEnd }

/// <summary>One published thing on a shelf: a single lesson, or a course of modules and lessons.</summary>
public sealed class Piece
{
    public PieceId Id { get; init; }
    public ShelfId ShelfId { get; set; }
    public EditionId? EditionId { get; set; }
    public string Title { get; set; } = "";
    public string Subtitle { get; set; } = "";
    public string Summary { get; set; } = "";
    /// <summary>Its cover, or null.</summary>
    public FileId? Cover { get; set; }
    /// <summary>What the owner calls a module here: "Module", "Week", "Day", "Chapter".</summary>
    public string ModuleWord { get; set; } = "Module";
    public Difficulty Difficulty { get; set; }
    /// <summary>What members will have learned, one thing a line.</summary>
    public string Learn { get; set; } = "";
    public string ForWhom { get; set; } = "";
    /// <summary>Who helps with this piece; the site's help address where empty.</summary>
    public string SupportAddress { get; set; } = "";
    public string Terms { get; set; } = "";
    /// <summary>How many can take part; null for as many as like.</summary>
    public int? Places { get; set; }
    /// <summary>Whether members may ask under its lessons.</summary>
    public bool QuestionsOn { get; set; }
    /// <summary>A video anybody can watch, by its full address.</summary>
    public string? TrailerUrl { get; set; }
    /// <summary>What stands after the last lesson.</summary>
    public string EndNote { get; set; } = "";
    public string? EndLink { get; set; }
    public string EndLinkText { get; set; } = "";
    /// <summary>Whoever completes it can print a certificate.</summary>
    public bool Certificate { get; set; }
    /// <summary>Makes copying by accident harder. It can't stop anybody who wants to copy.</summary>
    public bool CopyGuard { get; set; }
    public ResourcesPlace Resources { get; set; }
    /// <summary>Words under which it is found, in lower case.</summary>
    public string[] Tags { get; set; } = [];
    /// <summary>The pattern from which another lesson in it starts; null where none is chosen.</summary>
    public long? PatternId { get; set; }
    /// <summary>Who is working on it, for the board.</summary>
    public string WorkedOnBy { get; set; } = "";
    /// <summary>The author holds it finished: it may be released with its edition.</summary>
    public bool Ready { get; set; }
    /// <summary>The moment it opened to those whose promise covers it, UTC; null before.</summary>
    public Instant? ReleasedAt { get; private set; }
    /// <summary>Without an edition: the planned moment of its release, UTC; null where none is planned.</summary>
    public Instant? OpensAt { get; set; }
    /// <summary>Without an edition: it counts for its date, so whoever joins later doesn't get it with a reach from joining. Else it stands open to them
    /// too.</summary>
    public bool Dated { get; set; }
    /// <summary>Counts up with every saved change, so that nobody overwrites unseen.</summary>
    public int Version { get; set; }
    public Instant ChangedAt { get; set; }
    /// <summary>Everybody may open it once it is out, with what is added to it later.</summary>
    public bool OpenToAll { get; set; }
    /// <summary>When it may be opened at all; null for always.</summary>
    public Window? Window { get; set; }
    /// <summary>What isn't open yet to somebody is left out of their outline, instead of standing there closed with its date.</summary>
    public bool HidesComing { get; set; }
    /// <summary>What those meet who may not open it; null for its shelf's.</summary>
    public DoorwayWish? Doorway { get; set; }
    /// <summary>When it was put into the trash, from which it can come back; null while it isn't there.</summary>
    public Instant? TrashedAt { get; set; }

    /// <summary>Its modules and lessons, as of the same version. Where a piece was read without them it is empty.</summary>
    public Outline Outline { get; private set; } = Outline.Empty;

    public PieceState State => ReleasedAt is not null ? PieceState.Released : Ready ? PieceState.Ready : PieceState.Draft;
    /// <summary>All its lessons together, in minutes; null where not a single one says how long it takes.</summary>
    public int? Minutes => Outline.Minutes;
    /// <summary>It has more than one lesson, or modules.</summary>
    public bool IsCourse => Outline.IsCourse;

    public void Release(Instant moment) => ReleasedAt ??= moment;
    /// <summary>Closes it again: nobody but the team sees it until it is released anew.</summary>
    public void Withdraw() => ReleasedAt = null;
    public void Attach(Outline outline) => Outline = outline;

    /// <summary>
    /// The piece as access sees it, as if it were released at a moment with all that is ready in it, or not at all; nothing else of it is there.
    /// </summary>
    public Piece AsReleased(Instant? at)
    {
        var copy = new Piece
        {
            Id = Id,
            ShelfId = ShelfId,
            EditionId = EditionId,
            Places = Places,
            Dated = Dated,
            OpenToAll = OpenToAll,
            Window = Window,
            Ready = Ready && at is not null,
        };
        if (at is { } moment) copy.Release(ReleasedAt ?? moment);
        copy.Attach(Outline.Of(Outline.Modules, Outline.Lessons.Select(l => l.AsReleased(at, waits: l.EditionId is { } e && e != EditionId))));
        return copy;
    }
}

/// <summary>When something may be opened, beside what opens it.</summary>
/// <param name="From">Not before this moment, UTC.</param>
/// <param name="Until">Not any more from this moment on, UTC.</param>
/// <param name="Days">For each member not any more so many calendar days after it opened for them.</param>
public sealed record Window(Instant? From = null, Instant? Until = null, int? Days = null)
{
    public const int MostDays = 1000;
}

/// <summary>A named group of lessons in a course.</summary>
public sealed class Module
{
    public ModuleId Id { get; init; }
    public PieceId PieceId { get; set; }
    public string Title { get; set; } = "";
    /// <summary>Where it stands among the piece's modules.</summary>
    public int Position { get; set; }
    /// <summary>The earliest place among the modules that it ever had while in a pace; −1 for its present one.</summary>
    public int Step { get; set; } = -1;
    public Instant? TrashedAt { get; set; }
}

/// <summary>What makes a lesson count as done.</summary>
public enum DoneWhen
{
    /// <summary>The member says so.</summary>
    Marked,
    /// <summary>Opening it is enough.</summary>
    Opened,
    /// <summary>All its practice sheets are passed.</summary>
    SheetPassed,
    /// <summary>All its videos and recordings were played to 90 %.</summary>
    Watched,
}

/// <summary>One lesson of a piece, without what stands in it.</summary>
public sealed class Lesson
{
    public LessonId Id { get; init; }
    public PieceId PieceId { get; set; }
    /// <summary>Its module; null for lessons that stand before the first one.</summary>
    public ModuleId? ModuleId { get; set; }
    /// <summary>Where it stands in its module.</summary>
    public int Position { get; set; }
    public string Title { get; set; } = "";
    /// <summary>About how long it takes, in minutes; null where nobody said.</summary>
    public int? Minutes { get; set; }
    /// <summary>
    /// The earliest place in the piece that it was settled at; −1 for its present one. A pace counts by the earlier of the two, so that nothing
    /// that is added or moved closes an open lesson.
    /// </summary>
    public int Step { get; set; } = -1;
    /// <summary>When it may be opened at all; null for always.</summary>
    public Window? Window { get; set; }
    /// <summary>Open to everyone as soon as it is released, although its piece isn't.</summary>
    public bool Teaser { get; set; }
    public DoneWhen DoneWhen { get; set; }
    /// <summary>An edition of its own, later than its piece's; null where it opens with the piece.</summary>
    public EditionId? EditionId { get; set; }
    public bool Ready { get; set; }
    public Instant? ReleasedAt { get; private set; }
    public int Version { get; set; }
    public Instant ChangedAt { get; set; }
    public string ChangedBy { get; set; } = "";
    public Instant? TrashedAt { get; set; }
    /// <summary>What kinds of blocks are in it, as a short list for outlines and cards: "video, practice sheet".</summary>
    public string Kinds { get; set; } = "";

    public PieceState State => ReleasedAt is not null ? PieceState.Released : Ready ? PieceState.Ready : PieceState.Draft;

    public void Release(Instant moment) => ReleasedAt ??= moment;
    public void Withdraw() => ReleasedAt = null;

    /// <param name="waits">It opens with an edition of its own.</param>
    internal Lesson AsReleased(Instant? at, bool waits)
    {
        var copy = new Lesson
        {
            Id = Id,
            PieceId = PieceId,
            ModuleId = ModuleId,
            Position = Position,
            Step = Step,
            Window = Window,
            Teaser = Teaser,
            EditionId = EditionId,
            Ready = Ready,
        };
        if (ReleasedAt is { } was && at is not null) copy.Release(was);
        else if (at is { } moment && Ready && !waits) copy.Release(moment);
        return copy;
    }
}

public enum EditionState { Draft, Scheduled, Released }

/// <summary>What stretch of time an edition is for.</summary>
public enum EditionSpan
{
    Month,
    /// <summary>A week of ISO 8601, from its Monday.</summary>
    Week,
    /// <summary>A day of its own, for something between the others.</summary>
    Day,
}

/// <summary>The content released for one month (or week, or on one day).</summary>
public sealed class Edition
{
    /// <summary>Where nobody chooses otherwise, editions open on their first day at this local time.</summary>
    public static LocalTime DefaultTime { get; } = new(9, 0);

    public EditionId Id { get; init; }
    public EditionSpan Span { get; init; }
    /// <summary>Its first day: the 1st of its month, the Monday of its week, or the day.</summary>
    public LocalDate FirstDay { get; init; }
    /// <summary>The month it belongs to on the ring and the ribbon: that of its first day.</summary>
    public YearMonth Month => FirstDay.ToYearMonth();
    public string Title { get; set; } = "";
    public string Opening { get; set; } = "";
    /// <summary>When it opens or opened, UTC.</summary>
    public Instant ReleaseAt { get; set; }
    public bool Scheduled { get; set; }
    public Instant? ReleasedAt { get; private set; }
    /// <summary>Whether the current members get a letter when it opens.</summary>
    public bool Announce { get; set; } = true;
    /// <summary>When the letter went out; null before, and where none was wanted.</summary>
    public Instant? AnnouncedAt { get; set; }

    public EditionState State => ReleasedAt is not null ? EditionState.Released : Scheduled ? EditionState.Scheduled : EditionState.Draft;

    public void Release(Instant moment) => ReleasedAt ??= moment;
    /// <summary>Takes it back to a draft.</summary>
    public void Withdraw() => (ReleasedAt, Scheduled) = (null, false);

    /// <summary>The day that an edition of a span which has the given day in it begins on.</summary>
    public static LocalDate FirstDayOf(EditionSpan span, LocalDate day) => span switch
    {
        EditionSpan.Month => day.With(DateAdjusters.StartOfMonth),
        EditionSpan.Week => day.With(DateAdjusters.PreviousOrSame(IsoDayOfWeek.Monday)),
        EditionSpan.Day => day,
        _ => throw new ArgumentOutOfRangeException(nameof(span)),
    };

    /// <summary>The last day of its span.</summary>
    public LocalDate LastDay => Span switch
    {
        EditionSpan.Month => FirstDay.With(DateAdjusters.EndOfMonth),
        EditionSpan.Week => FirstDay.PlusDays(6),
        EditionSpan.Day => FirstDay,
        _ => throw new InvalidOperationException($"No such span: {Span}"),
    };

    /// <summary>How an edition without a title is called: "March 2027", "Week 12, 2027" (ISO 8601), "14 March 2027".</summary>
    public static string NameFor(EditionSpan span, LocalDate firstDay, System.Globalization.CultureInfo culture) => span switch
    {
        EditionSpan.Month => firstDay.ToString("MMMM uuuu", culture),
        EditionSpan.Week =>
            $"Week {NodaTime.Calendars.WeekYearRules.Iso.GetWeekOfWeekYear(firstDay)}, {NodaTime.Calendars.WeekYearRules.Iso.GetWeekYear(firstDay)}",
        _ => firstDay.ToString("d MMMM uuuu", culture),
    };
}
