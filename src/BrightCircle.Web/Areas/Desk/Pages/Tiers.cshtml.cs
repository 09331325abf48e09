using BrightCircle.App.Letters;
using BrightCircle.App.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class DeskTiersModel(SaveOffer offer, SiteAddress address) : DeskPage
{
    public override string Place => "tiers";
    public string Address => address.Url;
    public void OnGet() { }

    public async Task<IActionResult> OnPostArchive(long price, bool archived)
    {
        var done = await offer.Archive(Actor, new(price), archived, Ct);
        Tell(done.Ok ? archived ? "The price is off the offer. Those who have it keep it." : "The price is on offer again." : done.Refusal!);
        return Redirect("/desk/tiers");
    }
}
