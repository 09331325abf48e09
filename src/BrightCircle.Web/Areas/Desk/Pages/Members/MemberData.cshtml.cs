using BrightCircle.App.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What is kept about somebody: handed to them, or deleted on their request.</summary>
public sealed class MemberDataModel(MemberData data, ForgetMember forget) : DeskPage
{
    public override string Place => "members";
    public Core.Members.Member Member { get; private set; } = null!;
    public string? Typed { get; private set; }

    async Task<bool> Find(long id)
    {
        Actor.NeedSupport();
        if (await data.Find(new(id), Ct) is not { } found) return false;
        Member = found;
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnGetZip(long id)
    {
        Actor.NeedSupport();
        return await data.Of(new(id), Ct) is var (name, zip) ? File(zip, "application/zip", name) : NotFound();
    }

    public async Task<IActionResult> OnPost(long id, string? typed)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        Typed = typed;
        var done = await forget.Do(Actor, new(id), typed, Ct);
        if (done.Ok)
        {
            Tell("They are deleted. What the books rest on is left.");
            return Redirect($"/desk/members/{id}/data");
        }
        Refuse(done.Refusal!, done.Field);
        return Page();
    }
}
