using BrightCircle.App.Learning;
using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class SheetFiguresModel(MarkSheets sheets) : DeskPage
{
    public override string Place => "shelves";
    public Lesson Lesson { get; private set; } = null!;
    public SheetView View { get; private set; } = null!;

    public async Task<IActionResult> OnGet(long id, long block)
    {
        if (!Now.LessonById.TryGetValue(new(id), out var lesson) || await sheets.Figures(new(id), new(block), Ct) is not { } view) return NotFound();
        (Lesson, View) = (lesson, view);
        return Page();
    }
}
