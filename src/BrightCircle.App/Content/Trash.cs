using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>Something in the trash.</summary>
public sealed record Trashed(string Kind, long Id, string Title, string Where, Instant At, Instant GoneAt, int Lessons);

/// <summary>What is deleted stays for thirty days and can come back as it was, with all that members did in it.</summary>
public sealed class Trash(BrightContext db, Ids ids, Catalogue catalogue, IClock clock)
{
    public static readonly Duration Keeps = Duration.FromDays(30);

    internal void Put(Lesson lesson, Instant at)
    {
        lesson.TrashedAt = at;
        lesson.Version++;
        Purge(at);
    }

    /// <summary>One purge a day is enough: it takes all whose time is up.</summary>
    void Purge(Instant at)
    {
        var gone = at + Keeps;
        var key = $"purge-{gone.ToUnixTimeSeconds() / 86_400}";
        if (db.DueWork.Local.Any(d => d.Key == key) || db.DueWork.Any(d => d.Key == key)) return;
        db.DueWork.Add(new()
        {
            Id = ids.Next(),
            Kind = DueKind.Purge,
            SubjectId = gone.ToUnixTimeSeconds() / 86_400,
            DueAt = gone + Duration.FromDays(1),
            ReadyAt = gone + Duration.FromDays(1),
            Key = key
        });
    }

    public async Task<Result> PutPiece(TeamActor by, PieceId id, CancellationToken ct)
    {
        by.NeedEditor();
        var piece = await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return Result.Refused("This piece isn’t here any more.");
        piece.TrashedAt = clock.GetCurrentInstant();
        piece.Version++;
        Purge(piece.TrashedAt.Value);
        await db.SaveChangesAsync(ct);
        await catalogue.Changed([id], ct);
        return Result.Done;
    }

    /// <summary>A module with the lessons in it.</summary>
    public async Task<Result> PutModule(TeamActor by, ModuleId id, CancellationToken ct)
    {
        by.NeedEditor();
        var module = await db.Modules.FirstOrDefaultAsync(m => m.Id == id && m.TrashedAt == null, ct);
        if (module is null) return Result.Refused("This isn’t here any more.");
        var at = clock.GetCurrentInstant();
        module.TrashedAt = at;
        foreach (var l in await db.Lessons.Where(l => l.ModuleId == id && l.TrashedAt == null).ToListAsync(ct)) l.TrashedAt = at;
        Purge(at);
        await db.SaveChangesAsync(ct);
        await catalogue.Changed([module.PieceId], ct);
        return Result.Done;
    }

    public async Task<Result> PutLesson(TeamActor by, LessonId id, CancellationToken ct)
    {
        by.NeedEditor();
        var lesson = await db.Lessons.FirstOrDefaultAsync(l => l.Id == id && l.TrashedAt == null, ct);
        if (lesson is null) return Result.Refused("This lesson isn’t here any more.");
        Put(lesson, clock.GetCurrentInstant());
        await db.SaveChangesAsync(ct);
        await catalogue.Changed([lesson.PieceId], ct);
        return Result.Done;
    }

    public async Task<Result<PieceId>> Restore(TeamActor by, string kind, long id, CancellationToken ct)
    {
        by.NeedEditor();
        PieceId piece;
        switch (kind)
        {
            case "piece":
                var p = await db.Pieces.FirstOrDefaultAsync(x => x.Id == new PieceId(id) && x.TrashedAt != null, ct);
                if (p is null) return Result.Refused("It isn’t in the trash any more.");
                p.TrashedAt = null;
                p.Version++;
                piece = p.Id;
                break;
            case "module":
                var m = await db.Modules.FirstOrDefaultAsync(x => x.Id == new ModuleId(id) && x.TrashedAt != null, ct);
                if (m is null) return Result.Refused("It isn’t in the trash any more.");
                var at = m.TrashedAt;
                foreach (var l in await db.Lessons.Where(l => l.ModuleId == m.Id && l.TrashedAt == at).ToListAsync(ct)) l.TrashedAt = null;
                m.TrashedAt = null;
                piece = m.PieceId;
                break;
            case "lesson":
                var lesson = await db.Lessons.FirstOrDefaultAsync(x => x.Id == new LessonId(id) && x.TrashedAt != null, ct);
                if (lesson is null) return Result.Refused("It isn’t in the trash any more.");
                // Its module may be in the trash still: then it comes back before the first one.
                if (lesson.ModuleId is { } module && await db.Modules.AnyAsync(x => x.Id == module && x.TrashedAt != null, ct)) lesson.ModuleId = null;
                lesson.TrashedAt = null;
                lesson.Version++;
                piece = lesson.PieceId;
                break;
            default: return Result.Refused("There is no such thing in the trash.");
        }
        await db.SaveChangesAsync(ct);
        await catalogue.Changed([piece], ct);
        return catalogue.Now.PieceById.ContainsKey(piece) ? piece
            : Result.Refused("It is back in its piece, which is in the trash itself. Bring that back too.");
    }

