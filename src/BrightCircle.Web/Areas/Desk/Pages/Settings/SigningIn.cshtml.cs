using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>How somebody of the team signs in: the second step, and what ends it everywhere.</summary>
[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class SigningInModel(SecondSteps steps, Admission admission) : DeskPage
{
    public override string Place => "signing-in";
    public SecondStepState State { get; private set; } = new(null, 0);
    /// <summary>While it is being set up: what the app is to read.</summary>
    public SecondStepKey? Key { get; private set; }
    /// <summary>Just made: shown this once.</summary>
    public string[]? Spare { get; private set; }
    public bool Required => Now.Site!.TeamNeedsSecondStep;
    public bool MustSetUp => Required && !State.IsOn;

    /// <summary>The key as a picture: drawn here, since nobody else is to see it.</summary>
    public string Picture => QrCode.Svg(Key!.Address, "The key as a picture");

    async Task<IActionResult> Show(Result? refused = null)
    {
        ModelState.Clear();
        State = await steps.Of(Actor.AccountId, Ct);
        if (refused is { Ok: false } r) Refuse(r.Refusal!, r.Field);
        return Page();
    }

    public Task<IActionResult> OnGet() => Show();

    public async Task<IActionResult> OnPostBegin()
    {
        var begun = await steps.Begin(Actor, Ct);
        Key = begun.Value;
        return await Show(begun.Ok ? null : Result.Refused(begun.Refusal!));
    }

    public async Task<IActionResult> OnPostOn(string? code)
    {
        var on = await steps.TurnOn(Actor, code, Ct);
        if (!on.Ok)
        {
            Key = (await steps.Begin(Actor, Ct)).Value;
            return await Show(Result.Refused(on.Refusal!, on.Field));
        }
        // This browser has shown both by now; others are asked the next time.
        await admission.Whole(HttpContext, Actor.AccountId);
        Spare = on.Value;
        return await Show();
    }

    public async Task<IActionResult> OnPostSpares(string? code)
    {
        var made = await steps.RenewSpares(Actor, code, Ct);
        Spare = made.Value;
        return await Show(made.Ok ? null : Result.Refused(made.Refusal!, made.Field));
    }

    public async Task<IActionResult> OnPostOff(string? code)
    {
        var off = await steps.TurnOff(Actor, code, Ct);
        if (!off.Ok) return await Show(off);
        Tell("The second step is off.");
        return Redirect("/desk/signing-in");
    }

    public async Task<IActionResult> OnPostEverywhere([FromServices] SignOutEverywhere everywhere, [FromServices] SignInManager<Account> signIn)
    {
        await everywhere.Do(Actor.AccountId, Ct);
        await signIn.SignOutAsync();
        return Redirect("/sign-in");
    }
}
