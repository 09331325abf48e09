using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class MemberAddModel(AddMember add) : DeskPage
{
    public override string Place => "members";
    public void OnGet() { }

    public async Task<IActionResult> OnPost(string? name, string? email)
    {
        var added = await add.Do(Actor, name, email, Ct);
        if (added.Ok) return Redirect($"/desk/members/{added.Value.Value}");
        Refuse(added.Refusal!, added.Field);
        return Page();
    }
}
