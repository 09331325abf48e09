using BrightCircle.App.Content;
using BrightCircle.App.Releases;
using BrightCircle.Core.Content;
using BrightCircle.Core.Releases;
using BrightCircle.Data;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Something on the board: a piece, or a lesson that opens with an edition of its own.</summary>
public sealed record BoardCard(Piece Piece, Lesson? Lesson, Edition? Edition)
{
    public PieceState State => Lesson?.State ?? Piece.State;
    public string Title => Lesson?.Title ?? Piece.Title;
    public int? Minutes => Lesson is null ? Piece.Minutes : Lesson.Minutes;
    public string What => Lesson is not null ? "lesson of " + Piece.Title : Piece.IsCourse ? $"course · {Say.Count(Piece.Outline.Lessons.Count, "lesson")}"
        : Piece.Outline.Lessons.Count == 1 && Piece.Outline.Lessons[0].Kinds is { Length: > 0 } k && k != "text" ? k : "lesson";
    public string Key => Lesson is null ? "p" + Piece.Id.Value : "l" + Lesson.Id.Value;
}

/// <summary>The year on one screen: months across, shelves down, what is to come beside them; moved by dragging or by form.</summary>
public sealed class EditionsModel(SavePiece pieces, SaveEdition editions, DuplicatePiece duplicatePiece) : RingPage
{
    public override string Place => "editions";
    YearMonth first;
    public int Span { get; private set; } = 4;
    public string? Asked { get; private set; }
    public YearMonth LitMonth => Now.NextEdition?.Month ?? Now.Calendar.Month(Moment).PlusMonths(1);
    public Edition? Lit => In(LitMonth).FirstOrDefault();
    public IReadOnlyList<YearMonth> Months => [.. Enumerable.Range(0, Span).Select(first.PlusMonths)];
    public string Back => $"/desk/editions?from={first.ToString("uuuu-MM", null)}&span={Span}";
    public IReadOnlyList<Edition> In(YearMonth m) => [.. Now.EditionsIn[m]];
    public string Shift(int months) => $"?from={first.PlusMonths(months).ToString("uuuu-MM", null)}&span={Span}";
    public IEnumerable<Piece> ToCome => Now.Pieces.Where(p => p.EditionId is null && p.ReleasedAt is null);
    protected override YearMonth RingStart => Span == 12 ? first : base.RingStart;

    public IEnumerable<BoardCard> Cards(YearMonth m) => In(m).SelectMany(Cards);
    public IEnumerable<BoardCard> Cards(Edition e) =>
        Now.PartsOf[e.Id].Select(p => new BoardCard(p, null, e)).Concat(Now.LessonPartsOf[e.Id].Select(l => new BoardCard(Now.PieceOf(l), l, e)));

    public IReadOnlyList<ReadinessItem> Readiness(Edition e) => EditionReadiness.Of(e, [.. Now.PartsOf[e.Id]], [.. Now.LessonPartsOf[e.Id]], Now.Book);
    public IReadOnlyList<PlanGets> Gives(Edition e) => EditionReadiness.Gives([.. Now.PartsOf[e.Id]], [.. Now.LessonPartsOf[e.Id]], Now.Book, Moment);

    /// <summary>What each month is aimed to hold, and how far it is.</summary>
    public IEnumerable<(string Text, bool Met)> Aims(YearMonth m)
    {
        var cards = Cards(m).ToArray();
        foreach (var t in Now.Site!.Cadence)
        {
            var here = cards.Where(c => t.Shelf is null || c.Piece.ShelfId.Value == t.Shelf);
            var n = t.What switch
            {
                CadenceUnit.Courses => here.Count(c => c.Lesson is null && c.Piece.IsCourse),
                CadenceUnit.Lessons => here.Sum(c => c.Lesson is null ? c.Piece.Outline.Lessons.Count : 1),
                CadenceUnit.Pieces => here.Count(c => c.Lesson is null),
            };
            var where = t.Shelf is { } s && Now.ShelfById.TryGetValue(new(s), out var shelf) ? $" on {shelf.Mark}" : "";
            yield return ($"{n} of {Count(t.Count, t.What.ToString().ToLowerInvariant()[..^1])}{where}", n >= t.Count);
        }
    }

    /// <summary>The card whose drawer stands open: by address, without scripts.</summary>
    public BoardCard? Opened { get; private set; }

    public void OnGet(string? card, string? from, int span = 4)
    {
        Window(from, span);
        Opened = CardOf(card);
    }

