using BrightCircle.App.Billing;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>Back from the Till: whatever came first, callback or browser, it is done once. The browser that began it is signed in, once; no other is.</summary>
public sealed class JoinBackModel(CompleteCheckout complete, SignInManager<Account> signIn) : BrightPage
{
    public string Again => Request.Path + Request.QueryString;

    public async Task<IActionResult> OnGet(string? c)
    {
        if (CheckoutToken.Read(HttpContext, c) is not { } id) return Redirect("/tiers");
        var secret = CheckoutToken.SecretOf(HttpContext);
        var checkout = await complete.ByReturn(id, Ct);
        if (checkout is null) return Redirect("/tiers");
        if (checkout.State != CheckoutState.Completed) return Page();
        if (Visitor.SignedIn is null && await complete.UseBrowser(checkout, secret, Ct))
        {
            var account = await signIn.UserManager.FindByIdAsync(checkout.MemberId!.Value.Value.ToString(System.Globalization.CultureInfo.InvariantCulture));
            await signIn.SignInAsync(account!, isPersistent: true);
        }
        CheckoutToken.Forget(HttpContext);
        // What was refused is told to whoever may know: the person themselves.
        if (checkout.RefusedBecause is { } why && Visitor.Member == checkout.MemberId) Tell(why);
        return Redirect(checkout.RefusedBecause is null
            && checkout.HoldingId is not null ? $"/welcome?plan={Now.PriceById[checkout.PriceId!.Value].PlanId.Value}" : "/welcome");
    }
}
