using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The seats of a group, for the one who holds it.</summary>
public sealed class GroupModel(GroupSeats seats) : MemberPage
{
    public override string Place => "account";
    public GroupView Group { get; private set; } = null!;
    public Plan Plan => Now.PlanById[Group.Holding.PlanId];
    public string Email { get; private set; } = "";

    async Task<bool> Find(long id)
    {
        if (Visitor.Member is not { } member || await seats.Find(member, new(id), Ct) is not { } group) return false;
        Group = group;
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id, string? email)
    {
        var done = await seats.Invite(Member, new(id), email, Ct);
        if (done.Ok)
        {
            Tell($"A letter is on its way to {email!.Trim()}.");
            return Redirect($"/me/group/{id}");
        }
        if (!await Find(id)) return NotFound();
        Email = email ?? "";
        Refuse(done.Refusal!, done.Field);
        return Page();
    }

    public async Task<IActionResult> OnPostFree(long id, long seat)
    {
        var done = await seats.Free(Member, new(id), seat, Ct);
        Tell(done.Ok ? "The seat is free for somebody else." : done.Refusal!);
        return Redirect($"/me/group/{id}");
    }
}
