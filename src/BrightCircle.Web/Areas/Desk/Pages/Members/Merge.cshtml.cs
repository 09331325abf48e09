using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Two accounts of one person are made one.</summary>
public sealed class MergeModel(MemberData find, MergeMembers merge) : DeskPage
{
    public override string Place => "members";
    public Core.Members.Member Member { get; private set; } = null!;
    public string? Q { get; private set; }
    public string? Typed { get; private set; }
    public IReadOnlyList<MemberRow> Others { get; private set; } = [];
    /// <summary>Both beside each other; null while the other isn’t chosen.</summary>
    public MergeLook? Look { get; private set; }

    public string Holds(MergeSide side) => side.Holdings.Where(h => h.StateAt(Moment) != HoldingState.Over).Select(h => Now.PlanName(h.PlanId)).ToArray()
        is { Length: > 0 } plans ? string.Join(", ", plans) : "nothing";
    public string Seen(MergeSide side) => side.SeenAt is { } at ? Ago(at) : "never";

    async Task<bool> Find(long id)
    {
        if (await find.Find(new(id), Ct) is not { IsForgotten: false } found) return false;
        Member = found;
        return true;
    }

    public async Task<IActionResult> OnGet(long id, long? goes, string? q)
    {
        Actor.NeedOwner();
        if (!await Find(id)) return NotFound();
        if (goes is { } other) return (Look = await merge.Look(Actor, new(id), new(other), Ct)) is null ? NotFound() : Page();
        Others = await merge.Others(new(id), Member.Name, Q = q, Ct);
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, long goes, string? typed)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var done = await merge.Do(Actor, new(id), new(goes), Typed = typed, Ct);
        if (done.Ok)
        {
            Tell("They are one now.");
            return Redirect($"/desk/members/{id}");
        }
        if ((Look = await merge.Look(Actor, new(id), new(goes), Ct)) is null) return NotFound();
        Refuse(done.Refusal!, done.Field);
        return Page();
    }
}
