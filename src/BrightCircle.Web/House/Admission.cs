using System.Globalization;
using System.Security.Claims;
using BrightCircle.App.Members;
using BrightCircle.Data;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Identity;

namespace BrightCircle.Web.House;

/// <summary>Lets in whoever has shown the first step of signing in: at once, or after the second where they have one.</summary>
public sealed class Admission(SignInManager<Account> signIn, SecondSteps steps)
{
    /// <summary>RFC 8176: somebody showed more than one thing.</summary>
    const string How = "amr", TwoThings = "mfa";

    /// <returns>Where they go now.</returns>
    public async Task<string> Admit(HttpContext http, Account account, string then)
    {
        if (account.Role is null || !await steps.Has(account.Id, http.RequestAborted))
        {
            await signIn.SignInAsync(account, isPersistent: true);
            return then;
        }
        // Good for five minutes, and for nothing but the next page.
        var half = new ClaimsIdentity(IdentityConstants.TwoFactorUserIdScheme);
        half.AddClaim(new(ClaimTypes.NameIdentifier, account.Id.ToString(CultureInfo.InvariantCulture)));
        await http.SignInAsync(IdentityConstants.TwoFactorUserIdScheme, new(half));
        return "/sign-in/code?then=" + Uri.EscapeDataString(then);
    }

    /// <summary>Who has shown the first step and not the second yet; null for nobody.</summary>
    public static async Task<long?> HalfIn(HttpContext http) =>
        (await http.AuthenticateAsync(IdentityConstants.TwoFactorUserIdScheme)).Principal?.FindFirst(ClaimTypes.NameIdentifier)?.Value is { } id
            ? long.Parse(id, CultureInfo.InvariantCulture) : null;

    /// <summary>They have shown both.</summary>
    public async Task Whole(HttpContext http, long account)
    {
        await http.SignOutAsync(IdentityConstants.TwoFactorUserIdScheme);
        var person = await signIn.UserManager.FindByIdAsync(account.ToString(CultureInfo.InvariantCulture));
        if (person is null or { IsShut: true }) return;
        await signIn.SignInWithClaimsAsync(person, isPersistent: true, [new(How, TwoThings)]);
    }

    /// <summary>Whether this browser was let in by both steps.</summary>
    public static bool IsWhole(HttpContext http) => http.User.HasClaim(How, TwoThings);
}
