using BrightCircle.App.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class TrashModel(Trash trash, LessonPatterns patterns) : DeskPage
{
    public override string Place => "trash";
    public IReadOnlyList<Trashed> Rows { get; private set; } = [];
    public IReadOnlyList<LessonPattern> Patterns { get; private set; } = [];

    public async Task OnGet()
    {
        (Rows, Patterns) = await trash.List(Ct);
    }

    public async Task<IActionResult> OnPost(string kind, long item)
    {
        var back = await trash.Restore(Actor, kind, item, Ct);
        Tell(back.Ok ? "It is back, as it was." : back.Refusal!);
        return Redirect(back.Ok ? $"/desk/pieces/{back.Value.Value}" : "/desk/trash");
    }

    public async Task<IActionResult> OnPostPattern(long pattern)
    {
        await patterns.Remove(Actor, pattern, Ct);
        Tell("The pattern is gone; lessons made from it stay.");
        return Redirect("/desk/trash");
    }
}
