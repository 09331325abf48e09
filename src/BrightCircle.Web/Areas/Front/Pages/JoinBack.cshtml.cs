using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>Back from the Till: whatever came first, callback or browser, it is done once, and the new member is signed in.</summary>
public sealed class JoinBackModel(JoinPlan join, SignInManager<Account> signIn) : BrightPage
{
    public string Again => Request.Path + Request.QueryString;

    public async Task<IActionResult> OnGet(string? c)
    {
        if (CheckoutToken.Read(HttpContext, c) is not { } id) return Redirect("/tiers");
        var checkout = await join.CompleteOnReturn(id, Ct);
        if (checkout is null) return Redirect("/tiers");
        if (checkout.State != CheckoutState.Completed) return Page();
        if (Visitor.SignedIn is null && checkout.MadeAccount && CheckoutToken.Read(HttpContext, Request.Cookies[CheckoutToken.Cookie]) == id)
        {
            var account = await signIn.UserManager.FindByIdAsync(checkout.MemberId!.Value.Value.ToString(System.Globalization.CultureInfo.InvariantCulture));
            await signIn.SignInAsync(account!, isPersistent: true);
            Response.Cookies.Delete(CheckoutToken.Cookie);
        }
        return Redirect("/welcome");
    }
}
