using BrightCircle.App.Billing;
using BrightCircle.App.Insight;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.Filters;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>
/// Names a checkout in addresses without giving its number away. The address alone shows and opens nothing: with it goes a secret of its own, in a cookie
/// of the browser that began it.
/// </summary>
public static class CheckoutToken
{
    public const string Cookie = "bright-join";

    static IDataProtector Protector(HttpContext http) => http.RequestServices.GetRequiredService<IDataProtectionProvider>().CreateProtector("checkout");

    public static string Make(HttpContext http, long checkout) => Protector(http).Protect(checkout.ToString(System.Globalization.CultureInfo.InvariantCulture));

    public static long? Read(HttpContext http, string? token)
    {
        try { return token is { Length: > 0 and < 600 } && long.TryParse(Protector(http).Unprotect(token), out var id) ? id : null; }
        catch (Exception e) when (e is System.Security.Cryptography.CryptographicException or FormatException) { return null; }
    }

    public static string? SecretOf(HttpContext http) => http.Request.Cookies[Cookie];

    public static void Keep(HttpContext http, string secret) => http.Response.Cookies.Append(Cookie, secret,
        new() { HttpOnly = true, SameSite = SameSiteMode.Lax, Secure = http.Request.IsHttps, Path = "/join", MaxAge = CheckoutSecret.Lasts.ToTimeSpan() });

    public static void Forget(HttpContext http) => http.Response.Cookies.Delete(Cookie, new() { Path = "/join" });
}

[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class JoinModel(BeginJoin begin, RememberedOrder remembered, DoorwayCounts counts) : TiersPage
{
    /// <summary>It is bought for somebody else.</summary>
    [BindProperty(SupportsGet = true)] public bool Gift { get; set; }

    public bool IsGift => Gift && CanBeGiven;
    public bool CanBeGiven => Price.AsVoucher && Price.Terms is PriceTerms.OnePayment;

    /// <summary>What was chosen in this browser before, and not gone through with.</summary>
    public HalfWay? Before { get; private set; }
    public string BeforeLink => $"/join/{Before!.Price.Code}/review?c={Uri.EscapeDataString(CheckoutToken.Make(HttpContext, Before.Checkout.Id))}";

    public Price Price { get; private set; } = null!;
    public Plan Plan => Now.PlanById[Price.PlanId];
    public bool IsClosed => Price.Within(Plan) == Availability.Closed;

    public const string NotForTheTeam = "You’re signed in as one of the team. Sign out, or use a private window, to join as a member.";
    public bool IsForTheTeam => Visitor.IsTeam && !Visitor.IsLooking;

    /// <summary>What the signed-in person hears who holds it already.</summary>
    public string? HeldAlready => Visitor.Person is { IsTeam: false } p ? HeldNow.Says(Now, p.Holdings, Plan.Id, Moment) : null;

    /// <summary>A pass of which a member can open everything already: they hear it before they pay.</summary>
    public bool IsOpenAlready => !Plan.IsTier && Visitor.IsMember && Now.Book.AddsNothing(Visitor.Facts, Plan.Id, Moment);

    /// <summary>What they hold that would give way to it.</summary>
    public IEnumerable<(Plan Plan, GivesWay Way)> WouldChange => (Visitor.Person?.Holdings ?? [])
        .Select(h => (Plan: Now.PlanById[h.PlanId], Way: GivesWay.Of(h, Now.PlanById[h.PlanId], Plan, Price.Terms, Moment)))
            .Where(x => x.Way is not GivesWay.Stays);

    public override void OnPageHandlerExecuting(PageHandlerExecutingContext context)
    {
        if (begin.PriceByCode(RouteData.Values["code"] as string ?? "") is { } price) Price = price;
        else context.Result = NotFound();
    }

    /// <summary>The piece whose doorway led here.</summary>
    [BindProperty(SupportsGet = true)] public long? From { get; set; }

    /// <summary>A coupon that came with the link.</summary>
    [BindProperty(SupportsGet = true)] public string? Coupon { get; set; }

    /// <summary>What they hold that can be changed for this, with what isn't used credited.</summary>
    public Core.Members.Holding? Changes => Visitor.Person is { IsTeam: false } p ? p.Holdings.FirstOrDefault(h => Now.PlanById[h.PlanId].IsTier
        && PlanChange.Refuses(h, Now.PlanById[h.PlanId], Plan, Price, Moment) is null) : null;

    /// <summary>They said that they may be reminded, if they go away half-way.</summary>
    public bool MayRemind { get; private set; }

    public async Task OnGet()
    {
        if (!Visitor.IsLooking) Before = await remembered.Find(CheckoutToken.SecretOf(HttpContext), Ct);
        if (From is { } from && Now.PieceById.ContainsKey(new(from)) && HttpMethods.IsGet(Request.Method) && Visitor is { IsTeam: false })
            counts.Clicked(new(from));
    }

    public async Task<IActionResult> OnPostForget()
    {
        if (Visitor.IsLooking) return Redirect("/status/looking");
        await remembered.Forget(CheckoutToken.SecretOf(HttpContext), Ct);
        CheckoutToken.Forget(HttpContext);
        Tell("Forgotten.");
        return Redirect($"/join/{Price.Code}");
    }

    public async Task<IActionResult> OnPost(string? name, string? email, string? forName, string? forWords, string? forEmail, string? forDay,
        bool mayRemind = false)
    {
        MayRemind = mayRemind;
        if (Visitor.IsLooking) return Redirect("/status/looking");
        if (Visitor.IsTeam)
        {
            Refuse(NotForTheTeam);
            return Page();
        }
        if (!LocalInput.TryReadDay(forDay, out var day))
        {
            Refuse("On which day?", "ForDay");
            return Page();
        }
        var voucher = IsGift ? new VoucherWish(forName ?? "", forWords ?? "", forEmail, day) : null;
        switch (await begin.Do(Price, name, email, Visitor.Member, Ct, From is { } from ? new PieceId(from) : null, Coupon, voucher,
            mayRemind))
        {
            case JoinStart.Begun begun:
                CheckoutToken.Keep(HttpContext, begun.Secret);
                return Redirect($"/join/{Price.Code}/review?c={Uri.EscapeDataString(CheckoutToken.Make(HttpContext, begun.Checkout))}"
                    + (Coupon is { Length: > 0 and < 60 } code ? $"&coupon={Uri.EscapeDataString(code)}" : ""));
            case JoinStart.Refused refused:
                Refuse(refused.Why, refused.Field);
                return Page();
            default: throw new InvalidOperationException("No such start.");
        }
    }
}
