using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Releases;

/// <summary>One thing an edition needs before it opens.</summary>
public sealed record ReadinessItem(bool Ok, string Text);

/// <summary>How many new things of an edition a plan's holders get.</summary>
public sealed record PlanGets(Plan Plan, int New);

/// <summary>Whether an edition may open: every part ready, covered, timed; announced; promised to somebody. Months with nothing and with too much.</summary>
public static class EditionReadiness
{
    /// <summary>More parts than this in a month are more than members get through.</summary>
    public const int Full = 8;

    /// <param name="parts">Its pieces.</param>
    /// <param name="lessons">Lessons of other pieces that open with it.</param>
    public static IReadOnlyList<ReadinessItem> Of(Edition edition, IReadOnlyCollection<Piece> parts, IReadOnlyCollection<Lesson> lessons, AccessBook book)
    {
        var list = new List<ReadinessItem>();
        var count = parts.Count + lessons.Count;
        list.Add(new(count > 0, count switch { 0 => "nothing is in it yet", 1 => "1 part in it", _ => $"{count} parts in it" }));
        if (count == 0) return list;
        if (count > Full) list.Add(new(false, $"{count} parts are a lot for one edition"));
        Drafts(list, parts, lessons);
        var timeless = parts.Count(p => p.Outline.Lessons.Any(l => l.Minutes is null)) + lessons.Count(l => l.Minutes is null);
        list.Add(new(timeless == 0, timeless == 0 ? "minutes on all parts" : $"minutes are missing in {timeless} of {count}"));
        if (parts.Count > 0)
        {
            var bare = parts.Count(p => p.Cover is null);
            list.Add(new(bare == 0, bare switch { 0 => "a cover on every piece", 1 => "1 piece without a cover", _ => $"{bare} pieces without a cover" }));
        }
        var written = edition.Opening.Length > 0;
        list.Add(new(written, written ? "the announcement’s opening words are written" : "the announcement’s opening words aren’t written"));
        var alone = parts.Count(p => book.PlansThatCover(p.Id).Count == 0) + lessons.Count(l => book.PlansThatCover(l.PieceId).Count == 0);
        list.Add(new(alone == 0, alone == 0 ? "every part is promised to somebody" : $"{alone} of {count} are in nobody’s promise"));
        return list;
    }

    static void Drafts(List<ReadinessItem> list, IReadOnlyCollection<Piece> parts, IReadOnlyCollection<Lesson> lessons)
    {
        var before = list.Count;
        foreach (var p in parts)
            if (p.State == PieceState.Draft) list.Add(new(false, $"“{p.Title}” is a draft and would stay closed"));
            else if (p.Outline.Lessons.Count(l => l.State == PieceState.Draft) is > 0 and var n)
                list.Add(new(false, $"{(n == 1 ? "1 draft lesson" : $"{n} draft lessons")} in “{p.Title}” would stay closed"));
        foreach (var l in lessons)
            if (l.State == PieceState.Draft) list.Add(new(false, $"the lesson “{l.Title}” is a draft and would stay closed"));
        if (list.Count == before) list.Add(new(true, "every part is ready"));
    }

    /// <summary>What each plan's holders get that is new, if they go on as they are: what is ready or out, and theirs. Drafts don't count.</summary>
    public static IReadOnlyList<PlanGets> Gives(IReadOnlyCollection<Piece> parts, IReadOnlyCollection<Lesson> lessons, AccessBook book, Instant now) =>
        [.. book.Plans.OrderBy(p => p.Rank).ThenBy(p => p.Id.Value).Select(plan => new PlanGets(plan,
            parts.Count(p => p.State != PieceState.Draft && book.GivesPartOf(plan.Id, p.Id, now))
            + lessons.Count(l => l.State != PieceState.Draft && book.Gives(plan.Id, l.Id, now))))];

    /// <summary>The parts of an edition that is out which were left behind as drafts: nobody sees them until somebody makes them ready.</summary>
    public static IReadOnlyList<string> LeftBehind(Edition edition, IEnumerable<Piece> parts, IEnumerable<Lesson> lessons) =>
        edition.ReleasedAt is null ? []
            : [.. parts.Where(p => p.State == PieceState.Draft).Select(p => p.Title), .. lessons.Where(l => l.State == PieceState.Draft).Select(l => l.Title)];
}
