using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What the team knows of a member, in the owner's own fields.</summary>
public sealed class MemberFieldsModel(OwnFields fields) : DeskPage
{
    public override string Place => "members";
    public Core.Members.Member Person { get; private set; } = null!;
    public Dictionary<OwnFieldId, string?> Typed { get; private set; } = [];

    async Task<bool> Find(long id)
    {
        if (await fields.With(new(id), Ct) is not { } found) return false;
        Person = found.Member;
        foreach (var (field, text) in found.Fields) Typed[field] = text;
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id)
    {
        if (!await Find(id)) return NotFound();
        Typed = OwnFieldInput.Read(Request.Form, Now);
        var done = await fields.Fill(Actor, Person.Id, Typed, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("It is written down.");
        return Redirect($"/desk/members/{id}");
    }
}
