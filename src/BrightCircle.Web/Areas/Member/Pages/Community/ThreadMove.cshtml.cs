using BrightCircle.App.Community;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The team puts a thread where it belongs: into another space, or into another thread.</summary>
public sealed class ThreadMoveModel(ReadTalk read, KeepTalk keep) : MemberPage
{
    public override string Place => "spaces";
    public TalkThread Thread { get; private set; } = null!;
    public IReadOnlyList<Space> Others => [.. Now.Spaces.Where(s => s.Id != Thread.SpaceId && !s.ByEdition
        && s.IsKeptBy(Visitor.Actor.Role, Visitor.Actor.AccountId))];
    [BindProperty] public string? Into { get; set; }

    async Task<bool> Find(long id)
    {
        if (Visitor.IsLooking || await read.Thread(Visitor.AllTalks(Now, Moment), id, 1, 1, Moment, Ct) is not { Thread: { MergedId: null } thread }
            || Visitor.Talks(Now, thread.SpaceId, Moment) is not { Keeps: true }) return false;
        Thread = thread;
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id, long space)
    {
        if (!await Find(id)) return NotFound();
        var done = await keep.Move(Visitor.Actor, id, new(space), Ct);
        Tell(done.Ok ? $"It stands in {Now.SpaceById[new(space)].Name} now." : done.Refusal!);
        return Redirect($"/spaces/threads/{id}");
    }

    public async Task<IActionResult> OnPostMerge(long id)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var done = await keep.Merge(Visitor.Actor, id, Into, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("Both are one thread now.");
        return Redirect($"/spaces/threads/{done.Value}");
    }
}
