using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.App.Settings;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One key link: its address, who used it, and taking it back.</summary>
public sealed class DeskKeyModel(KeyLinks keys, SiteAddress address) : DeskPage
{
    public override string Place => "keys";
    public KeyLink Link { get; private set; } = null!;
    public IReadOnlyList<(MemberId Id, string Name, Instant At)> Users { get; private set; } = [];
    /// <summary>How long what it gives is open, for the page of whoever gets it and for the team.</summary>
    public string OpenUntil => PromiseWords.HowLong(Now.PlanById[Link.PlanId], Link.OpenUntil, Now.Culture);
    public string Address => $"{address.Url}/key/{Link.Code}";

    public async Task<IActionResult> OnGet(long id)
    {
        if (await keys.Find(id, Ct) is not { } found) return NotFound();
        (Link, Users) = found;
        return Page();
    }

    public async Task<IActionResult> OnPostRevoke(long id)
    {
        var done = await keys.Revoke(Actor, id, Ct);
        Tell(done.Ok ? "It can’t be used any more. Who used it keeps what they have." : done.Refusal!);
        return Redirect($"/desk/keys/{id}");
    }
}
