using BrightCircle.App.Community;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>The team makes a thread of its own of an answer.</summary>
public sealed class PostSplitModel(ReadTalk read, KeepTalk keep) : MemberPage
{
    public override string Place => "spaces";
    public TalkPost Post { get; private set; } = null!;
    [BindProperty] public string? Title { get; set; }

    async Task<bool> Find(long id)
    {
        if (Visitor.IsLooking || await read.Post(id, Ct) is not { Post: { IsFirst: false } post } found
            || Visitor.Talks(Now, found.Space, Moment) is not { Keeps: true }) return false;
        Post = post;
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var done = await keep.Split(Visitor.Actor, id, Title, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("It is a thread of its own now.");
        return Redirect($"/spaces/threads/{done.Value}");
    }
}
