using BrightCircle.App.Billing;
using BrightCircle.App.Letters;
using BrightCircle.App.Settings;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>A last look before paying: for the browser that began it, and for nobody else.</summary>
[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class JoinReviewModel(ReviewJoin reviews, GoToTill till, SiteAddress address) : BrightPage
{
    public JoinReview Review { get; private set; } = null!;
    public string Token { get; private set; } = "";

    string Begin => $"/join/{RouteData.Values["code"]}";

    public async Task<IActionResult> OnGet(string? c) => await Find(c) ? Page() : Redirect(Begin);

    public async Task<IActionResult> OnPost(string? c)
    {
        if (Visitor.IsLooking) return Redirect("/status/looking");
        if (!await Find(c)) return Redirect(Begin);
        var back = "/join/back?c=" + Uri.EscapeDataString(Token);
        var next = await till.Join(Review.Checkout.Id, address.Url + back, Ct);
        if (next.Ok) return Redirect(next.Value!.Length > 0 ? next.Value : back);
        Refuse(next.Refusal!);
        return Page();
    }

    async Task<bool> Find(string? token)
    {
        if (CheckoutToken.Read(HttpContext, token) is not { } id || await reviews.Find(id, CheckoutToken.SecretOf(HttpContext), Ct) is not { } review)
            return false;
        (Review, Token) = (review, token!);
        return true;
    }
}