    /// <summary>All that is in the trash, the newest first, and the patterns kept beside it.</summary>
    public async Task<(IReadOnlyList<Trashed> Rows, IReadOnlyList<LessonPattern> Patterns)> List(CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var patterns = trip.List(LessonPatterns.InOrder(db));
        var pieces = trip.List(db.Pieces.AsNoTracking().Where(p => p.TrashedAt != null)
            .Select(p => new Trashed("piece", p.Id.Value, p.Title, db.Shelves.First(s => s.Id == p.ShelfId).Name, p.TrashedAt!.Value, p.TrashedAt!.Value,
            db.Lessons.Count(l => l.PieceId == p.Id && l.TrashedAt == null))));
        var modules = trip.List(db.Modules.AsNoTracking().Where(m => m.TrashedAt != null)
            .Select(m => new Trashed("module", m.Id.Value, m.Title, db.Pieces.First(p => p.Id == m.PieceId).Title, m.TrashedAt!.Value, m.TrashedAt!.Value,
            db.Lessons.Count(l => l.ModuleId == m.Id && l.TrashedAt == m.TrashedAt))));
        var lessons = trip.List(db.Lessons.AsNoTracking()
            .Where(l => l.TrashedAt != null && !db.Modules.Any(m => m.Id == l.ModuleId && m.TrashedAt == l.TrashedAt))
            .Select(l => new Trashed("lesson", l.Id.Value, l.Title, db.Pieces.First(p => p.Id == l.PieceId).Title, l.TrashedAt!.Value, l.TrashedAt!.Value, 0)));
        await trip.Ask(ct);
        return ([.. pieces.Value.Concat(modules.Value).Concat(lessons.Value).Select(t => t with { GoneAt = t.At + Keeps }).OrderByDescending(t => t.At)],
            patterns.Value);
    }
}

/// <summary>Takes away for good what has been in the trash for thirty days.</summary>
public sealed class PurgeTrash(BrightContext db) : IDueHandler
{
    public DueKind Kind => DueKind.Purge;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var before = items.Max(i => i.Moment) - Trash.Keeps;
        var lessons = db.Lessons.Where(l => l.TrashedAt <= before || db.Pieces.Any(p => p.Id == l.PieceId && p.TrashedAt <= before)).Select(l => l.Id);
        await db.SheetTries.Where(t => lessons.Contains(t.LessonId)).ExecuteDeleteAsync(ct);
        await db.FormEntries.Where(t => lessons.Contains(t.LessonId)).ExecuteDeleteAsync(ct);
        await db.Played.Where(t => lessons.Contains(t.LessonId)).ExecuteDeleteAsync(ct);
        happened.Add("trash emptied", await db.Lessons.Where(l => l.TrashedAt <= before).ExecuteDeleteAsync(ct)
            + await db.Modules.Where(m => m.TrashedAt <= before).ExecuteDeleteAsync(ct)
                + await db.Pieces.Where(p => p.TrashedAt <= before).ExecuteDeleteAsync(ct));
        await db.Database.ExecuteSqlAsync(
            $"""
            delete from file_uses u where u."user" = 'Lesson' and not exists (select 1 from lessons l where l.id = u.user_id)
                or u."user" = 'Piece' and not exists (select 1 from pieces p where p.id = u.user_id)
            """, ct);
    }
}
