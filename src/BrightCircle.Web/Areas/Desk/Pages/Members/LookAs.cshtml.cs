using BrightCircle.App.Events;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Looks at the site as one member, from their page.</summary>
public sealed class LookAsModel(IDataProtectionProvider protection, MemberReader reader, Deeds deeds) : DeskPage
{
    public IActionResult OnGet(long id) => Redirect($"/desk/members/{id}");

    public async Task<IActionResult> OnPost(long id)
    {
        Actor.NeedSupport();
        if (await reader.Load(id, Ct) is not { IsTeam: false } member) return NotFound();
        await deeds.Write(Actor, $"looked at the site as {member.Name}", $"/desk/members/{id}", Ct);
        VisitorMiddleware.LookAs(HttpContext, protection, new(id));
        return Redirect("/me");
    }
}
