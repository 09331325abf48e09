using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>Lessons kept as patterns: new lessons start from them.</summary>
public sealed class LessonPatterns(BrightContext db, Ids ids, IClock clock)
{
    public async Task<IReadOnlyList<LessonPattern>> List(CancellationToken ct) =>
        await InOrder(db).ToListAsync(ct);

    /// <summary>As they are offered everywhere.</summary>
    internal static IQueryable<LessonPattern> InOrder(BrightContext db) => db.LessonPatterns.AsNoTracking().OrderBy(p => p.Name);

    public async Task<Result<long>> Keep(TeamActor by, LessonId id, string? name, CancellationToken ct)
    {
        by.NeedEditor();
        var wanted = name?.Trim() ?? "";
        if (wanted.Length is 0 or > 80) return Result.Refused("A pattern needs a name of 80 letters at most.", "Name");
        if (await db.LessonPatterns.AnyAsync(p => p.Name == wanted, ct)) return Result.Refused($"There is a pattern called {wanted} already.", "Name");
        var lesson = await db.Lessons.AsNoTracking().SingleAsync(l => l.Id == id, ct);
        var content = await db.LessonContents.AsNoTracking().SingleAsync(c => c.LessonId == id, ct);
        var pattern = db.Add(new LessonPattern
        {
            Id = ids.Next(),
            Name = wanted,
            Minutes = lesson.Minutes,
            DoneWhen = lesson.DoneWhen,
            Blocks = content.Blocks,
            CreatedAt = clock.GetCurrentInstant(),
        }).Entity;
        await db.SaveChangesAsync(ct);
        return pattern.Id;
    }

    public async Task Remove(TeamActor by, long id, CancellationToken ct)
    {
        by.NeedEditor();
        await db.LessonPatterns.Where(p => p.Id == id).ExecuteDeleteAsync(ct);
    }
}
