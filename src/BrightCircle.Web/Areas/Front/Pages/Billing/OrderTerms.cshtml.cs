using BrightCircle.App.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>The terms that were agreed to with an order, as they were then: for whoever agreed, and for the team.</summary>
public sealed class OrderTermsModel(FindOrder find) : TiersPage
{
    public long Order { get; private set; }
    public TermsText Terms { get; private set; } = null!;
    public PageSections Sections => new(this, new SitePage { Id = Terms.PageId, Title = Terms.Title, Sections = Terms.Sections }, null);

    public async Task<IActionResult> OnGet(long id)
    {
        if (Visitor is { IsTeam: false, Member: null } || await find.Do(id, Visitor.IsTeam ? null : Visitor.Member, Ct) is not { Terms: { } terms })
            return NotFound();
        (Order, Terms) = (id, terms);
        return Page();
    }
}
