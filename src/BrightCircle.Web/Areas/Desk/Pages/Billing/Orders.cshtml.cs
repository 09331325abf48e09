using BrightCircle.App.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The orders by how they stand; those that wait for their money are confirmed here, one or many.</summary>
public sealed class OrdersModel(OrderList orders, ReceiveMoney receive) : DeskPage
{
    public override string Place => "orders";
    public OrderPage List { get; private set; } = null!;
    [BindProperty(SupportsGet = true)] public OrderShown Shown { get; set; }
    [BindProperty(SupportsGet = true)] public string? Q { get; set; }

    public static IReadOnlyList<(OrderShown, string)> Kinds { get; } = [(OrderShown.Waiting, "waiting"), (OrderShown.Done, "done"),
        (OrderShown.HalfWay, "left half-way"), (OrderShown.Vouchers, "vouchers"), (OrderShown.Over, "given up")];

    public bool HasOtherWays => Now.Site!.Ways.Any(w => w.Way != PayWay.Card);
    public bool CanConfirm => Shown == OrderShown.Waiting && Actor.Role is TeamRole.Owner or TeamRole.Support;
    public string Today => LocalDatePattern.Iso.Format(Now.Calendar.Date(Moment));
    public Pager Pager { get; private set; } = null!;

    public string Says => Shown switch
    {
        OrderShown.Waiting => $"{Count(List.Count, "order")} whose money is on its way by transfer or by hand.",
        OrderShown.Done => $"{Count(List.Count, "order")} that went through.",
        OrderShown.HalfWay => $"{Count(List.Count, "person", "people")} who began in the last thirty days and went away. Then it is forgotten.",
        OrderShown.Vouchers => $"{Count(List.Count, "voucher")} bought for somebody else.",
        OrderShown.Over => $"{Count(List.Count, "order")} called off, or whose money didn’t come.",
        _ => throw new InvalidOperationException($"No such list: {Shown}"),
    };

    public string None => Shown switch
    {
        OrderShown.Waiting => HasOtherWays ? "Nothing waits. What is paid by card never does." : "Nothing waits: everything is paid by card. Other ways to pay "
            + "are set up in the settings, under Paying.",
        OrderShown.Vouchers => "No voucher has been bought. A price that is paid once can be sold as one: tick it on the price’s page.",
        OrderShown.Done => "No order has gone through yet.",
        OrderShown.HalfWay => "Nobody went away half-way in the last thirty days.",
        OrderShown.Over => "No order has been called off or given up.",
        _ => throw new InvalidOperationException($"No such list: {Shown}"),
    };

    public static string Stands(Checkout o, BrightPage page) => o.State switch
    {
        CheckoutState.Open => $"left on {page.Day(o.CreatedAt)}",
        CheckoutState.Placed => $"until {page.Day(o.OpenUntil!.Value)}{(o.RemindedAt is not null ? ", reminded" : "")}",
        CheckoutState.Completed => o.RefusedBecause is null ? "done" : "refused",
        CheckoutState.Expired => "given up",
        CheckoutState.CalledOff => "called off",
        _ => throw new InvalidOperationException($"No such state: {o.State}"),
    };

    public async Task OnGet([FromQuery(Name = "page")] int number = 1)
    {
        if (!Enum.IsDefined(Shown)) Shown = OrderShown.Waiting;
        List = await orders.Page(Shown, Q, number, Ct);
        Pager = new(Math.Max(1, number), List.Count, OrderList.PageSize, n => $"?shown={Shown}&q={Uri.EscapeDataString(Q ?? "")}&page={n}");
    }

    public async Task<IActionResult> OnPostReceived(long[]? orders, string? day)
    {
        if (!LocalInput.TryReadDay(day, out var on)) Tell("On which day did it come?");
        else if (orders is not { Length: > 0 }) Tell("Mark the orders whose money is here.");
        else
        {
            var (done, no) = (0, new List<string>());
            foreach (var order in orders.Take(OrderList.PageSize))
                if (await receive.Confirm(Actor, order, on, Ct) is { Ok: false } refused) no.Add(refused.Refusal!);
                else done++;
            Tell(string.Join(" ", no.Distinct().Prepend(done > 0 ? $"{Count(done, "order")} paid." : "").Where(t => t.Length > 0)));
        }
        return Redirect("/desk/orders");
    }
}
