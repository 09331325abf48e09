using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Front.Pages;

[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class JoinReviewModel(JoinPlan join) : BrightPage
{
    public JoinReview Review { get; private set; } = null!;
    public string Token { get; private set; } = "";

    public async Task<IActionResult> OnGet(string? c) => await Find(c) ? Page() : Redirect($"/join/{RouteData.Values["code"]}");

    public async Task<IActionResult> OnPost(string? c)
    {
        if (!await Find(c)) return Redirect($"/join/{RouteData.Values["code"]}");
        var back = "/join/back?c=" + Uri.EscapeDataString(Token);
        return Redirect(await join.GoOn(Review.Checkout.Id, join.Absolute(back), Ct) ?? back);
    }

    async Task<bool> Find(string? token)
    {
        if (CheckoutToken.Read(HttpContext, token) is not { } id || await join.Review(id, Ct) is not { } review || review.Checkout.State == CheckoutState.Completed) return false;
        (Review, Token) = (review, token!);
        return true;
    }
}
