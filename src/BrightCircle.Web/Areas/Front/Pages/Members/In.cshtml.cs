using BrightCircle.App.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>A personal link. Looking at it doesn't use it up, because mail programs look, some with scripts; the button does.</summary>
[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class InModel(SignInByLink links, Admission admission) : BrightPage
{
    public bool Good { get; private set; }

    public async Task<IActionResult> OnGet(string token)
    {
        Good = await links.IsGood(token, Ct);
        // Who is signed in already and comes by an old link goes where everybody goes.
        return !Good && Visitor.SignedIn is not null ? Redirect("/me") : Page();
    }

    public async Task<IActionResult> OnPost(string token)
    {
        if (await links.Use(token, Ct) is not var (account, path)) return Page();
        return Redirect(await admission.Admit(HttpContext, account, path == "/me" ? account.Role is not null ? "/desk" : "/me?in=1" : path));
    }
}
