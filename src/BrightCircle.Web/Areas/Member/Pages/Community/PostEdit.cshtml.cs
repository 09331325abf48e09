using BrightCircle.App.Community;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>One’s own words, to be changed.</summary>
public sealed class PostEditModel(ReadTalk read) : MemberPage
{
    public override string Place => "spaces";
    public SpaceReader Reader { get; private set; } = null!;
    public TalkPost Post { get; private set; } = null!;
    [BindProperty] public string? Body { get; set; }

    async Task<bool> Find(long id)
    {
        if (await read.Post(id, Ct) is not { } found || Visitor.Talks(Now, found.Space, Moment) is not { MayWrite: true } reader
            || found.Post.AccountId != reader.Account) return false;
        (Post, Reader) = (found.Post, reader);
        return true;
    }

    public async Task<IActionResult> OnGet(long id)
    {
        if (!await Find(id)) return NotFound();
        Body = Talk.Written(Post);
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, [FromServices] Talk talk)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var done = await talk.Edit(Reader, id, Body, Ct);
        if (done.Ok) return Redirect(await read.PathTo(Post.ThreadId, id, Ct));
        Refuse(done.Refusal!, done.Field);
        return Page();
    }
}
