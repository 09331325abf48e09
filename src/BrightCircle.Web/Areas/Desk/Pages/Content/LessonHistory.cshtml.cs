using BrightCircle.App.Content;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>All saved versions of a lesson: look at one, see what changed from the one before (or another), bring one back.</summary>
public sealed class LessonHistoryModel(LessonHistory history, SaveLesson save) : DeskPage
{
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
        var found = await history.Do(lesson.Id, v, against, p, Ct);
        (Versions, Shown, Against, Lines) = (found.Rows, found.Shown, found.Against, found.Lines);
        Pager = new(p, found.Count, LessonHistory.PageSize, n => $"?p={n}");
        if (Shown is null && v is not null) return NotFound();
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, int v)
    {
        var done = await save.Restore(Actor, new(id), v, Ct);
        Tell(done.Ok ? $"Version {v} is back, as the newest one." : done.Refusal!);
        return Redirect(done.Ok ? $"/desk/lessons/{id}" : $"/desk/lessons/{id}/history?v={v}");
    }
}
