using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.OutputCaching;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>A page by itself that the owner wrote. The team sees a draft too.</summary>
[OutputCache(PolicyName = SameForVisitors.Name)]
public sealed class OwnPageModel : TiersPage
{
    public PageSections Sections { get; private set; } = null!;

    public IActionResult OnGet(string slug)
    {
        if (Now.Pages.FirstOrDefault(p => p.Kind == SitePageKind.Free && p.Slug == slug) is not { } page
            || !page.IsPublic && Visitor is not { IsTeam: true, IsLooking: false }) return NotFound();
        Sections = new(this, page, null);
        return Page();
    }
}
