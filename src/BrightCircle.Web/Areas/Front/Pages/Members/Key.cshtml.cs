using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>A key link is opened: what it gives, and taking it.</summary>
[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class KeyModel(KeyLinks keys) : BrightPage
{
    public KeyLink Link { get; private set; } = null!;
    public Plan Plan => Now.PlanById[Link.PlanId];
    /// <summary>Why it can't be used; null where it can.</summary>
    public string? Closed { get; private set; }
    public bool IsHeld => Visitor.Person?.Holdings.Any(h => h.PlanId == Plan.Id && h.IsHeldAt(Moment)) == true;
    public string? SentTo { get; private set; }
    public bool IsForTheTeam => Visitor is { IsTeam: true, IsLooking: false };

    async Task<bool> Find(string code)
    {
        if (await keys.ByCode(code, Ct) is not { } link) return false;
        (Link, Closed) = (link, await keys.Closed(link, Ct));
        return true;
    }

    public async Task<IActionResult> OnGet(string code) => await Find(code) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(string code, string? name, string? email)
    {
        if (!await Find(code)) return NotFound();
        if (Visitor.IsLooking) return Redirect("/status/looking");
        if (IsForTheTeam) return Page();
        if (Visitor.Member is { } member)
        {
            var used = await keys.Use(Link, member, Ct);
            if (used.Ok) return Redirect($"/start/{Plan.Id.Value}");
            Refuse(used.Refusal!);
            return Page();
        }
        var done = await keys.Use(Link, name, email, Ct);
        if (done.Ok) SentTo = email!.Trim();
        else Refuse(done.Refusal!, done.Field);
        return Page();
    }
}
