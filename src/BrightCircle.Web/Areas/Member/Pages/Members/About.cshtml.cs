using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>What the owner asks members about themselves.</summary>
public sealed class AboutModel(OwnFields fields, ContactWays ways) : MemberPage
{
    public override string Place => "account";
    public IReadOnlyList<OwnField> Fields => [.. Now.OwnFields.Where(f => f.IsTheirs)];
    public Dictionary<OwnFieldId, string?> Typed { get; private set; } = [];

    public ContactDraft Ways { get; private set; } = new("", "", null);

    public async Task OnGet()
    {
        if (Visitor.Member is not { } member) return;
        Ways = await ways.Of(member, Ct);
        if (Fields.Count > 0)
            foreach (var (field, text) in await fields.Of(member, Ct)) Typed[field] = text;
    }

    public async Task<IActionResult> OnPostWays(string? phone, string? postalAddress, string? reads)
    {
        if (Fields.Count > 0)
            foreach (var (field, text) in await fields.Of(Member, Ct)) Typed[field] = text;
        var done = await ways.Own(Member, Ways = new(phone, postalAddress, reads), Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("Thank you, it’s written down.");
        return Redirect("/me/account");
    }

    public async Task<IActionResult> OnPost()
    {
        Typed = OwnFieldInput.Read(Request.Form, Now);
        var done = await fields.FillOwn(Member, Typed, Ct);
        if (!done.Ok)
        {
            Ways = await ways.Of(Member, Ct);
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("Thank you, it’s written down.");
        return Redirect("/me");
    }
}
