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
        await Read(member);
    }

    async Task Read(MemberId member)
    {
        if (await fields.With(member, Ct) is not var (person, own)) return;
        Ways = ContactDraft.Of(person);
        foreach (var (field, text) in own) Typed[field] = text;
    }

    public async Task<IActionResult> OnPostWays(string? phone, string? postalAddress, string? reads)
    {
        var draft = new ContactDraft(phone, postalAddress, reads);
        var done = await ways.Own(Member, draft, Ct);
        if (!done.Ok)
        {
            await Read(Member);
            Ways = draft;
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("Thank you, it’s written down.");
        return Redirect("/me/account");
    }

    public async Task<IActionResult> OnPost()
    {
        var typed = OwnFieldInput.Read(Request.Form, Now);
        var done = await fields.FillOwn(Member, typed, Ct);
        if (!done.Ok)
        {
            await Read(Member);
            Typed = typed;
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("Thank you, it’s written down.");
        return Redirect("/me");
    }
}
