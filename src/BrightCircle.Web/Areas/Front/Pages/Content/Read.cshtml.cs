using BrightCircle.App.Files;
using BrightCircle.App.Learning;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>One piece: a single lesson to read, or a course's own page with its outline; its doorway where it is locked, nothing where it is hidden.</summary>
public sealed class ReadModel(MemberReader reader, FileLinks links, PiecePlaces places) : BrightPage
{
    public override bool KeptOffline => Doorway is null;
    public Piece Piece { get; private set; } = null!;
    public Shelf Shelf => Now.ShelfById[Piece.ShelfId];
    public Edition? Edition => Now.EditionOf(Piece);
    /// <summary>The single lesson, where there is one and it is open.</summary>
    public LessonView? Lesson { get; private set; }
    public Doorway? Doorway { get; private set; }
    /// <summary>The lessons the visitor may know of.</summary>
    public Outline Outline { get; private set; } = Outline.Empty;
    public IReadOnlyDictionary<LessonId, OpeningState> Openings { get; private set; } = new Dictionary<LessonId, OpeningState>();
    /// <summary>How long what they may know of takes; drafts don't count.</summary>
    public int? KnownMinutes => Outline.Minutes;
    public PieceWay Way => WayOf(Piece, Openings);
    public PlaceState? Places { get; private set; }
    /// <summary>It would be open to them, but for the place they don't have.</summary>
    public bool NeedsPlace => Decide(Piece).Rule == AccessRule.NoPlace;
    /// <summary>The parts of the same edition that the visitor may know of, in order.</summary>
    public IReadOnlyList<Piece> Siblings => [.. (Piece.EditionId is { } e ? Now.PartsOf[e] : [Piece])
        .Where(p => p.ReleasedAt is not null && Decide(p).IsKnown)];

    public async Task<IActionResult> OnGet(long id, string? price)
    {
        if (!Find(id)) return NotFound();
        if (Piece.Places is not null) Places = await reader.Places(Piece.Id, Visitor.Member, Ct);
        var open = Decide(Piece).IsOpen || NeedsPlace;
        if (Outline is { IsCourse: false, Lessons: [var only] } && Decide(only).IsOpen)
        {
            Lesson = await LessonLoader.Load(this, reader, links, Piece, only, Siblings);
            return Lesson is null ? NotFound() : Page();
        }
        if (!open)
        {
            Doorway = Doorway.For(this, Piece, null, price, Places);
            if (Doorway.Answer(HttpContext) is { } elsewhere) return elsewhere;
            Doorway = await Doorway.WithExtract(reader, Outline is { IsCourse: false, Lessons: [var begins] } ? begins : null, Ct);
        }
        if (Visitor.Member is { } member) Openings = await reader.Openings(member, Ct);
        return Page();
    }

    public async Task<IActionResult> OnPostPlace(long id, bool give)
    {
        if (!Find(id)) return NotFound();
        // A place can be given up whatever is held by now; it is taken by whoever may.
        if (give)
        {
            if (Visitor.Recorded is not { } member) return NotFound();
            await places.GiveUp(member, Piece.Id, Ct);
            Tell("Your place is free for somebody else.");
        }
        else
        {
            if (Visitor.Takes(Now, Piece.Id, Moment) is not { } by) return NotFound();
            var got = await places.Take(by, Ct);
            Tell(!got.Ok ? got.Refusal! : got.Value ? "You have a place." : "You’re on the waiting list; we’ll write when a place is free.");
        }
        return Redirect(PathOf(Piece));
    }

    bool Find(long id)
    {
        if (!Now.PieceById.TryGetValue(new PieceId(id), out var piece)) return false;
        Piece = piece;
        Outline = LessonLoader.Known(this, piece);
        return Decide(piece).IsKnown;
    }
}

/// <summary>Loads a lesson to read, for whichever page shows it: one round trip.</summary>
public static class LessonLoader
{
    /// <summary>The lessons of a piece that the visitor may know of: those out, and for the team all.</summary>
    public static Outline Known(BrightPage page, Piece piece)
    {
        var team = page.Visitor is { IsTeam: true, IsLooking: false };
        // Where the owner wants it, what isn't somebody's turn yet is left out.
        var known = piece.Outline.Where(l => team || page.Decide(l) is { IsKnown: true } d
            && !(piece.HidesComing && d is { State: AccessState.OpensAt, Rule: AccessRule.Paced }));
        // A module in which there is nothing to know of isn't shown.
        return team ? known : Outline.Of(known.Parts.Where(p => p.Module is not null && p.Lessons.Count > 0).Select(p => p.Module!), known.Lessons);
    }

    public static async Task<LessonView?> Load(BrightPage page, MemberReader reader, FileLinks links, Piece piece, Lesson lesson,
        IReadOnlyList<Piece> siblings, IReadOnlyDictionary<(BlockId, string), string>? wrong = null, (BlockId, Dictionary<string, string>)? typed = null,
        Func<LessonReading, LessonReading>? tried = null)
    {
        var outline = Known(page, piece);
        await links.Ready(page.HttpContext.RequestAborted);
        var note = page.Visitor.Recorded is not null && lesson.ReleasedAt is not null && HttpMethods.IsGet(page.HttpContext.Request.Method);
        var reading = await reader.Read(lesson, outline.Lessons, page.Visitor.Member, note, lesson.DoneWhen == DoneWhen.Opened, piece.QuestionsOn,
            FormRules.WeekOf(page.Now.Calendar.Date(page.Moment)), page.Moment, page.HttpContext.RequestAborted);
        return reading is null ? null : new LessonView
        {
            Page = page,
            Piece = piece,
            Lesson = lesson,
            Reading = tried?.Invoke(reading) ?? reading,
            Links = links,
            Outline = outline,
            Siblings = siblings,
            Wrong = wrong ?? new Dictionary<(BlockId, string), string>(),
            Typed = typed
        };
    }
}
