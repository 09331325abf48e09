using BrightCircle.App.Content;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed record VersionRow(int Version, NodaTime.Instant At, string By, string Title);

/// <summary>All saved versions of a lesson: look at one, see what changed from the one before (or another), bring one back.</summary>
public sealed class LessonHistoryModel(BrightContext db, SaveLesson save) : DeskPage
{
    const int PageSize = 40;
    public override string Place => "shelves";
    public Lesson Lesson { get; private set; } = null!;
    public IReadOnlyList<VersionRow> Versions { get; private set; } = [];
    public Parts.Pager Pager { get; private set; } = null!;
    public LessonVersion? Shown { get; private set; }
    public LessonVersion? Against { get; private set; }
    public IReadOnlyList<DiffLine> Lines { get; private set; } = [];

    public async Task<IActionResult> OnGet(long id, int? v, int? against, int p = 1)
    {
        if (!Now.LessonById.TryGetValue(new(id), out var lesson)) return NotFound();
        Lesson = lesson;
        p = Math.Max(1, p);
        var trip = new OneTrip(db);
        var all = db.LessonVersions.AsNoTracking().Where(x => x.LessonId == lesson.Id);
        var total = trip.Count(all);
        var page = trip.List(all.OrderByDescending(x => x.Version).Skip((p - 1) * PageSize).Take(PageSize).Select(x => new VersionRow(x.Version, x.At, x.By, x.Title)));
        // Without a number: the newest; without another to compare with: the one before.
        var two = trip.List(all.Where(x => v == null || x.Version <= v).OrderByDescending(x => x.Version).Take(2));
        var other = trip.First(all.Where(x => x.Version == against));
        var inUse = trip.List(db.Files.AsNoTracking().Where(f => db.FileUses.Any(u => u.User == FileUser.Lesson && u.UserId == lesson.Id.Value && u.FileId == f.Id)).Select(f => new { f.Id, f.Name }));
        await trip.Ask(Ct);
        (Versions, Pager) = (page.Value, new(p, total.Value, PageSize, n => $"?p={n}"));
        Shown = two.Value.FirstOrDefault(x => v is null || x.Version == v);
        if (Shown is null) return v is null ? Page() : NotFound();
        Against = against is null ? two.Value.ElementAtOrDefault(1) : other.Value;
        var names = inUse.Value.ToDictionary(f => f.Id, f => f.Name);
        // Files that only an older version used.
        var others = Shown.Blocks.Concat(Against?.Blocks ?? []).SelectMany(b => b.UsedFiles()).Distinct().Where(f => !names.ContainsKey(f)).ToArray();
        if (others.Length > 0) foreach (var f in await db.Files.AsNoTracking().Where(f => others.Contains(f.Id)).Select(f => new { f.Id, f.Name }).ToListAsync(Ct)) names[f.Id] = f.Name;
        var changes = new LessonChanges(f => names.GetValueOrDefault(f, "a file that is gone"), t => Now.TallyById.GetValueOrDefault(t)?.Name ?? "a tally that is gone");
        Lines = changes.Between(Against is { } old ? (old.Title, old.Blocks) : null, (Shown.Title, Shown.Blocks));
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, int v)
    {
        var done = await save.Restore(Actor, new(id), v, Ct);
        Tell(done.Ok ? $"Version {v} is back, as the newest one." : done.Refusal!);
        return Redirect(done.Ok ? $"/desk/lessons/{id}" : $"/desk/lessons/{id}/history?v={v}");
    }
}
