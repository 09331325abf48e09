using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Front.Pages;

[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class SignInModel(SignInByLink links, SignInManager<Account> signIn, Admission admission, Passkeys passkeys) : BrightPage
{
    static readonly string NobodysHash = new PasswordHasher<Account>().HashPassword(new(), Guid.NewGuid().ToString());

    public string Email { get; private set; } = "";
    public string Then { get; private set; } = "/me";
    public bool Sent { get; private set; }
    public bool ByPassword { get; private set; }

    public IActionResult OnGet(string? then, string? email)
    {
        (Then, Email) = (Local(then), email ?? "");
        return Visitor.SignedIn is null ? Page() : Redirect(Then);
    }

    public async Task<IActionResult> OnPostLink(string? email, string? then)
    {
        (Then, Email) = (Local(then), email?.Trim() ?? "");
        if (!EmailAddress.TryRead(email, out var address))
        {
            Refuse("That doesn’t look like an email address.", "Email");
            return Page();
        }
        await links.Request(address, Then, Ct);
        Sent = true;
        return Page();
    }

    public async Task<IActionResult> OnPostPassword(string? email, string? password, string? then)
    {
        (Then, Email, ByPassword) = (Local(then), email?.Trim() ?? "", true);
        var account = await signIn.UserManager.FindByEmailAsync(Email);
        // Whether there is such an account is told neither by words nor by how long it takes.
        if (account?.PasswordHash is null || await signIn.UserManager.IsLockedOutAsync(account))
            signIn.UserManager.PasswordHasher.VerifyHashedPassword(new(), NobodysHash, password ?? "");
        else if ((await signIn.CheckPasswordSignInAsync(account, password ?? "", lockoutOnFailure: true)).Succeeded)
            return Redirect(await admission.Admit(HttpContext, account, To(account)));
        Refuse("The address and the password don’t go together, or there were too many tries. Wait five minutes, or use a sign-in link.");
        return Page();
    }

    /// <summary>For the script of this page: what the browser is asked to show.</summary>
    public async Task<IActionResult> OnPostAsk() => Content(await passkeys.AskToSignIn(HttpContext), "application/json");

    public async Task<IActionResult> OnPostPasskey(string? answer, string? then)
    {
        Then = Local(then);
        var shown = await passkeys.SignIn(HttpContext, answer);
        if (shown.Ok) return Redirect(To(shown.Value!));
        Refuse(shown.Refusal!);
        return Page();
    }

    string To(Account account) => Then != "/me" ? Then : account.Role is not null ? "/desk" : "/me?in=1";

    /// <summary>Only paths of this site are returned to.</summary>
    string Local(string? path) => Url.IsLocalUrl(path) ? path! : "/me";
}
