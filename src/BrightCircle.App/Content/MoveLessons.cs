using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>Lessons into another module or piece.</summary>
public sealed class MoveLessons(BrightContext db, OutlineWork work, Catalogue catalogue, ReleaseContent release, IClock clock)
{
    /// <summary>Lessons to the end of another module, perhaps of another piece. Their openings, answers and notes go with them.</summary>
    public async Task<Result> Do(TeamActor by, IReadOnlyCollection<LessonId> lessons, PieceId to, ModuleId? module, CancellationToken ct)
    {
        by.NeedEditor();
        if (await work.Known(to, ct) is not { } target) return OutlineWork.Gone;
        var wanted = lessons.ToArray();
        var moving = await db.Lessons.Where(l => wanted.Contains(l.Id) && l.TrashedAt == null).ToListAsync(ct);
        if (moving.Count == 0) return OutlineWork.Gone;
        var outline = await work.Outline(to, ct);
        if (module is { } m && outline.Modules.All(x => x.Id != m)) return OutlineWork.Gone;
        var sources = moving.Select(l => l.PieceId).Where(p => p != to).Distinct().ToArray();
        // In the order they stand in now, wherever they come from.
        var order = catalogue.Now.Pieces.SelectMany(p => p.Outline.Lessons).Select((l, i) => (l.Id, i)).ToDictionary(x => x.Id, x => x.i);
        var at = (outline.Parts.FirstOrDefault(p => p.Module?.Id == module)?.Lessons.Where(l => !wanted.Contains(l.Id)).Select(l => l.Position).DefaultIfEmpty()
            .Max() ?? 0) + 1;
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
        await work.Done(target, ct, transaction, sources);
        return Result.Done;
    }
}
