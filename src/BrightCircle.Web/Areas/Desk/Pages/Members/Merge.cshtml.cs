using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Two accounts of one person are made one.</summary>
public sealed class MergeModel(MergeMembers merge) : DeskPage
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

    async Task<bool> LookAt(long id, long goes)
    {
        if (await merge.Look(Actor, new(id), new(goes), Ct) is not { Stays.Member.IsForgotten: false } look) return false;
        (Look, Member) = (look, look.Stays.Member);
        return true;
    }

    public async Task<IActionResult> OnGet(long id, long? goes, string? q)
    {
        if (goes is { } other) return await LookAt(id, other) ? Page() : NotFound();
        var (member, others) = await merge.Others(Actor, new(id), Q = q, Ct);
        if (member is not { IsForgotten: false }) return NotFound();
        (Member, Others) = (member, others);
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, long goes, string? typed)
    {
        ModelState.Clear();
        var done = await merge.Do(Actor, new(id), new(goes), Typed = typed, Ct);
        if (done.Ok)
        {
            Tell("They are one now.");
            return Redirect($"/desk/members/{id}");
        }
        if (!await LookAt(id, goes)) return NotFound();
        Refuse(done.Refusal!, done.Field);
        return Page();
    }
}
