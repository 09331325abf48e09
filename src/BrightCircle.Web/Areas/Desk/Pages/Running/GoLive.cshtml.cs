using BrightCircle.App.Running;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class GoLiveModel(GoLive live) : DeskPage
{
    public override string Place => "live";
    /// <summary>Null where it is live.</summary>
    public LeavesWithTrial? Leaves { get; private set; }

    public async Task OnGet() => Leaves = Now.Site!.IsTrial ? await live.Look(Ct) : null;

    public async Task<IActionResult> OnPost(string? siteName)
    {
        var done = await live.Do(Actor, siteName, Ct);
        if (done.Ok)
        {
            Tell("It is live. Good luck!");
            return Redirect("/desk");
        }
        await OnGet();
        Refuse(done.Refusal!, done.Field);
        return Page();
    }
}
