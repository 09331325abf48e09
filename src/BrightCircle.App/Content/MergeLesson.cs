using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>Two lessons made one.</summary>
public sealed class MergeLesson(BrightContext db, OutlineWork work, Trash trash, IClock clock)
{
    /// <summary>
    /// Puts a lesson's blocks to the end of the one before it; the emptied lesson goes to the trash. Openings, answers, notes, bookmarks and questions come
    /// along.
    /// Done is who had finished both.
    /// </summary>
    public async Task<Result> Do(TeamActor by, LessonId id, CancellationToken ct)
    {
        by.NeedEditor();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await db.Lessons.FirstOrDefaultAsync(l => l.Id == id && l.TrashedAt == null, ct) is not { } lesson
            || await work.Known(lesson.PieceId, ct) is not { } piece) return OutlineWork.Gone;
        if ((await work.Outline(piece.Id, ct)).Before(id, _ => true) is not { } into) return Result.Refused("There is no lesson before it to put it to.");
        var from = await db.LessonContents.SingleAsync(c => c.LessonId == id, ct);
        var to = await db.LessonContents.SingleAsync(c => c.LessonId == into.Id, ct);
        if (from.Blocks.Count + to.Blocks.Count > ContentLimits.MostBlocks)
            return Result.Refused($"Together they would hold more than {ContentLimits.MostBlocks} blocks.");
        var moved = from.Blocks;
        into.Minutes = into.Minutes is null && lesson.Minutes is null ? null : (into.Minutes ?? 0) + (lesson.Minutes ?? 0);
        await work.Rewrite(into, to, [.. to.Blocks, .. moved], by, ct);
        await work.Rewrite(lesson, from, [], by, ct);
        await work.CarryAlong(moved, into.Id, ct);
        var (a, b) = (into.Id.Value, id.Value);
        await db.Database.ExecuteSqlAsync($"""
            insert into openings (member_id, lesson_id, first_at, last_at) select member_id, {a}, first_at, last_at from openings where lesson_id = {b}
            on conflict (member_id, lesson_id) do update set first_at = least(openings.first_at, excluded.first_at), last_at = greatest(openings.last_at,
                excluded.last_at)
            """, ct);
        await db.Database.ExecuteSqlAsync($"""
            update openings o set done_at = null where lesson_id = {a} and done_at is not null and not exists (select 1 from openings x where
                x.lesson_id = {b} and x.member_id = o.member_id and x.done_at is not null)
            """, ct);
        await db.Database.ExecuteSqlAsync($"""
            insert into notes (member_id, lesson_id, text, at) select member_id, {a}, text, at from notes where lesson_id = {b}
            on conflict (member_id, lesson_id) do update set text = notes.text || E'\n\n' || excluded.text
            """, ct);
        await db.Database.ExecuteSqlAsync(
            $"insert into bookmarks (member_id, lesson_id, at) select member_id, {a}, at from bookmarks where lesson_id = {b} on conflict do nothing", ct);
        await db.Database.ExecuteSqlAsync($"update lesson_questions set lesson_id = {a} where lesson_id = {b}", ct);
        trash.Put(lesson, clock.GetCurrentInstant());
        await work.Done(piece, ct, transaction);
        return Result.Done;
    }
}
