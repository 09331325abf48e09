using BrightCircle.App.Community;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Says that what somebody wrote doesn’t belong.</summary>
public sealed class PostReportModel(ReadTalk read, CareTalk care) : MemberPage
{
    public override string Place => "spaces";
    public TalkPost Post { get; private set; } = null!;
    SpaceReader reader = null!;
    [BindProperty] public string? Why { get; set; }

    async Task<bool> Find(long id)
    {
        if (await read.Post(id, Ct) is not var (post, space) || Visitor.Talks(Now, space, Moment) is not { } by || post.AccountId == by.Account) return false;
        (Post, reader) = (post, by);
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var done = await care.Report(reader, id, Why, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("Thank you. The team looks at it.");
        return Redirect(await read.PathTo(Post.ThreadId, id, Ct));
    }
}
