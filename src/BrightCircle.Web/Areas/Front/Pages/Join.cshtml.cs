using BrightCircle.App.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>Names a checkout in addresses without giving its number away.</summary>
public static class CheckoutToken
{
    public const string Cookie = "bright-join";
    static IDataProtector Protector(HttpContext http) => http.RequestServices.GetRequiredService<IDataProtectionProvider>().CreateProtector("checkout");
    public static string Make(HttpContext http, long checkout) => Protector(http).Protect(checkout.ToString(System.Globalization.CultureInfo.InvariantCulture));
    public static long? Read(HttpContext http, string? token)
    {
        try { return token is { Length: > 0 and < 600 } && long.TryParse(Protector(http).Unprotect(token), out var id) ? id : null; }
        catch (System.Security.Cryptography.CryptographicException) { return null; }
    }
}

[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class JoinModel(JoinPlan join) : BrightPage
{
    public Price Price { get; private set; } = null!;
    public Plan Plan => Now.PlanById[Price.PlanId];
    public string? HasAccount { get; private set; }

    public override void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        if (join.PriceByCode(RouteData.Values["code"] as string ?? "") is { } price) Price = price;
        else context.Result = NotFound();
    }

    public void OnGet() { }

    public async Task<IActionResult> OnPost(string? name, string? email)
    {
        if (Visitor.LookingAs is not null) return Redirect("/status/looking");
        switch (await join.Start(Price, name, email, Visitor.Member, Ct))
        {
            case JoinStart.Begun begun:
                var token = CheckoutToken.Make(HttpContext, begun.Checkout);
                // The browser that begins is the one that may be signed in at the end.
                Response.Cookies.Append(CheckoutToken.Cookie, token, new() { HttpOnly = true, SameSite = SameSiteMode.Lax, Secure = Request.IsHttps, MaxAge = TimeSpan.FromHours(2) });
                return Redirect($"/join/{Price.Code}/review?c={Uri.EscapeDataString(token)}");
            case JoinStart.HasAccount known:
                HasAccount = known.Email;
                return Page();
            case JoinStart.Refused refused:
                Refuse(refused.Why, refused.Field);
                return Page();
            default: throw new InvalidOperationException();
        }
    }
}
