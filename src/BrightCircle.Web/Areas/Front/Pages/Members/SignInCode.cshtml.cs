using BrightCircle.App.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>The second step of signing in, for whoever has shown the first.</summary>
[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class SignInCodeModel(SecondSteps steps, Admission admission) : BrightPage
{
    public string Then { get; private set; } = "/desk";

    string Local(string? path) => Url.IsLocalUrl(path) ? path! : "/desk";

    public async Task<IActionResult> OnGet(string? then)
    {
        Then = Local(then);
        return Visitor.SignedIn is not null ? Redirect(Then) : await Admission.HalfIn(HttpContext) is null ? Redirect("/sign-in") : Page();
    }

    public async Task<IActionResult> OnPost(string? code, string? then)
    {
        Then = Local(then);
        if (await Admission.HalfIn(HttpContext) is not { } account) return Redirect("/sign-in");
        var good = await steps.Check(account, code, Ct);
        if (!good.Ok)
        {
            Refuse(good.Refusal!, good.Field);
            return Page();
        }
        await admission.Whole(HttpContext, account);
        return Redirect(Then);
    }
}
