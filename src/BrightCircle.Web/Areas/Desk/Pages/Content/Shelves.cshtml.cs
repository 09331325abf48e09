using BrightCircle.App.Content;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class DeskShelvesModel(SaveShelf save) : DeskPage
{
    public const int Newest = 6;
    public override string Place => "shelves";
    public void OnGet() { }

    public async Task<IActionResult> OnPostStep(long shelf, int by)
    {
        var done = await save.Step(Actor, new(shelf), by, Ct);
        if (!done.Ok) Tell(done.Refusal!);
        return Redirect("/desk/shelves");
    }
}
