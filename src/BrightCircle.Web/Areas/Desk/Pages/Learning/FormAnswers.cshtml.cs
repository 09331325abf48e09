using BrightCircle.App.Learning;
using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class FormAnswersModel(MarkSheets sheets) : DeskPage
{
    public override string Place => "shelves";
    public Lesson Lesson { get; private set; } = null!;
    public FormView View { get; private set; } = null!;
    public string? Week { get; private set; }
    public Pager Pager { get; private set; } = null!;

    public async Task<IActionResult> OnGet(long id, long block, string? week, int p = 1)
    {
        if (!await Load(id, block, week, Math.Max(1, p))) return NotFound();
        return Page();
    }

    async Task<bool> Load(long id, long block, string? week, int p)
    {
        Week = string.IsNullOrEmpty(week) ? null : week;
        if (!Now.LessonById.TryGetValue(new(id), out var lesson) || await sheets.Answers(new(id), new(block), Week, p, Ct) is not { } view) return false;
        (Lesson, View) = (lesson, view);
        Pager = new(p, view.Total, MarkSheets.PageSize, n => $"?week={Week}&p={n}");
        return true;
    }

    public async Task<IActionResult> OnGetCsv(long id, long block)
    {
        if (!await Load(id, block, null, 1)) return NotFound();
        Response.ContentType = "text/csv; charset=utf-8";
        Response.Headers.ContentDisposition = "attachment; filename=\"answers.csv\"";
        await sheets.WriteCsv(View, Response.Body, Ct);
        return new EmptyResult();
    }
}
