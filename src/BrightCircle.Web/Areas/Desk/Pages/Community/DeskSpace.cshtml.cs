using BrightCircle.App.Community;
using BrightCircle.Core.Community;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One space: what it is for and who comes in.</summary>
public sealed class DeskSpaceModel(SaveSpace save) : DeskPage
{
    public override string Place => "spaces";
    public Space? Space { get; private set; }
    public SpaceDraft Draft { get; private set; } = SpaceDraft.Empty;
    public IReadOnlyList<(long Id, string Name)> Hosts { get; private set; } = [];
    /// <summary>The spaces that opened with editions, the newest first.</summary>
    public IReadOnlyList<Space> MadeLikeIt => [.. Now.Spaces.Where(s => s.LikeId == Space?.Id && s.LikeId is not null).OrderByDescending(s => s.MadeAt)];
    /// <summary>Whose it is, if it is a cohort’s.</summary>
    public Cohort? Cohort => Space?.CohortId is { } id ? Now.Paces.CohortById.GetValueOrDefault(id) : null;
    public IReadOnlyList<Plan> Promised => Space is null ? [] : [.. Now.PlansNaming(Space.Id)];

    bool Find(string id)
    {
        if (id == "new") return true;
        Space = long.TryParse(id, out var n) ? Now.SpaceById.GetValueOrDefault(new(n)) : null;
        return Space is not null;
    }

    public async Task<IActionResult> OnGet(string id)
    {
        if (!Find(id)) return NotFound();
        Hosts = await save.TeamHosts(Ct);
        if (Space is not null) Draft = SpaceDraft.Of(Space);
        return Page();
    }

    public async Task<IActionResult> OnPost(string id, SpaceDraft draft)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        Draft = draft;
        var done = await save.Do(Actor, Space?.Id, draft, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            Hosts = await save.TeamHosts(Ct);
            return Page();
        }
        Tell(Space is null ? "The space is there. Promise it with a tier, so that members find it." : "It is saved.");
        return Redirect($"/desk/spaces/{done.Value.Value}");
    }

    public async Task<IActionResult> OnPostClose(string id, bool closed)
    {
        if (!Find(id) || Space is null) return NotFound();
        var done = await save.Close(Actor, Space.Id, closed, Ct);
        Tell(!done.Ok ? done.Refusal! : closed ? "It is closed: what was said can be read." : "It is open again.");
        return Redirect($"/desk/spaces/{id}");
    }

    public async Task<IActionResult> OnPostRemove(string id)
    {
        if (!Find(id) || Space is null) return NotFound();
        var done = await save.Remove(Actor, Space.Id, Ct);
        Tell(done.Ok ? $"{Space.Name} is taken away." : done.Refusal!);
        return Redirect(done.Ok ? "/desk/spaces" : $"/desk/spaces/{id}");
    }
}
