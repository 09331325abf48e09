using BrightCircle.App.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class MemberEditModel(MemberPageQuery query, CorrectMember correct) : DeskPage
{
    public override string Place => "members";
    public new MemberFile File { get; private set; } = null!;
    public string Name { get; private set; } = "";
    public string Email { get; private set; } = "";
    public ContactDraft Ways { get; private set; } = null!;
    public string? Zone { get; private set; }

    async Task<bool> Find(long id)
    {
        if (await query.Load(new(id), Ct) is not { } found) return false;
        (File, Name, Email) = (found, found.Member.Name, found.Member.Email);
        (Ways, Zone) = (ContactDraft.Of(found.Member), found.Member.ZoneId);
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id, string? name, string? email)
    {
        if (!await Find(id)) return NotFound();
        var before = Email;
        (Name, Email) = (name ?? "", email ?? "");
        var done = await correct.Do(Actor, new(id), name, email, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell(before == Email.Trim() ? "It is put right." : "It is put right. A letter to the new address is on its way; its link proves it.");
        return Redirect($"/desk/members/{id}");
    }

    public async Task<IActionResult> OnPostWays(long id, string? phone, string? postalAddress, string? reads, string? zone,
        [FromServices] ContactWays ways)
    {
        if (!await Find(id)) return NotFound();
        (Ways, Zone) = (new(phone, postalAddress, reads), zone);
        var done = await ways.PutRight(Actor, new(id), Ways, zone, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("It is put right.");
        return Redirect($"/desk/members/{id}");
    }
}
