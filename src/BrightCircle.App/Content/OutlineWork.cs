using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>What the use cases on a piece’s outline share: reading it, a lesson more, the order written down, and what has to follow a change.</summary>
public sealed class OutlineWork(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, IndexContent index, ReleaseContent release)
{
    public const int MostLessons = 2000;

    public static readonly Result Gone = Result.Refused("This isn’t here any more. It may be in the trash.");

    /// <summary>The piece whose outline is about to change; its released parts keep their turns in a pace.</summary>
    public async Task<Piece?> Known(PieceId id, CancellationToken ct)
    {
        await Settle(id, ct);
        return await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
    }

    /// <summary>A released part's turn in a pace is the earliest it ever had: what is put before it later doesn't make anybody wait again.</summary>
    Task Settle(PieceId id, CancellationToken ct) => db.Database.ExecuteSqlAsync($"""
        with modules_now as (
          select m.id, row_number() over (order by m.position, m.id) as n from modules m where m.piece_id = {id.Value} and m.trashed_at is null),
        lessons_now as (
          select l.id, l.step, l.released_at, row_number() over (order by coalesce(m.n, 0), l.position, l.id) - 1 as n
          from lessons l left join modules_now m on m.id = l.module_id where l.piece_id = {id.Value} and l.trashed_at is null),
        loose as (select exists (select 1 from lessons l where l.piece_id = {id.Value} and l.trashed_at is null
          and not exists (select 1 from modules_now m where m.id = l.module_id)) as some),
        of_modules as (
          update modules m set step = n.n - case when loose.some then 0 else 1 end from modules_now n, loose
          where m.id = n.id and (m.step < 0 or m.step > n.n - case when loose.some then 0 else 1 end))
        update lessons l set step = n.n from lessons_now n where l.id = n.id and n.released_at is not null and (l.step < 0 or l.step > n.n)
        """, ct);

    public async Task<Outline> Outline(PieceId id, CancellationToken ct) => Core.Content.Outline.Of(
        await db.Modules.Where(m => m.PieceId == id && m.TrashedAt == null).ToListAsync(ct),
            await db.Lessons.Where(l => l.PieceId == id && l.TrashedAt == null).ToListAsync(ct));

    public async Task<Lesson> NewLesson(Piece piece, ModuleId? module, int position, string title, int? minutes, DoneWhen doneWhen, IReadOnlyList<Block> blocks,
        TeamActor by, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var lesson = db.Add(new Lesson
        {
            Id = ids.Next<LessonId>(),
            PieceId = piece.Id,
            ModuleId = module,
            Position = position,
            Title = title,
            Minutes = minutes,
            DoneWhen = doneWhen,
            Version = 1,
            ChangedAt = at,
            ChangedBy = by.Name,
            Kinds = Blocks.Kinds(blocks),
        }).Entity;
        db.Add(new LessonContent { LessonId = lesson.Id, Blocks = blocks });
        db.Add(new LessonVersion { Id = ids.Next(), LessonId = lesson.Id, Version = 1, At = at, By = by.Name, Title = title, Blocks = blocks });
        await db.SaveChangesAsync(ct);
        await index.Lesson(lesson, blocks, ct);
        return lesson;
    }

    public async Task<Lesson> Copy(Lesson lesson, Piece into, ModuleId? module, int position, string title, TeamActor by, CancellationToken ct)
    {
        var content = await db.LessonContents.AsNoTracking().SingleAsync(c => c.LessonId == lesson.Id, ct);
        var copy = await NewLesson(into, module, position, title, lesson.Minutes, lesson.DoneWhen, Blocks.Copy(content.Blocks, ids.Next<BlockId>), by, ct);
        copy.Teaser = lesson.Teaser;
        return copy;
    }

    /// <summary>Writes an order down: one statement for the modules, one for the lessons, however many.</summary>
    public async Task Put(Piece piece, OutlineOrder order, CancellationToken ct, IDbContextTransaction? under = null)
    {
        await using var own = under is null ? await db.Database.BeginTransactionAsync(ct) : null;
        var modules = order.Modules.Select(m => m.Value).ToArray();
        var lessons = order.Groups.SelectMany(g => g.Lessons.Select((l, i) => (Lesson: l.Value, Module: g.Module?.Value, At: i + 1))).ToArray();
        var (ids, owners, places) = (lessons.Select(l => l.Lesson).ToArray(), lessons.Select(l => l.Module).ToArray(), lessons.Select(l => l.At).ToArray());
        await db.Database.ExecuteSqlAsync(
            $"update modules m set position = o.n from unnest({modules}) with ordinality o (id, n) where m.id = o.id and m.piece_id = {piece.Id.Value}", ct);
        await db.Database.ExecuteSqlAsync($"""
            update lessons l set position = o.at, module_id = o.module from unnest({ids}, {owners}, {places}) o (id, module, at) where l.id = o.id
                and l.piece_id = {piece.Id.Value}
            """, ct);
        await Done(piece, ct, under ?? own);
    }

    public async Task Rewrite(Lesson lesson, LessonContent content, IReadOnlyList<Block> blocks, TeamActor by, CancellationToken ct)
    {
        content.Blocks = blocks;
        lesson.Version++;
        (lesson.ChangedAt, lesson.ChangedBy, lesson.Kinds) = (clock.GetCurrentInstant(), by.Name, Blocks.Kinds(blocks));
        db.Add(new LessonVersion
        {
            Id = ids.Next(),
            LessonId = lesson.Id,
            Version = lesson.Version,
            At = lesson.ChangedAt,
            By = by.Name,
            Title = lesson.Title,
            Blocks = blocks
        });
        await db.SaveChangesAsync(ct);
        await index.Lesson(lesson, blocks, ct);
    }

    /// <summary>What members did with blocks follows them into another lesson.</summary>
    public async Task CarryAlong(IEnumerable<Block> blocks, LessonId to, CancellationToken ct)
    {
        var list = blocks.Select(b => b.Id).ToArray();
        await db.SheetTries.Where(t => list.Contains(t.BlockId)).ExecuteUpdateAsync(u => u.SetProperty(t => t.LessonId, to), ct);
        await db.FormEntries.Where(t => list.Contains(t.BlockId)).ExecuteUpdateAsync(u => u.SetProperty(t => t.LessonId, to), ct);
        await db.Played.Where(t => list.Contains(t.BlockId)).ExecuteUpdateAsync(u => u.SetProperty(t => t.LessonId, to), ct);
    }

    public async Task Done(Piece piece, CancellationToken ct, IDbContextTransaction? transaction = null,
        IEnumerable<PieceId>? others = null)
    {
        piece.Version++;
        piece.ChangedAt = clock.GetCurrentInstant();
        await db.SaveChangesAsync(ct);
        if (transaction is not null) await transaction.CommitAsync(ct);
        await catalogue.Changed([piece.Id, .. others ?? []], ct);
        release.Wake();
    }
}
