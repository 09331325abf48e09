using BrightCircle.App.Files;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Data;
using BrightCircle.Web.House;
using NodaTime;

namespace BrightCircle.Web.Parts;

/// <summary>A lesson as it is read: its blocks, the outline beside it, what the reader did in it.</summary>
public sealed class LessonView
{
    public required BrightPage Page { get; init; }
    public required Piece Piece { get; init; }
    public required Lesson Lesson { get; init; }
    public required LessonReading Reading { get; init; }
    public required FileLinks Links { get; init; }
    /// <summary>The lessons the reader may know of, in order.</summary>
    public required Outline Outline { get; init; }
    /// <summary>For a single lesson: the other parts of its edition.</summary>
    public IReadOnlyList<Piece> Siblings { get; init; } = [];
    /// <summary>What was wrong with a form just sent: by block and question.</summary>
    public IReadOnlyDictionary<(BlockId, string), string> Wrong { get; init; } = new Dictionary<(BlockId, string), string>();
    public (BlockId Block, Dictionary<string, string> Answers)? Typed { get; init; }

    /// <summary>Who does things here: nobody while the team only looks.</summary>
    public MemberId? Member => Page.Visitor.Recorded;
    /// <summary>The team tries sheets and forms: they are answered, and nothing is kept.</summary>
    public bool IsTrying => Member is null && Page.Visitor.IsTeam;
    public bool CanAnswer => Member is not null || IsTrying;
    public Instant? DoneAt => Reading.DoneAt(Lesson.Id);
    public bool ByHand => DoneRules.MarkedByHand(Lesson.DoneWhen, Reading.Blocks);
    public Lesson? Previous => Outline.Before(Lesson.Id, l => Page.Decide(l).IsOpen);
    public Lesson? Next => Outline.After(Lesson.Id, l => Page.Decide(l).IsOpen);
    public Piece? PreviousPiece => Siblings.TakeWhile(p => p.Id != Piece.Id).LastOrDefault(p => Page.Decide(p).IsOpen);
    public Piece? NextPiece => Siblings.SkipWhile(p => p.Id != Piece.Id).Skip(1).FirstOrDefault(p => Page.Decide(p).IsOpen);
    public string FirstName => Page.Visitor.Person is { } p ? Core.Members.Member.FirstNameOf(p.Name) : "";
    public Progress Progress => Progress.Over(Outline.Lessons, l => Page.Decide(l).IsOpen, l => Reading.DoneAt(l) is not null);

    public FileState? File(FileId id) => Reading.Files.GetValueOrDefault(id);
    public string Src(FileState f, int? width = null) => Links.For(f, width);
    public string Html(string html) => RichTextFiles.WithAddresses(html, id => File(id) is { } f ? Links.For(f, 960) : "");

    /// <summary>Where the links of a lesson stand: a piece can have them all at its end.</summary>
    public IEnumerable<Block> Blocks => Piece.Resources == ResourcesPlace.AtTheEnd ? Reading.Blocks.OrderBy(b => b is Block.Links ? 1 : 0) : Reading.Blocks;

    /// <summary>The tally that finishing a follow-along offers to mark, as it stands for the reader.</summary>
    public TallyStanding? TallyOf(Block.Follow follow) => Page.Visitor.IsMember && follow.Run.Tally is { } id
        && Page.Now.TallyById.GetValueOrDefault(id) is { ArchivedAt: null } tally ? Page.StandingOf(tally, Reading.Tallies) : null;

    public string Week => FormRules.WeekOf(Page.Now.Calendar.Date(Page.Moment));
}
