using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

public enum BulkAction { Publish, Unpublish, Minutes, TeaserOn, TeaserOff, Delete }

/// <summary>What came of doing something to many: how many were done, and why others weren't.</summary>
public sealed record BulkDone(int Done, IReadOnlyList<string> Left);

/// <summary>
/// The shape of a piece: its modules and lessons, their order, copies, splitting, merging, moving. What members did goes along with the lessons and blocks it belongs to.
/// </summary>
public sealed class ShapePiece(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, IndexContent index, ReleaseContent release, Trash trash)
{
    const int MostLessons = 2000;

    async Task<Piece?> Known(PieceId id, CancellationToken ct) => await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);

    async Task<Outline> Outline(PieceId id, CancellationToken ct) => Core.Content.Outline.Of(
        await db.Modules.Where(m => m.PieceId == id && m.TrashedAt == null).ToListAsync(ct), await db.Lessons.Where(l => l.PieceId == id && l.TrashedAt == null).ToListAsync(ct));

    static readonly Result Gone = Result.Refused("This isn’t here any more. It may be in the trash.");

    public async Task<Result<ModuleId>> AddModule(TeamActor by, PieceId id, string? title, CancellationToken ct)
    {
        by.NeedEditor();
        if (await Known(id, ct) is not { } piece) return Gone;
        var modules = (await Outline(id, ct)).Modules.ToList();
        var name = title?.Trim() is { Length: > 0 } t ? t : modules.Count == 0 ? $"{piece.ModuleWord} 1" : NextName.After(modules[^1].Title, [.. modules.Select(m => m.Title)]);
        if (name.Length > 160) return Result.Refused("The name is too long; 160 letters are the most.", "Title");
        var module = db.Add(new Module { Id = ids.Next<ModuleId>(), PieceId = id, Title = name, Position = modules.Count == 0 ? 1 : modules.Max(m => m.Position) + 1 }).Entity;
        await Done(piece, ct);
        return module.Id;
    }

    public async Task<Result> RenameModule(TeamActor by, ModuleId id, string? title, CancellationToken ct)
    {
        by.NeedEditor();
        var name = title?.Trim() ?? "";
        if (name.Length is 0 or > 160) return Result.Refused("It needs a name of 160 letters at most.", "Title");
        if (await db.Modules.FirstOrDefaultAsync(m => m.Id == id && m.TrashedAt == null, ct) is not { } module || await Known(module.PieceId, ct) is not { } piece) return Gone;
        module.Title = name;
        await Done(piece, ct);
        return Result.Done;
    }

    /// <summary>A new lesson at the end of a module (or before the first one), empty or from a pattern. Without a title it counts on from the last one.</summary>
    public async Task<Result<LessonId>> AddLesson(TeamActor by, PieceId id, ModuleId? module, string? title, long? pattern, CancellationToken ct, IReadOnlyList<Block>? given = null)
    {
        by.NeedEditor();
        if (await Known(id, ct) is not { } piece) return Gone;
        var outline = await Outline(id, ct);
        if (outline.Lessons.Count >= MostLessons) return Result.Refused($"A piece holds {MostLessons} lessons at most.");
        if (module is { } m && outline.Modules.All(x => x.Id != m)) return Gone;
        var siblings = outline.Parts.FirstOrDefault(p => p.Module?.Id == module)?.Lessons ?? [];
        var next = siblings.Count == 0 ? "" : NextName.After(siblings[^1].Title, [.. outline.Lessons.Select(l => l.Title)]);
        var name = title?.Trim() is { Length: > 0 } t ? t : next.Length > 0 && !next.Contains(" (copy", StringComparison.Ordinal) ? next : "New lesson";
        if (name.Length > 160) return Result.Refused("The title is too long; 160 letters are the most.", "Title");
        var kept = pattern is { } p ? await db.LessonPatterns.AsNoTracking().FirstOrDefaultAsync(x => x.Id == p, ct) : null;
        var blocks = given ?? (kept is null ? [] : Blocks.Copy(kept.Blocks, ids.Next<BlockId>));
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var lesson = await New(piece, module, siblings.Count == 0 ? 1 : siblings.Max(l => l.Position) + 1, name, kept?.Minutes, kept?.DoneWhen ?? DoneWhen.Marked, blocks, by, ct);
        await Done(piece, ct, transaction);
        return lesson.Id;
    }

    async Task<Lesson> New(Piece piece, ModuleId? module, int position, string title, int? minutes, DoneWhen doneWhen, IReadOnlyList<Block> blocks, TeamActor by, CancellationToken ct)
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

    /// <summary>The whole order at once, as dragging leaves it. It has to be of the same modules and lessons: what somebody added meanwhile isn't lost.</summary>
    public async Task<Result> Reorder(TeamActor by, PieceId id, OutlineOrder order, CancellationToken ct)
    {
        by.NeedEditor();
        if (await Known(id, ct) is not { } piece) return Gone;
        var now = await Outline(id, ct);
        if (!order.SameSetAs(now.Order)) return Result.Refused("Somebody changed this outline meanwhile. Here it is as it stands now; move again.");
        await Put(piece, order, ct);
        return Result.Done;
    }

    /// <summary>A lesson one place up or down, past the end of a module into the next.</summary>
    public async Task<Result> Step(TeamActor by, LessonId id, int step, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Lessons.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id, ct) is not { } lesson || await Known(lesson.PieceId, ct) is not { } piece) return Gone;
        await Put(piece, (await Outline(piece.Id, ct)).Order.Step(id, Math.Sign(step)), ct);
        return Result.Done;
    }

    public async Task<Result> StepModule(TeamActor by, ModuleId id, int step, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Modules.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, ct) is not { } module || await Known(module.PieceId, ct) is not { } piece) return Gone;
        var order = (await Outline(piece.Id, ct)).Order;
        await Put(piece, order.MoveModule(id, order.Modules.ToList().IndexOf(id) + Math.Sign(step)), ct);
        return Result.Done;
    }

    /// <summary>Writes an order down: one statement for the modules, one for the lessons, however many.</summary>
    async Task Put(Piece piece, OutlineOrder order, CancellationToken ct)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var modules = order.Modules.Select(m => m.Value).ToArray();
        var lessons = order.Groups.SelectMany(g => g.Lessons.Select((l, i) => (Lesson: l.Value, Module: g.Module?.Value, At: i + 1))).ToArray();
        var (ids, owners, places) = (lessons.Select(l => l.Lesson).ToArray(), lessons.Select(l => l.Module).ToArray(), lessons.Select(l => l.At).ToArray());
        await db.Database.ExecuteSqlAsync($"update modules m set position = o.n from unnest({modules}) with ordinality o (id, n) where m.id = o.id and m.piece_id = {piece.Id.Value}", ct);
        await db.Database.ExecuteSqlAsync($"update lessons l set position = o.at, module_id = o.module from unnest({ids}, {owners}, {places}) o (id, module, at) where l.id = o.id and l.piece_id = {piece.Id.Value}", ct);
        await Done(piece, ct, transaction);
    }

    /// <summary>Lessons to the end of another module, perhaps of another piece. Their openings, answers and notes go with them.</summary>
    public async Task<Result> Move(TeamActor by, IReadOnlyCollection<LessonId> lessons, PieceId to, ModuleId? module, CancellationToken ct)
    {
        by.NeedEditor();
        if (await Known(to, ct) is not { } target) return Gone;
        var wanted = lessons.ToArray();
        var moving = await db.Lessons.Where(l => wanted.Contains(l.Id) && l.TrashedAt == null).ToListAsync(ct);
        if (moving.Count == 0) return Gone;
        var outline = await Outline(to, ct);
        if (module is { } m && outline.Modules.All(x => x.Id != m)) return Gone;
        var sources = moving.Select(l => l.PieceId).Where(p => p != to).Distinct().ToArray();
        // In the order they stand in now, wherever they come from.
        var order = catalogue.Now.Pieces.SelectMany(p => p.Outline.Lessons).Select((l, i) => (l.Id, i)).ToDictionary(x => x.Id, x => x.i);
        var at = (outline.Parts.FirstOrDefault(p => p.Module?.Id == module)?.Lessons.Where(l => !wanted.Contains(l.Id)).Select(l => l.Position).DefaultIfEmpty().Max() ?? 0) + 1;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        foreach (var l in moving.OrderBy(l => order.GetValueOrDefault(l.Id, int.MaxValue)))
        {
            (l.PieceId, l.ModuleId, l.Position) = (to, module, at++);
            l.Version++;
            release.WhenLate(l, target, clock.GetCurrentInstant());
        }
        await db.SaveChangesAsync(ct);
        await db.SearchTexts.Where(t => t.LessonId != null && wanted.Contains(t.LessonId.Value)).ExecuteUpdateAsync(u => u.SetProperty(t => t.PieceId, to), ct);
        foreach (var p in await db.Pieces.Where(p => sources.Contains(p.Id)).ToListAsync(ct)) p.Version++;
        await Done(target, ct, transaction, sources);
        return Result.Done;
    }

    /// <summary>A copy beside it, as a draft, its name counted on.</summary>
    public async Task<Result<LessonId>> DuplicateLesson(TeamActor by, LessonId id, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Lessons.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id && l.TrashedAt == null, ct) is not { } lesson || await Known(lesson.PieceId, ct) is not { } piece) return Gone;
        var outline = await Outline(piece.Id, ct);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var copy = await Copy(lesson, piece, lesson.ModuleId, int.MaxValue, NextName.After(lesson.Title, [.. outline.Lessons.Select(l => l.Title)]), by, ct);
        // The last free place, then behind the one it was made from.
        var order = (await Outline(piece.Id, ct)).Order;
        var group = order.Groups.First(g => g.Module == lesson.ModuleId);
        order = order.MoveLessons([copy.Id], new(lesson.ModuleId, group.Lessons.ToList().IndexOf(id) + 1));
        await transaction.CommitAsync(ct);
        await Put(piece, order, ct);
        return copy.Id;
    }

    async Task<Lesson> Copy(Lesson lesson, Piece into, ModuleId? module, int position, string title, TeamActor by, CancellationToken ct)
    {
        var content = await db.LessonContents.AsNoTracking().SingleAsync(c => c.LessonId == lesson.Id, ct);
        var copy = await New(into, module, position, title, lesson.Minutes, lesson.DoneWhen, Blocks.Copy(content.Blocks, ids.Next<BlockId>), by, ct);
        copy.Teaser = lesson.Teaser;
        return copy;
    }

    /// <summary>A module with its lessons, behind it, as drafts.</summary>
    public async Task<Result<ModuleId>> DuplicateModule(TeamActor by, ModuleId id, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Modules.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id && m.TrashedAt == null, ct) is not { } module || await Known(module.PieceId, ct) is not { } piece) return Gone;
        var outline = await Outline(piece.Id, ct);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var copy = db.Add(new Module { Id = ids.Next<ModuleId>(), PieceId = piece.Id, Title = NextName.After(module.Title, [.. outline.Modules.Select(m => m.Title)]), Position = int.MaxValue }).Entity;
        await db.SaveChangesAsync(ct);
        foreach (var l in outline.Parts.First(p => p.Module?.Id == id).Lessons) await Copy(l, piece, copy.Id, l.Position, l.Title, by, ct);
        await db.SaveChangesAsync(ct);
        var order = (await Outline(piece.Id, ct)).Order;
        await transaction.CommitAsync(ct);
        await Put(piece, order.MoveModule(copy.Id, outline.Modules.ToList().FindIndex(m => m.Id == id) + 1), ct);
        return copy.Id;
    }

    /// <summary>A whole piece again, with modules, lessons and facts, as a draft in no edition (or in a given one).</summary>
    public async Task<Result<PieceId>> DuplicatePiece(TeamActor by, PieceId id, CancellationToken ct, EditionId? intoEdition = null, string? title = null)
    {
        by.NeedEditor();
        var piece = await db.Pieces.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return Gone;
        var outline = await Outline(id, ct);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var name = title ?? NextName.After(piece.Title, [.. catalogue.Now.Pieces.Select(p => p.Title)]);
        var copy = db.Add(new Piece
        {
            Id = ids.Next<PieceId>(),
            ShelfId = piece.ShelfId,
            EditionId = intoEdition,
            Title = name,
            Subtitle = piece.Subtitle,
            Summary = piece.Summary,
            Cover = piece.Cover,
            ModuleWord = piece.ModuleWord,
            Difficulty = piece.Difficulty,
            Learn = piece.Learn,
            ForWhom = piece.ForWhom,
            SupportAddress = piece.SupportAddress,
            Terms = piece.Terms,
            Places = piece.Places,
            QuestionsOn = piece.QuestionsOn,
            TrailerUrl = piece.TrailerUrl,
            EndNote = piece.EndNote,
            EndLink = piece.EndLink,
            EndLinkText = piece.EndLinkText,
            Certificate = piece.Certificate,
            CopyGuard = piece.CopyGuard,
            Resources = piece.Resources,
            Tags = piece.Tags,
            Version = 1,
            ChangedAt = clock.GetCurrentInstant(),
        }).Entity;
        var modules = outline.Modules.ToDictionary(m => m.Id, m => db.Add(new Module { Id = ids.Next<ModuleId>(), PieceId = copy.Id, Title = m.Title, Position = m.Position }).Entity.Id);
        await db.SaveChangesAsync(ct);
        foreach (var part in outline.Parts)
            foreach (var l in part.Lessons)
                await Copy(l, copy, part.Module is { } m ? modules[m.Id] : null, l.Position, l.Title == piece.Title ? name : l.Title, by, ct);
        await db.SaveChangesAsync(ct);
        await index.Piece(copy, ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed([copy.Id], ct);
        return copy.Id;
    }

    /// <summary>Puts a long lesson in two at a block. What members did with a block goes where the block goes; who had finished the lesson has finished both.</summary>
    public async Task<Result<LessonId>> Split(TeamActor by, LessonId id, BlockId at, string? title, CancellationToken ct)
    {
        by.NeedEditor();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await db.Lessons.FirstOrDefaultAsync(l => l.Id == id && l.TrashedAt == null, ct) is not { } lesson || await Known(lesson.PieceId, ct) is not { } piece) return Gone;
        var content = await db.LessonContents.SingleAsync(c => c.LessonId == id, ct);
        if (content.Blocks.ToList().FindIndex(b => b.Id == at) < 1) return Result.Refused("A lesson is split at a block that isn’t its first.");
        var (stays, goes) = Blocks.Split(content.Blocks, at);
        var outline = await Outline(piece.Id, ct);
        var name = title?.Trim() is { Length: > 0 } t ? t : NextName.After(lesson.Title, [.. outline.Lessons.Select(l => l.Title)]).Replace("(copy)", "(continued)", StringComparison.Ordinal);
        var second = await New(piece, lesson.ModuleId, int.MaxValue, name, null, lesson.DoneWhen, goes, by, ct);
        (second.Ready, second.Teaser, second.EditionId) = (lesson.Ready, lesson.Teaser, lesson.EditionId);
        if (lesson.ReleasedAt is { } released) second.Release(released);
        await Rewrite(lesson, content, stays, by, ct);
        await CarryAlong(goes, second.Id, ct);
        await db.Database.ExecuteSqlAsync($"insert into openings (member_id, lesson_id, first_at, last_at, done_at) select member_id, {second.Id.Value}, first_at, last_at, done_at from openings where lesson_id = {id.Value} and done_at is not null on conflict do nothing", ct);
        await db.SaveChangesAsync(ct);
        var order = (await Outline(piece.Id, ct)).Order;
        var group = order.Groups.First(g => g.Module == lesson.ModuleId);
        await transaction.CommitAsync(ct);
        await Put(piece, order.MoveLessons([second.Id], new(lesson.ModuleId, group.Lessons.ToList().IndexOf(id) + 1)), ct);
        return second.Id;
    }

    /// <summary>
    /// Puts a lesson's blocks to the end of the one before it; the emptied lesson goes to the trash. Openings, answers, notes, bookmarks and questions come along.
    /// Done is who had finished both.
    /// </summary>
    public async Task<Result> MergeIntoPrevious(TeamActor by, LessonId id, CancellationToken ct)
    {
        by.NeedEditor();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await db.Lessons.FirstOrDefaultAsync(l => l.Id == id && l.TrashedAt == null, ct) is not { } lesson || await Known(lesson.PieceId, ct) is not { } piece) return Gone;
        if ((await Outline(piece.Id, ct)).Before(id, _ => true) is not { } into) return Result.Refused("There is no lesson before it to put it to.");
        var from = await db.LessonContents.SingleAsync(c => c.LessonId == id, ct);
        var to = await db.LessonContents.SingleAsync(c => c.LessonId == into.Id, ct);
        if (from.Blocks.Count + to.Blocks.Count > ContentLimits.MostBlocks) return Result.Refused($"Together they would hold more than {ContentLimits.MostBlocks} blocks.");
        var moved = from.Blocks;
        into.Minutes = into.Minutes is null && lesson.Minutes is null ? null : (into.Minutes ?? 0) + (lesson.Minutes ?? 0);
        await Rewrite(into, to, [.. to.Blocks, .. moved], by, ct);
        await Rewrite(lesson, from, [], by, ct);
        await CarryAlong(moved, into.Id, ct);
        var (a, b) = (into.Id.Value, id.Value);
        await db.Database.ExecuteSqlAsync($"""
            insert into openings (member_id, lesson_id, first_at, last_at) select member_id, {a}, first_at, last_at from openings where lesson_id = {b}
            on conflict (member_id, lesson_id) do update set first_at = least(openings.first_at, excluded.first_at), last_at = greatest(openings.last_at, excluded.last_at)
            """, ct);
        await db.Database.ExecuteSqlAsync($"update openings o set done_at = null where lesson_id = {a} and done_at is not null and not exists (select 1 from openings x where x.lesson_id = {b} and x.member_id = o.member_id and x.done_at is not null)", ct);
        await db.Database.ExecuteSqlAsync($"insert into notes (member_id, lesson_id, text, at) select member_id, {a}, text, at from notes where lesson_id = {b} on conflict (member_id, lesson_id) do update set text = notes.text || E'\n\n' || excluded.text", ct);
        await db.Database.ExecuteSqlAsync($"insert into bookmarks (member_id, lesson_id, at) select member_id, {a}, at from bookmarks where lesson_id = {b} on conflict do nothing", ct);
        await db.Database.ExecuteSqlAsync($"update lesson_questions set lesson_id = {a} where lesson_id = {b}", ct);
        trash.Put(lesson, clock.GetCurrentInstant());
        await Done(piece, ct, transaction);
        return Result.Done;
    }

    async Task Rewrite(Lesson lesson, LessonContent content, IReadOnlyList<Block> blocks, TeamActor by, CancellationToken ct)
    {
        content.Blocks = blocks;
        lesson.Version++;
        (lesson.ChangedAt, lesson.ChangedBy, lesson.Kinds) = (clock.GetCurrentInstant(), by.Name, Blocks.Kinds(blocks));
        db.Add(new LessonVersion { Id = ids.Next(), LessonId = lesson.Id, Version = lesson.Version, At = lesson.ChangedAt, By = by.Name, Title = lesson.Title, Blocks = blocks });
        await db.SaveChangesAsync(ct);
        await index.Lesson(lesson, blocks, ct);
    }

    /// <summary>What members did with blocks follows them into another lesson.</summary>
    async Task CarryAlong(IEnumerable<Block> blocks, LessonId to, CancellationToken ct)
    {
        var list = blocks.Select(b => b.Id).ToArray();
        await db.SheetTries.Where(t => list.Contains(t.BlockId)).ExecuteUpdateAsync(u => u.SetProperty(t => t.LessonId, to), ct);
        await db.FormEntries.Where(t => list.Contains(t.BlockId)).ExecuteUpdateAsync(u => u.SetProperty(t => t.LessonId, to), ct);
        await db.Played.Where(t => list.Contains(t.BlockId)).ExecuteUpdateAsync(u => u.SetProperty(t => t.LessonId, to), ct);
    }

    /// <summary>The same to many lessons.</summary>
    public async Task<Result<BulkDone>> Bulk(TeamActor by, IReadOnlyCollection<LessonId> lessons, BulkAction action, int? minutes, CancellationToken ct)
    {
        by.NeedEditor();
        if (action == BulkAction.Minutes && minutes is < 1 or > 6000) return Result.Refused("Minutes go from 1 to 6,000.", "Minutes");
        var wanted = lessons.ToArray();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var list = await db.Lessons.Where(l => wanted.Contains(l.Id) && l.TrashedAt == null).OrderBy(l => l.Position).ToListAsync(ct);
        if (list.Count == 0) return Result.Refused("Select some lessons first.");
        var at = clock.GetCurrentInstant();
        var left = new List<string>();
        var contents = action == BulkAction.Publish ? await db.LessonContents.AsNoTracking().Where(c => wanted.Contains(c.LessonId)).ToDictionaryAsync(c => c.LessonId, c => c.Blocks, ct) : [];
        var pieces = await db.Pieces.Where(p => list.Select(l => l.PieceId).Contains(p.Id)).ToDictionaryAsync(p => p.Id, ct);
        foreach (var l in list)
        {
            switch (action)
            {
                case BulkAction.Publish when contents[l.Id].Count == 0: left.Add($"“{l.Title}” is empty."); continue;
                case BulkAction.Publish when BlockRules.Problems(contents[l.Id]) is [var problem, ..]: left.Add($"“{l.Title}”: {problem.Text}"); continue;
                case BulkAction.Publish:
                    l.Ready = true;
                    release.WhenLate(l, pieces[l.PieceId], at);
                    break;
                case BulkAction.Unpublish:
                    if (l.ReleasedAt is not null) l.Withdraw();
                    l.Ready = false;
                    break;
                case BulkAction.Minutes: l.Minutes = minutes; break;
                case BulkAction.TeaserOn: l.Teaser = true; break;
                case BulkAction.TeaserOff: l.Teaser = false; break;
                case BulkAction.Delete: trash.Put(l, at); break;
            }
            l.Version++;
        }
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed([.. pieces.Keys], ct);
        release.Wake();
        return new BulkDone(list.Count - left.Count, left);
    }

    async Task Done(Piece piece, CancellationToken ct, Microsoft.EntityFrameworkCore.Storage.IDbContextTransaction? transaction = null, IEnumerable<PieceId>? others = null)
    {
        piece.Version++;
        piece.ChangedAt = clock.GetCurrentInstant();
        await db.SaveChangesAsync(ct);
        if (transaction is not null) await transaction.CommitAsync(ct);
        await catalogue.Changed([piece.Id, .. others ?? []], ct);
        release.Wake();
    }
}
