using BrightCircle.App.Letters;
using BrightCircle.App.Offer;
using BrightCircle.App.Settings;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class DeskTiersModel(EditPrice edit, SiteAddress address) : DeskPage
{
    public override string Place => "tiers";
    public string Address => address.Url;
    public void OnGet() { }

    public async Task<IActionResult> OnPostMove(long price, int by)
    {
        var done = await edit.Move(Actor, new(price), by, Ct);
        if (!done.Ok) Tell(done.Refusal!);
        return Redirect("/desk/tiers");
    }
}
