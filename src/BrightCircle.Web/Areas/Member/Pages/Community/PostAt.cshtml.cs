using BrightCircle.App.Community;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Leads to a post, on whichever page of its thread it stands.</summary>
public sealed class PostAtModel(ReadTalk read) : MemberPage
{
    public async Task<IActionResult> OnGet(long id) => await read.Post(id, Ct) is var (post, space) && Visitor.Talks(Now, space, Moment) is not null
        ? Redirect(await read.PathTo(post.ThreadId, id, Ct)) : NotFound();
}
