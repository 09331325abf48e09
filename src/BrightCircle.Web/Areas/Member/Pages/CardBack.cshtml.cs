using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.Areas.Front.Pages;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class CardBackModel(JoinPlan join) : MemberPage
{
    public async Task<IActionResult> OnGet(string? c)
    {
        var checkout = CheckoutToken.Read(HttpContext, c) is { } id ? await join.CompleteOnReturn(id, Ct) : null;
        Tell(checkout switch
        {
            { State: CheckoutState.Completed, Purpose: CheckoutPurpose.ConfirmPayment } => "Thank you, it’s paid, and the card is kept.",
            { State: CheckoutState.Completed } => "Your card is kept.",
            _ => "The payment service hasn’t told us yet what came of it. Look again in a minute.",
        });
        return Redirect("/me/account");
    }
}
