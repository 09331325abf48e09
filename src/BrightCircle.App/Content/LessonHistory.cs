using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

public sealed record VersionRow(int Version, Instant At, string By, string Title);

/// <summary>A page of a lesson’s saved versions, one of them, the one it is compared with, and what changed between the two.</summary>
public sealed record LessonVersions(IReadOnlyList<VersionRow> Rows, int Count, LessonVersion? Shown, LessonVersion? Against, IReadOnlyList<DiffLine> Lines);

/// <summary>The saved versions of a lesson.</summary>
public sealed class LessonHistory(BrightContext db, Catalogue catalogue)
{
    public const int PageSize = 40;

    /// <param name="version">Which one is shown; without a number the newest.</param>
    /// <param name="against">Which one it is compared with; without a number the one before.</param>
    public async Task<LessonVersions> Do(LessonId lesson, int? version, int? against, int page, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var all = db.LessonVersions.AsNoTracking().Where(x => x.LessonId == lesson);
        var total = trip.Count(all);
        var rows = trip.List(all.OrderByDescending(x => x.Version).Skip((page - 1) * PageSize).Take(PageSize)
            .Select(x => new VersionRow(x.Version, x.At, x.By, x.Title)));
        var two = trip.List(all.Where(x => version == null || x.Version <= version).OrderByDescending(x => x.Version).Take(2));
        var other = trip.First(all.Where(x => x.Version == against));
        var inUse = trip.List(db.Files.AsNoTracking()
            .Where(f => db.FileUses.Any(u => u.User == FileUser.Lesson && u.UserId == lesson.Value && u.FileId == f.Id)).Select(f => new { f.Id, f.Name }));
        await trip.Ask(ct);
        var shown = two.Value.FirstOrDefault(x => version is null || x.Version == version);
        var before = shown is null ? null : against is null ? two.Value.ElementAtOrDefault(1) : other.Value;
        if (shown is null) return new(rows.Value, total.Value, null, null, []);
        var names = inUse.Value.ToDictionary(f => f.Id, f => f.Name);
        // Files that only an older version used.
        var others = shown.Blocks.Concat(before?.Blocks ?? []).SelectMany(b => b.UsedFiles()).Distinct().Where(f => !names.ContainsKey(f)).ToArray();
        if (others.Length > 0)
            foreach (var f in await db.Files.AsNoTracking().Where(f => others.Contains(f.Id)).Select(f => new { f.Id, f.Name }).ToListAsync(ct))
                names[f.Id] = f.Name;
        var changes = new LessonChanges(f => names.GetValueOrDefault(f, "a file that is gone"),
            t => catalogue.Now.TallyById.GetValueOrDefault(t)?.Name ?? "a tally that is gone");
        return new(rows.Value, total.Value, shown, before, changes.Between(before is { } old ? (old.Title, old.Blocks) : null, (shown.Title, shown.Blocks)));
    }
}
