using BrightCircle.Web.House;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Looks at the site as one member, from their page.</summary>
public sealed class LookAsModel(IDataProtectionProvider protection) : DeskPage
{
    public IActionResult OnGet(long id) => Redirect($"/desk/members/{id}");

    public IActionResult OnPost(long id)
    {
        Actor.NeedSupport();
        VisitorMiddleware.LookAs(HttpContext, protection, new(id));
        return Redirect("/me");
    }
}
