using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A price's words, and who may take it. What it costs never changes.</summary>
public sealed class PriceEditModel(EditPrice edit, App.Settings.SiteAddress address, MemberList members) : DeskPage
{
    public override string Place => "tiers";
    public Price Price { get; private set; } = null!;
    public Plan Plan => Now.PlanById[Price.PlanId];
    public PriceWords Words { get; private set; } = null!;
    /// <summary>What can be offered beside it.</summary>
    public IReadOnlyList<Price> Extras => [.. Now.Prices.Where(p => p.Within(Now.PlanById[p.PlanId]) != Availability.Closed
        && CheckoutExtra.Refuses(p, Now.PlanById[p.PlanId], Price) is null)];
    public string Address => address.Url;

    public override void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        base.OnPageHandlerExecuting(context);
        if (context.Result is not null) return;
        if (long.TryParse(RouteData.Values["id"] as string, out var id) && Now.PriceById.TryGetValue(new(id), out var price)) Price = price;
        else context.Result = NotFound();
    }

    /// <summary>How many stand in the list it is for, as it is saved; null where it isn't for a list.</summary>
    public int? Listed { get; private set; }
    public string ListQuery => Price.Buyers is BuyerRule.Listed l ? MemberFilterPage.QueryOf(new(l.Filter)) : "";

    public async Task OnGet()
    {
        Words = PriceWords.Of(Price);
        await CountList();
    }

    async Task CountList() => Listed = Price.Buyers is BuyerRule.Listed l ? await members.Count(l.Filter, Ct) : null;

    public async Task<IActionResult> OnPost(PriceWords words)
    {
        Words = words;
        ModelState.Clear();
        var done = await edit.Words(Actor, Price.Id, words, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            await CountList();
            return Page();
        }
        Tell("The price is saved.");
        return Redirect("/desk/tiers");
    }
}
