using BrightCircle.App.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>All who have a price are moved to another one, with notice; and the moves there were.</summary>
public sealed class PriceMoveModel(MovePrice move) : DeskPage
{
    public override string Place => "tiers";
    public Price Price { get; private set; } = null!;
    public Plan Plan => Now.PlanById[Price.PlanId];
    public IReadOnlyList<Price> Ways => [.. move.WaysFrom(Price)];
    public Price? To { get; private set; }
    public string On { get; private set; } = "";
    public PriceMoveLook? Look { get; private set; }
    public IReadOnlyList<PriceMove> Moves { get; private set; } = [];
    public bool CanTakeBack(PriceMove m) => Now.Calendar.At(m.On.AtMidnight()) > Moment;

    public override void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        base.OnPageHandlerExecuting(context);
        if (context.Result is not null) return;
        if (long.TryParse(RouteData.Values["id"] as string, out var id) && Now.PriceById.TryGetValue(new(id), out var price)) Price = price;
        else context.Result = NotFound();
    }

    async Task Show(long? to, string? on)
    {
        To = Ways.FirstOrDefault(p => p.Id.Value == to) ?? (Ways.Count > 0 ? Ways[0] : null);
        On = on ?? NodaTime.Text.LocalDatePattern.Iso.Format(Now.Calendar.Date(Moment).PlusDays(30));
        (Look, Moves) = await move.Look(Price, To, Ct);
    }

    public Task OnGet() => Show(null, null);

    public async Task<IActionResult> OnPostLook(long to, string? on)
    {
        ModelState.Clear();
        await Show(to, on);
        return Page();
    }

    public async Task<IActionResult> OnPost(long to, string? on)
    {
        ModelState.Clear();
        if (LocalInput.DayOrNone(on) is not { } day) Refuse("From which day?", "On");
        else if (await move.Do(Actor, Price.Id, new(to), day, Ct) is { Ok: false } refused) Refuse(refused.Refusal!, refused.Field);
        else
        {
            Tell("They are being written to. How far it is stands below.");
            return Redirect($"/desk/prices/{Price.Id.Value}/move");
        }
        await Show(to, on);
        return Page();
    }

    public async Task<IActionResult> OnPostBack([FromForm(Name = "move")] long id)
    {
        var done = await move.TakeBack(Actor, id, Ct);
        Tell(done.Ok ? "It is taken back: nobody is moved. Those who were told may want to hear it from you." : done.Refusal!);
        return Redirect($"/desk/prices/{Price.Id.Value}/move");
    }
}
