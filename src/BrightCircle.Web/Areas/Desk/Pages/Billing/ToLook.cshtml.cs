using BrightCircle.App.Billing;
using BrightCircle.Core.Billing;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>All payments that somebody has to look at, one by one.</summary>
public sealed class ToLookModel(LookAtPayment payments) : DeskPage
{
    public override string Place => "look-at";
    public IReadOnlyList<PaymentToLookAt> Open { get; private set; } = [];

    public async Task OnGet() => Open = await payments.Open(Ct);

    public async Task<IActionResult> OnPostSeen(long look)
    {
        var done = await payments.Settle(Actor, look, Ct);
        if (!done.Ok) Tell(done.Refusal!);
        return Redirect("/desk/payments/look");
    }
}
