using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Content;

/// <param name="Version">The version the editor had: somebody else's newer one is never overwritten unseen.</param>
public sealed record LessonDraft(string? Title, int? Minutes, bool Teaser, DoneWhen DoneWhen, EditionId? Edition, bool Ready, IReadOnlyList<Block> Blocks,
    int Version);

/// <summary>What came of saving a lesson.</summary>
public abstract record LessonSaved
{
    private LessonSaved() { }
    /// <param name="Problems">What keeps it from being ready.</param>
    public sealed record Done(int Version, Instant At, IReadOnlyList<BlockProblem> Problems) : LessonSaved;
    public sealed record Refused(string Why, string? Field = null) : LessonSaved;
    /// <summary>Somebody saved it meanwhile: nothing was written.</summary>
    public sealed record Overtaken(int Version, string By, Instant At) : LessonSaved;
}

/// <summary>Saves a lesson. Every saved version is kept and can be looked at, compared and brought back.</summary>
public sealed class SaveLesson(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, IndexContent index, ReleaseContent release)
{
    public async Task<LessonSaved> Do(TeamActor by, LessonId id, LessonDraft draft, CancellationToken ct)
    {
        by.NeedEditor();
        var title = draft.Title?.Trim() ?? "";
        if (title.Length is 0 or > 160) return new LessonSaved.Refused("A lesson needs a title of 160 letters at most.", "Title");
        if (draft.Minutes is < 1 or > 6000) return new LessonSaved.Refused("Minutes go from 1 to 6,000.", "Minutes");
        if (ContentLimits.Beyond(draft.Blocks) is { } beyond) return new LessonSaved.Refused(beyond);
        if (draft.Edition is { } e && !catalogue.Now.EditionById.ContainsKey(e)) return new LessonSaved.Refused("This edition isn’t here any more.", "Edition");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var lesson = await db.Lessons.FirstOrDefaultAsync(l => l.Id == id && l.TrashedAt == null, ct);
        if (lesson is null) return new LessonSaved.Refused("This lesson isn’t here any more. It may be in the trash.");
        if (lesson.Version != draft.Version) return new LessonSaved.Overtaken(lesson.Version, lesson.ChangedBy, lesson.ChangedAt);
        var piece = await db.Pieces.SingleAsync(p => p.Id == lesson.PieceId, ct);
        if (lesson.ReleasedAt is not null && lesson.EditionId != draft.Edition)
            return new LessonSaved.Refused("A released lesson stays in its edition.", "Edition");
        var problems = BlockRules.Problems(draft.Blocks);
        var ready = draft.Ready || lesson.ReleasedAt is not null;
        if (ready && !lesson.Ready && problems.Count > 0) return new LessonSaved.Refused($"It can’t be ready yet. {problems[0].Text}");
        var content = await db.LessonContents.SingleAsync(c => c.LessonId == id, ct);
        var at = clock.GetCurrentInstant();
        // A single lesson and its piece go by one name, as long as nobody parted them.
        if (piece.Title == lesson.Title && title != lesson.Title && await db.Lessons.CountAsync(l => l.PieceId == piece.Id && l.TrashedAt == null, ct) == 1)
            (piece.Title, piece.Version) = (title, piece.Version + 1);
        (lesson.Title, lesson.Minutes, lesson.Teaser, lesson.DoneWhen, lesson.EditionId, lesson.Ready) =
            (title, draft.Minutes, draft.Teaser, draft.DoneWhen, draft.Edition, ready);
        content.Blocks = draft.Blocks;
        Changed(lesson, draft.Blocks, by, at);
        if (ready) release.WhenLate(lesson, piece, at);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateConcurrencyException)
        {
            var now = await db.Lessons.AsNoTracking().SingleAsync(l => l.Id == id, ct);
            return new LessonSaved.Overtaken(now.Version, now.ChangedBy, now.ChangedAt);
        }
        await index.Lesson(lesson, draft.Blocks, ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed([piece.Id], ct);
        release.Wake();
        return new LessonSaved.Done(lesson.Version, at, problems);
    }

    /// <summary>Counts the version up and keeps it.</summary>
    void Changed(Lesson lesson, IReadOnlyList<Block> blocks, TeamActor by, Instant at)
    {
        lesson.Version++;
        (lesson.ChangedAt, lesson.ChangedBy, lesson.Kinds) = (at, by.Name, Blocks.Kinds(blocks));
        db.Add(new LessonVersion
        {
            Id = ids.Next(),
            LessonId = lesson.Id,
            Version = lesson.Version,
            At = at,
            By = by.Name,
            Title = lesson.Title,
            Blocks = blocks
        });
    }

    /// <summary>Brings an older version back, as a new one.</summary>
    public async Task<Result> Restore(TeamActor by, LessonId id, int version, CancellationToken ct)
    {
        by.NeedEditor();
        var old = await db.LessonVersions.AsNoTracking().FirstOrDefaultAsync(v => v.LessonId == id && v.Version == version, ct);
        var lesson = await db.Lessons.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id, ct);
        if (old is null || lesson is null) return Result.Refused("This version isn’t here any more.");
        return await Do(by, id, new(old.Title, lesson.Minutes, lesson.Teaser, lesson.DoneWhen, lesson.EditionId, lesson.Ready, old.Blocks, lesson.Version),
            ct) switch
        {
            LessonSaved.Done => Result.Done,
            LessonSaved.Refused r => Result.Refused(r.Why),
            LessonSaved.Overtaken o => Result.Refused($"{o.By} saved this lesson just now. Look again."),
            _ => throw new InvalidOperationException(),
        };
    }
}

/// <summary>Who has a lesson open in the editor. In real time, whatever the house clock says.</summary>
public sealed class EditingNow(BrightContext db, NpgsqlDataSource source, IWallClock wall)
{
    static readonly Duration Fresh = Duration.FromSeconds(45);

    /// <summary>Says that somebody is at it, and reads who else is.</summary>
    internal NpgsqlBatchCommand Command(TeamActor by, LessonId lesson) => new("""
        with here as (
            insert into editing (lesson_id, account_id, name, at) select l.id, $2, $3, $4 from lessons l where l.id = $1
            on conflict (lesson_id, account_id) do update set at = excluded.at)
        select name from editing where lesson_id = $1 and account_id <> $2 and at > $5 order by name
        """)
    {
        Parameters = { new() { Value = lesson.Value }, new() { Value = by.AccountId }, new() { Value = by.Name }, new() { Value = wall.Moment },
        new() { Value = wall.Moment - Fresh } }
    };

    internal static async Task<IReadOnlyList<string>> Names(NpgsqlDataReader r, CancellationToken ct)
    {
        var names = new List<string>();
        while (await r.ReadAsync(ct)) names.Add(r.GetString(0));
        return names;
    }

    public async Task<IReadOnlyList<string>> Beat(TeamActor by, LessonId lesson, CancellationToken ct)
    {
        await using var batch = source.CreateBatch();
        batch.BatchCommands.Add(Command(by, lesson));
        await using var r = await batch.ExecuteReaderAsync(ct);
        return await Names(r, ct);
    }

    public async Task Leave(TeamActor by, LessonId lesson, CancellationToken ct) =>
        await db.Editing.Where(e => e.LessonId == lesson && e.AccountId == by.AccountId).ExecuteDeleteAsync(ct);
}
