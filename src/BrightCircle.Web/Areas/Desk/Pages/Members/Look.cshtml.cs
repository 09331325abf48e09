using BrightCircle.Web.House;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Looks at the site as a member, and stops looking.</summary>
public sealed class LookModel(IDataProtectionProvider protection) : DeskPage
{
    public IActionResult OnGet(long id) => Redirect($"/desk/members/{id}");

    public IActionResult OnPost(long id)
    {
        Actor.NeedSupport();
        VisitorMiddleware.LookAs(HttpContext, protection, new(id));
        return Redirect("/me");
    }

    public IActionResult OnPostStop(long id)
    {
        VisitorMiddleware.LookAs(HttpContext, protection, null);
        return Redirect($"/desk/members/{id}");
    }
}
