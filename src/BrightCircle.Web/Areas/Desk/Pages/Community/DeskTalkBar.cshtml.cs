using System.Globalization;
using BrightCircle.App.Community;
using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Keeps somebody from writing in spaces for a time.</summary>
public sealed class DeskTalkBarModel(CareTalk care, MemberPageQuery members) : DeskPage
{
    public override string Place => "talk";
    public Core.Members.Member Member { get; private set; } = null!;
    [BindProperty] public string? Days { get; set; } = "7";
    [BindProperty] public string? Why { get; set; }

    async Task<bool> Find(long id)
    {
        care.NeedBar(Actor);
        if (await members.Who(new(id), Ct) is not { IsForgotten: false } member) return false;
        Member = member;
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var done = await care.Bar(Actor, Member.Id, int.TryParse(Days, CultureInfo.InvariantCulture, out var n) ? n : 0, Why, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell($"{Member.Name} can read, and not write. They are told why.");
        return Redirect("/desk/talk");
    }
}