    /// <summary>"p12" is a piece, anything else before a number a lesson.</summary>
    BoardCard? CardOf(string? key)
    {
        if (key is not { Length: > 1 } || !long.TryParse(key.AsSpan(1), out var id)) return null;
        if (key[0] == 'p') return Now.PieceById.TryGetValue(new(id), out var p) ? new(p, null, Now.EditionOf(p)) : null;
        return Now.LessonById.TryGetValue(new(id), out var l) ? new(Now.PieceOf(l), l, l.EditionId is { } e ? Now.EditionById.GetValueOrDefault(e) : null)
            : null;
    }

    void Window(string? from, int span)
    {
        Span = span is 4 or 6 or 12 ? span : 4;
        Asked = from;
        var asked = NodaTime.Text.YearMonthPattern.Iso.Parse(from ?? "");
        first = asked.Success && asked.Value.Year is > 2000 and < 2100 ? asked.Value : Now.Calendar.Month(Moment).PlusMonths(Span == 12 ? -2 : -1);
    }

    /// <summary>A card dropped or sent somewhere: month "2026-12", "e123" for one edition, or "none"; a month without an edition gets one.</summary>
    public async Task<IActionResult> OnPostMove(string? card, string? to, long? shelf, string? from, int span = 4)
    {
        Window(from, span);
        var done = await Move(card, to, shelf);
        if (Request.Headers.ContainsKey("X-Drag")) return done.Ok ? new OkResult() : new ConflictObjectResult(done.Refusal);
        Tell(done.Ok ? "Moved." : done.Refusal!);
        return Redirect(Back);
    }

    async Task<Result> Move(string? card, string? to, long? shelf)
    {
        EditionId? edition = null;
        var keep = string.IsNullOrEmpty(to) || to == "keep";
        if (to?.StartsWith('e') == true && long.TryParse(to.AsSpan(1), out var e)) edition = new(e);
        else if (!keep && to != "none")
        {
            var parsed = NodaTime.Text.YearMonthPattern.Iso.Parse(to!);
            if (!parsed.Success) return Result.Refused("That isn’t a month.");
            if (In(parsed.Value).FirstOrDefault(x => x.Span == EditionSpan.Month) is { } known) edition = known.Id;
            else
            {
                var made = await editions.Do(Actor, null, EditionDraft.ForMonth(parsed.Value), Ct);
                if (!made.Ok) return Result.Refused(made.Refusal!);
                edition = made.Value;
            }
        }
        if (card is not { Length: > 1 } || !long.TryParse(card.AsSpan(1), out var id)) return Result.Refused("This isn’t here any more.");
        if (card[0] == 'p') return await pieces.Place(Actor, new(id), shelf is { } s ? new ShelfId(s) : null, edition, keep, Ct);
        return await pieces.PlaceLesson(Actor, new(id), keep ? null : edition, keep, Ct);
    }

    /// <summary>The side drawer: a card's few facts, and where it can go.</summary>
    public IActionResult OnGetDrawer(string card, string? from, int span = 4)
    {
        Window(from, span);
        return CardOf(card) is { } found ? Partial("_BoardDrawer", (this, found)) : NotFound();
    }

    public async Task<IActionResult> OnPostDrawer(long piece, string? title, string? workedOnBy, int version, bool ready, string? from, int span = 4)
    {
        Window(from, span);
        if (!Now.PieceById.TryGetValue(new(piece), out var p)) return NotFound();
        var saved = await pieces.Facts(Actor, p.Id, PieceFacts.Of(p) with { Title = title, WorkedOnBy = workedOnBy, Version = version }, Ct);
        if (!saved.Ok) Tell(saved.Refusal!);
        else if (ready && p.State == PieceState.Draft)
        {
            var done = await pieces.Publish(Actor, p.Id, inside: true, Ct);
            Tell(done.Ok ? done.Value!.Drafts.Count == 0 ? "Saved, and ready."
                : $"Saved, and ready; {Count(done.Value.Drafts.Count, "lesson")} in it stay as drafts." : done.Refusal!);
        }
        else if (!ready && p.State == PieceState.Ready)
        {
            var done = await pieces.Unpublish(Actor, p.Id, Ct);
            Tell(done.Ok ? "Saved, and a draft again." : done.Refusal!);
        }
        else Tell("Saved.");
        return Redirect(Back);
    }

    /// <summary>Last year's edition again in a month to come.</summary>
    public async Task<IActionResult> OnPostCopy(long edition, string? into, string? from, int span = 4)
    {
        Window(from, span);
        var parsed = NodaTime.Text.YearMonthPattern.Iso.Parse(into ?? "");
        if (!parsed.Success) Tell("Choose the month it goes into.");
        else
        {
            var done = await editions.CopyInto(Actor, new(edition), parsed.Value, duplicatePiece, Ct);
            Tell(done.Ok ? $"Its parts stand in {parsed.Value.ToString("MMMM uuuu", Now.Culture)} now, as drafts." : done.Refusal!);
        }
        return Redirect(Back);
    }
}
