using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>A lesson more in a piece.</summary>
public sealed class AddLesson(BrightContext db, Ids ids, OutlineWork work)
{
    /// <summary>A new lesson at the end of a module (or before the first one), empty or from a pattern. Without a title it counts on from the last
    /// one.</summary>
    public async Task<Result<LessonId>> Do(TeamActor by, PieceId id, ModuleId? module, string? title, long? pattern, CancellationToken ct,
        IReadOnlyList<Block>? given = null)
    {
        by.NeedEditor();
        if (await work.Known(id, ct) is not { } piece) return OutlineWork.Gone;
        var outline = await work.Outline(id, ct);
        if (outline.Lessons.Count >= OutlineWork.MostLessons) return Result.Refused($"A piece holds {OutlineWork.MostLessons} lessons at most.");
        if (module is { } m && outline.Modules.All(x => x.Id != m)) return OutlineWork.Gone;
        var siblings = outline.Parts.FirstOrDefault(p => p.Module?.Id == module)?.Lessons ?? [];
        var next = siblings.Count == 0 ? "" : NextName.After(siblings[^1].Title, [.. outline.Lessons.Select(l => l.Title)]);
        var name = title?.Trim() is { Length: > 0 } t ? t : next.Length > 0 && !next.Contains(" (copy", StringComparison.Ordinal) ? next : "New lesson";
        if (name.Length > 160) return Result.Refused("The title is too long; 160 letters are the most.", "Title");
        // Without a choice it is the pattern of the piece; 0 is none.
        var kept = given is null && (pattern ?? piece.PatternId) is > 0 and var p
            ? await db.LessonPatterns.AsNoTracking().FirstOrDefaultAsync(x => x.Id == p, ct) : null;
        var blocks = given ?? (kept is null ? [] : Blocks.Copy(kept.Blocks, ids.Next<BlockId>));
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var lesson = await work.NewLesson(piece, module, siblings.Count == 0 ? 1 : siblings.Max(l => l.Position) + 1, name, kept?.Minutes,
            kept?.DoneWhen ?? DoneWhen.Marked, blocks, by, ct);
        await work.Done(piece, ct, transaction);
        return lesson.Id;
    }
}
