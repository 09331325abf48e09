using BrightCircle.App.Billing;
using BrightCircle.App.Letters;
using BrightCircle.App.Settings;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>A last look before paying: for the browser that began it, and for nobody else.</summary>
[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class JoinReviewModel(ReviewJoin reviews, GoToTill till, UseCoupon coupons, SiteAddress address) : BrightPage
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
        Refuse(next.Refusal!, next.Field);
        // A coupon that had been used up meanwhile is gone from it.
        await Find(c);
        return Page();
    }

    public async Task<IActionResult> OnPostCoupon(string? c, string? coupon)
    {
        if (Visitor.IsLooking) return Redirect("/status/looking");
        if (!await Find(c)) return Redirect(Begin);
        var done = await coupons.Type(Review.Checkout.Id, coupon, Ct);
        if (done.Ok) return Redirect($"{Begin}/review?c={Uri.EscapeDataString(Token)}");
        Refuse(done.Refusal!, done.Field);
        return Page();
    }

    /// <summary>The other ways to pay for the same plan, with what each saves or costs beside this one.</summary>
    public IEnumerable<(Price Price, string Words)> Sisters => Now.PricesOnOffer(Review.Plan).Where(p => p.Id != Review.Price.Id
            && p.Buyers?.Allows(Visitor.Person?.Holdings ?? [], Moment) != false)
        .Select(p => (p, PaymentSchedule.For(p.Terms, Moment, Now.Calendar).Beside(PaymentSchedule.For(Review.Price.Terms, Moment, Now.Calendar))))
        .Where(x => x.Item2 is { Difference.Minor: not 0 }).Select(x => (x.p, Say.Beside(x.Item2!.Value, Now.Culture)));

    async Task<bool> Find(string? token)
    {
        if (CheckoutToken.Read(HttpContext, token) is not { } id || await reviews.Find(id, CheckoutToken.SecretOf(HttpContext), Ct) is not { } review)
            return false;
        (Review, Token) = (review, token!);
        return true;
    }
}
