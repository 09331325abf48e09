using BrightCircle.App.Offer;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A price's words, and who may take it. What it costs never changes.</summary>
public sealed class PriceEditModel(EditPrice edit) : DeskPage
{
    public override string Place => "tiers";
    public Price Price { get; private set; } = null!;
    public Plan Plan => Now.PlanById[Price.PlanId];
    public string? Name { get; private set; }
    public string? Button { get; private set; }
    public Availability Availability { get; private set; }

    public override void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        base.OnPageHandlerExecuting(context);
        if (context.Result is not null) return;
        if (long.TryParse(RouteData.Values["id"] as string, out var id) && Now.PriceById.TryGetValue(new(id), out var price)) Price = price;
        else context.Result = NotFound();
    }

    public void OnGet() => (Name, Button, Availability) = (Price.Name, Price.Button, Price.Availability);

    public async Task<IActionResult> OnPost(string? name, string? button, Availability availability)
    {
        (Name, Button, Availability) = (name, button, availability);
        if (!ModelState.IsValid) return Page();
        var done = await edit.Words(Actor, Price.Id, name, button, availability, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("The price is saved.");
        return Redirect("/desk/tiers");
    }
}
