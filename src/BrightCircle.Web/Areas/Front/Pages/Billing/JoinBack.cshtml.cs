using BrightCircle.App.Billing;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>Back from the Till: whatever came first, callback or browser, it is done once. The browser that began it is signed in, once; no other is.</summary>
public sealed class JoinBackModel(CompleteCheckout complete, FindOrder find, SignInManager<Account> signIn, IClock clock) : BrightPage
{
    /// <summary>An order that waits for its money, to be shown how to pay; null for none.</summary>
    public OrderFile? Placed { get; private set; }
    public string Again => Request.Path + Request.QueryString;

    public async Task<IActionResult> OnGet(string? c)
    {
        if (CheckoutToken.Read(HttpContext, c) is not { } id) return Redirect("/tiers");
        var secret = CheckoutToken.SecretOf(HttpContext);
        var checkout = await complete.ByReturn(id, Ct);
        if (checkout is null) return Redirect("/tiers");
        if (checkout.State is not (CheckoutState.Completed or CheckoutState.Placed))
        {
            // Somebody who called it off, or a link from long ago: there is nothing to wait for.
            return checkout.State == CheckoutState.Open ? Page() : Redirect("/tiers");
        }
        var theirs = Visitor.Member == checkout.MemberId;
        if (Visitor.SignedIn is null && await complete.UseBrowser(checkout, secret, Ct))
        {
            theirs = true;
            var account = await signIn.UserManager.FindByIdAsync(checkout.MemberId!.Value.Value.ToString(System.Globalization.CultureInfo.InvariantCulture));
            await signIn.SignInAsync(account!, isPersistent: true);
            // The page that tells how to pay is theirs then.
            if (checkout.State == CheckoutState.Placed) return Redirect(Again);
        }
        if (checkout.State == CheckoutState.Placed)
        {
            // The address alone shows nothing: only the browser that ordered, or whoever is signed in as the buyer.
            if (Visitor.Member != checkout.MemberId && !CheckoutSecret.MaySignIn(checkout, secret, clock.GetCurrentInstant())) return Redirect("/tiers");
            Placed = await find.Do(id, null, Ct);
            return Page();
        }
        CheckoutToken.Forget(HttpContext);
        // What was refused is told to whoever may know: the person themselves.
        if (checkout.RefusedBecause is { } why && theirs) Tell(why);
        return Redirect(checkout.RefusedBecause is null && checkout.Voucher is not null && theirs ? $"/me/orders/{checkout.Id}"
            : checkout.RefusedBecause is null && checkout.HoldingId is not null ? $"/welcome?plan={Now.PriceById[checkout.PriceId!.Value].PlanId.Value}"
                : "/welcome");
    }
}
