using BrightCircle.App.Content;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The pages the owner writes, and those that could be written.</summary>
public sealed class SitePagesModel(SitePages pages) : DeskPage
{
    public override string Place => "pages";

    public SitePage? Find(SitePageKind kind, PlanId? plan = null, PriceId? price = null) =>
        Now.Pages.FirstOrDefault(p => p.Kind == kind && p.PlanId == plan && p.PriceId == price);

    public void OnGet() { }

    public async Task<IActionResult> OnPost(SitePageKind kind, long? plan, long? price)
    {
        var made = await pages.Make(Actor, kind, plan is { } p ? new PlanId(p) : null, price is { } q ? new PriceId(q) : null, Ct);
        if (made.Ok) return Redirect($"/desk/pages/{made.Value}");
        Tell(made.Refusal!);
        return Redirect("/desk/pages");
    }
}

/// <summary>A place for words, for the list.</summary>
public sealed record SitePageRow(SitePagesModel Page, string Word, string About, SitePageKind Kind, PlanId? Plan = null, PriceId? Price = null)
{
    public SitePage? Written => Page.Find(Kind, Plan, Price);
}
