using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>A lesson again.</summary>
public sealed class DuplicateLesson(BrightContext db, OutlineWork work)
{
    /// <summary>A copy beside it, as a draft, its name counted on.</summary>
    public async Task<Result<LessonId>> Do(TeamActor by, LessonId id, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Lessons.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id && l.TrashedAt == null, ct) is not { } lesson
            || await work.Known(lesson.PieceId, ct) is not { } piece) return OutlineWork.Gone;
        var outline = await work.Outline(piece.Id, ct);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var copy = await work.Copy(lesson, piece, lesson.ModuleId, int.MaxValue, NextName.After(lesson.Title, [.. outline.Lessons.Select(l => l.Title)]), by,
            ct);
        // The last free place, then behind the one it was made from.
        var order = (await work.Outline(piece.Id, ct)).Order;
        var group = order.Groups.First(g => g.Module == lesson.ModuleId);
        order = order.MoveLessons([copy.Id], new(lesson.ModuleId, group.Lessons.ToList().IndexOf(id) + 1));
        await work.Put(piece, order, ct, transaction);
        return copy.Id;
    }
}
