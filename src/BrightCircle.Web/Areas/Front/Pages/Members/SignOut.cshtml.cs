using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Front.Pages;

public sealed class SignOutModel(SignInManager<Account> signIn) : BrightPage
{
    public void OnGet() { }

    public async Task<IActionResult> OnPost()
    {
        await signIn.SignOutAsync();
        Response.Cookies.Delete(VisitorMiddleware.Cookie);
        return Redirect("/");
    }
}
