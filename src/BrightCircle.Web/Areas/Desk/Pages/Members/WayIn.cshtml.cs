using BrightCircle.App.Members;
using BrightCircle.App.Settings;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A link to pass on to a member who can't get in.</summary>
public sealed class WayInModel(WayIn way, SiteAddress address) : DeskPage
{
    public override string Place => "members";
    public Core.Members.Member Member { get; private set; } = null!;
    public static int Hours => (int)WayIn.Lasts.TotalHours;
    /// <summary>Shown once, on the answer to the button.</summary>
    public string? Link { get; private set; }

    public async Task<IActionResult> OnGet(long id)
    {
        if (await way.Find(new(id), Ct) is not { } member) return NotFound();
        Member = member;
        return Page();
    }

    public async Task<IActionResult> OnPost(long id)
    {
        if (await way.Find(new(id), Ct) is not { } member) return NotFound();
        Member = member;
        var made = await way.Make(Actor, new(id), Ct);
        if (!made.Ok)
        {
            Tell(made.Refusal!);
            return Redirect($"/desk/members/{id}");
        }
        Link = address.Url + made.Value;
        Response.Headers.CacheControl = "no-store";
        return Page();
    }
}
