using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>One lesson made two.</summary>
public sealed class SplitLesson(BrightContext db, OutlineWork work)
{
    /// <summary>Puts a long lesson in two at a block. What members did with a block goes where the block goes; who had finished the lesson has finished
    /// both.</summary>
    public async Task<Result<LessonId>> Do(TeamActor by, LessonId id, BlockId at, string? title, CancellationToken ct)
    {
        by.NeedEditor();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await db.Lessons.FirstOrDefaultAsync(l => l.Id == id && l.TrashedAt == null, ct) is not { } lesson
            || await work.Known(lesson.PieceId, ct) is not { } piece) return OutlineWork.Gone;
        var content = await db.LessonContents.SingleAsync(c => c.LessonId == id, ct);
        if (content.Blocks.ToList().FindIndex(b => b.Id == at) < 1) return Result.Refused("A lesson is split at a block that isn’t its first.");
        var (stays, goes) = Blocks.Split(content.Blocks, at);
        var outline = await work.Outline(piece.Id, ct);
        var name = title?.Trim() is { Length: > 0 } t ? t
            : NextName.After(lesson.Title, [.. outline.Lessons.Select(l => l.Title)]).Replace("(copy)", "(continued)", StringComparison.Ordinal);
        var second = await work.NewLesson(piece, lesson.ModuleId, int.MaxValue, name, null, lesson.DoneWhen, goes, by, ct);
        (second.Ready, second.Teaser, second.EditionId) = (lesson.Ready, lesson.Teaser, lesson.EditionId);
        if (lesson.ReleasedAt is { } released) second.Release(released);
        await work.Rewrite(lesson, content, stays, by, ct);
        await work.CarryAlong(goes, second.Id, ct);
        await db.Database.ExecuteSqlAsync($"""
            insert into openings (member_id, lesson_id, first_at, last_at, done_at) select member_id, {second.Id.Value}, first_at, last_at,
                done_at from openings where lesson_id = {id.Value} and done_at is not null on conflict do nothing
            """, ct);
        await db.SaveChangesAsync(ct);
        var order = (await work.Outline(piece.Id, ct)).Order;
        var group = order.Groups.First(g => g.Module == lesson.ModuleId);
        await work.Put(piece, order.MoveLessons([second.Id], new(lesson.ModuleId, group.Lessons.ToList().IndexOf(id) + 1)), ct, transaction);
        return second.Id;
    }
}
