using BrightCircle.Core.Access;
using BrightCircle.Core.Offer;

namespace BrightCircle.Core.Content;

/// <summary>One thing an edition needs before it opens.</summary>
public sealed record ReadinessItem(bool Ok, string Text);

/// <summary>How many new things of an edition a tier's holders get.</summary>
public sealed record TierGets(Plan Plan, int New);

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
        foreach (var p in parts.Where(p => p.State == PieceState.Draft)) list.Add(new(false, $"“{p.Title}” is a draft and would stay closed"));
        foreach (var p in parts.Where(p => p.State != PieceState.Draft && p.Outline.Lessons.Any(l => l.State == PieceState.Draft)))
            list.Add(new(false, $"{Drafts(p)} in “{p.Title}” would stay closed"));
        foreach (var l in lessons.Where(l => l.State == PieceState.Draft)) list.Add(new(false, $"the lesson “{l.Title}” is a draft and would stay closed"));
        if (parts.All(p => p.State != PieceState.Draft && p.Outline.Lessons.All(l => l.State != PieceState.Draft)) && lessons.All(l => l.State != PieceState.Draft)) list.Add(new(true, "every part is ready"));
        var timeless = parts.Count(p => p.Outline.Lessons.Any(l => l.Minutes is null)) + lessons.Count(l => l.Minutes is null);
        list.Add(new(timeless == 0, timeless == 0 ? "minutes on all parts" : $"minutes are missing in {timeless} of {count}"));
        var bare = parts.Count(p => p.Cover is null);
        list.Add(new(bare == 0, bare == 0 ? "a cover on every piece" : bare == 1 ? "1 piece without a cover" : $"{bare} pieces without a cover"));
        list.Add(new(edition.Opening.Length > 0, edition.Opening.Length > 0 ? "the announcement’s opening words are written" : "the announcement’s opening words aren’t written"));
        var alone = parts.Count(p => book.Knows(p.Id) && book.PlansThatCover([p.Id]).Count == 0);
        list.Add(new(alone == 0, alone == 0 ? "every part is promised to somebody" : $"{alone} of {count} are in no tier’s promise"));
        return list;
    }

    static string Drafts(Piece p) => p.Outline.Lessons.Count(l => l.State == PieceState.Draft) is var n && n == 1 ? "1 draft lesson" : $"{n} draft lessons";

    /// <summary>What each tier's holders get that is new, if everything in it becomes ready and they go on as they are.</summary>
    public static IReadOnlyList<TierGets> Gives(IReadOnlyCollection<Piece> parts, IReadOnlyCollection<Lesson> lessons, AccessBook book) =>
        [.. book.Plans.OrderBy(p => p.Rank).Select(plan => new TierGets(plan, parts.Count(p => book.Knows(p.Id) && book.PlansThatCover([p.Id]).Contains(plan)) + lessons.Count(l => book.Knows(l.PieceId) && book.PlansThatCover([l.PieceId]).Contains(plan))))];
}
