using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

public sealed class PasswordModel(SignInManager<Account> signIn) : MemberPage
{
    public override string Place => "account";
    public bool Has => Visitor.SignedIn!.HasPassword;
    public void OnGet() { }

    public async Task<IActionResult> OnPost(string? old, string? @new)
    {
        var account = await signIn.UserManager.FindByIdAsync(Visitor.SignedIn!.AccountId.ToString(System.Globalization.CultureInfo.InvariantCulture));
        var done = Has ? await signIn.UserManager.ChangePasswordAsync(account!, old ?? "", @new ?? "")
            : await signIn.UserManager.AddPasswordAsync(account!, @new ?? "");
        if (!done.Succeeded)
        {
            foreach (var e in done.Errors) Refuse(e.Code == "PasswordMismatch" ? "That isn’t the password you have." : e.Description,
                e.Code == "PasswordMismatch" ? "Old" : "New");
            return Page();
        }
        // A new password signs the other browsers out; this one stays.
        await signIn.RefreshSignInAsync(account!);
        Tell("Your password is saved.");
        return Redirect("/me/account");
    }
}
