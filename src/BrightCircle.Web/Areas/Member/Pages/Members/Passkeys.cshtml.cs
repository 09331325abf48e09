using BrightCircle.App;
using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The passkeys of whoever is signed in, members and team alike.</summary>
[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class PasskeysModel(Passkeys passkeys) : MemberPage
{
    public override string Place => "account";
    public IReadOnlyList<OwnPasskey> Own { get; private set; } = [];
    public string Name { get; private set; } = "";

    long Account => Visitor.SignedIn!.AccountId;
    TeamActor? By => Visitor.IsTeam ? Visitor.Actor : null;

    public async Task OnGet()
    {
        // Called after the kind of machine it is made on, until they say otherwise.
        var device = SignIns.DeviceOf(Request.Headers.UserAgent);
        Name = device == Device.Unknown ? "My device" : SignedInModel.Of(device).Word.Replace("A ", "My ", StringComparison.Ordinal);
        Own = await passkeys.Of(Visitor.Person!.AccountId, Ct);
    }

    /// <summary>For the script of this page: what the browser is to make.</summary>
    public async Task<IActionResult> OnPostAsk()
    {
        var asked = await passkeys.AskToMake(HttpContext, Account);
        return asked.Ok ? Content(asked.Value!, "application/json") : StatusCode(409, asked.Refusal!);
    }

    public async Task<IActionResult> OnPostAdd(string? made, string? name) =>
        await After(await passkeys.Add(HttpContext, Account, made, name, By), "Your passkey is made. Next time, sign in with it.");

    public async Task<IActionResult> OnPostAway(string? number) =>
        await After(await passkeys.TakeAway(Account, number, By), "It isn’t taken any more. You can delete it on the device too.");

    async Task<IActionResult> After(Result done, string told)
    {
        if (done.Ok)
        {
            Tell(told);
            return Redirect("/me/passkeys");
        }
        Refuse(done.Refusal!, done.Field);
        await OnGet();
        return Page();
    }
}
