using BrightCircle.App.Billing;
using BrightCircle.Data;
using BrightCircle.Web.Areas.Front.Pages;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class CardBackModel(CompleteCheckout complete) : MemberPage
{
    public async Task<IActionResult> OnGet(string? c)
    {
        if (Visitor.IsLooking) return Redirect("/status/looking");
        var checkout = CheckoutToken.Read(HttpContext, c) is { } id ? await complete.ByReturn(id, Ct) : null;
        // Another person's checkout is finished all the same, and told to nobody but them.
        if (checkout?.MemberId == Visitor.Member)
            Tell(checkout switch
            {
                { State: CheckoutState.Completed, Purpose: CheckoutPurpose.ConfirmPayment } => "Thank you, it’s paid, and the card is kept.",
                { State: CheckoutState.Completed } => "Your card is kept.",
                _ => "The payment service hasn’t told us yet what came of it. Look again in a minute.",
            });
        return Redirect("/me/account");
    }
}
