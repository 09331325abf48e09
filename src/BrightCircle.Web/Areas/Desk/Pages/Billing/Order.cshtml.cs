using BrightCircle.App.Billing;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One order: what it is of, how it stands, what was agreed to.</summary>
public sealed class OrderModel(FindOrder find, ReceiveMoney receive) : DeskPage
{
    public override string Place => "orders";
    public OrderFile Order { get; private set; } = null!;
    public bool CanConfirm => Actor.Role is TeamRole.Owner or TeamRole.Support;
    /// <summary>For one that wasn't gone through with: whether they are reminded of it.</summary>
    public string? Reminder => Order.Checkout switch
    {
        { State: not CheckoutState.Open } or { Voucher: not null } => null,
        { RemindedAt: { } at } => $"They were reminded by a letter on {FullDay(at)}.",
        { MayRemind: true } => "They said that they may be reminded: a letter goes a day after they began, unless they come back.",
        _ => "They didn’t say that they may be reminded.",
    };
    public string Today => LocalDatePattern.Iso.Format(Now.Calendar.Date(Moment));

    public async Task<IActionResult> OnGet(long id)
    {
        if (await find.Do(id, null, Ct) is not { } order) return NotFound();
        Order = order;
        return Page();
    }

    public async Task<IActionResult> OnPostReceived(long id, string? day)
    {
        if (!LocalInput.TryReadDay(day, out var on)) Tell("On which day did it come?");
        else
        {
            var done = await receive.Confirm(Actor, id, on, Ct);
            Tell(done.Ok ? "Noted. They have been written to." : done.Refusal!);
        }
        return Redirect($"/desk/orders/{id}");
    }

    public async Task<IActionResult> OnPostCallOff(long id)
    {
        var done = await receive.CallOff(Actor, id, null, Ct);
        Tell(done.Ok ? "The order is called off." : done.Refusal!);
        return Redirect($"/desk/orders/{id}");
    }
}
