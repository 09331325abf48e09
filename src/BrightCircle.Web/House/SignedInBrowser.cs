using System.Globalization;
using System.Security.Claims;
using BrightCircle.App.Members;
using Microsoft.AspNetCore.Authentication.Cookies;

namespace BrightCircle.Web.House;

/// <summary>Each browser that signs in is known by a number of its own, so that it can be shown and ended.</summary>
public static class SignedInBrowser
{
    const string Claim = "sid";

    /// <summary>0 for one that signed in before browsers had numbers.</summary>
    public static long Of(ClaimsPrincipal? who) => long.TryParse(who?.FindFirst(Claim)?.Value, CultureInfo.InvariantCulture, out var id) ? id : 0;

    public static async Task Begin(CookieSigningInContext context)
    {
        if (context.Principal?.Identity is not ClaimsIdentity identity || Of(context.Principal) != 0
            || !long.TryParse(context.Principal.FindFirst(ClaimTypes.NameIdentifier)?.Value, CultureInfo.InvariantCulture, out var account)) return;
        // Who only gets a fresh cookie, because the password is another, stays the same browser.
        var http = context.HttpContext;
        var same = SignedInPerson.Of(http)?.AccountId == account ? Of(http.User) : 0;
        var id = same != 0 ? same : await http.RequestServices.GetRequiredService<SignIns>().Begin(account, http.Request.Headers.UserAgent,
            http.RequestAborted);
        identity.AddClaim(new(Claim, id.ToString(CultureInfo.InvariantCulture)));
    }

    public static async Task End(CookieSigningOutContext context)
    {
        var http = context.HttpContext;
        if (SignedInPerson.Of(http) is { } person && Of(http.User) is var id and not 0)
            await http.RequestServices.GetRequiredService<SignIns>().End(person.AccountId, id, http.RequestAborted);
    }
}
