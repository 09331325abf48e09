using BrightCircle.App.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class TrashModel(BrightContext db, Trash trash, SaveLesson lessons) : DeskPage
{
    public override string Place => "trash";
    public IReadOnlyList<Trashed> Rows { get; private set; } = [];
    public IReadOnlyList<LessonPattern> Patterns { get; private set; } = [];

    public async Task OnGet()
    {
        var trip = new OneTrip(db);
        var patterns = trip.List(db.LessonPatterns.AsNoTracking().OrderBy(p => p.Name));
        Rows = await trash.List(Ct, trip);
        Patterns = patterns.Value;
    }

    public async Task<IActionResult> OnPost(string kind, long item)
    {
        var back = await trash.Restore(Actor, kind, item, Ct);
        Tell(back.Ok ? "It is back, as it was." : back.Refusal!);
        return Redirect(back.Ok ? $"/desk/pieces/{back.Value.Value}" : "/desk/trash");
    }

    public async Task<IActionResult> OnPostPattern(long pattern)
    {
        await lessons.RemovePattern(Actor, pattern, Ct);
        Tell("The pattern is gone; lessons made from it stay.");
        return Redirect("/desk/trash");
    }
}
