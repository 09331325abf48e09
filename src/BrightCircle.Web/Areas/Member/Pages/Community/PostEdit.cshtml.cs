using BrightCircle.App.Community;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>One’s own words, to be changed.</summary>
[RequestFormLimits(MultipartBodyLengthLimit = MostBytes), RequestSizeLimit(MostBytes)]
public sealed class PostEditModel(ReadTalk read, TalkPictures pictures) : SayingPage
{
    /// <summary>It was written so short a time ago that nothing is said of a change.</summary>
    public bool IsQuiet => Moment - Post.At <= TalkPost.QuietFor;
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
        var has = await pictures.Of(id, Ct);
        (Alt, Chosen) = (has.Select(p => p.Alt).FirstOrDefault(), new(has, has.Select(p => p.Alt).FirstOrDefault(), Links, Now.Site!.DocumentKinds, Stand:
            true));
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, [FromServices] Talk talk)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var shown = await Take(Reader);
        var done = shown.Ok ? await talk.Edit(Reader, id, Body, Ct, shown.Value) : App.Result.Refused(shown.Refusal!, shown.Field);
        if (done.Ok) return Redirect(await read.PathTo(Post.ThreadId, id, Ct));
        Chosen = new([.. (await pictures.Of(id, Ct)).Where(p => Kept.Contains(p.Id)), .. await pictures.Waiting(Reader, Kept, Ct)], Alt, Links,
            Now.Site!.DocumentKinds,
            Stand: true);
        Refuse(done.Refusal!, done.Field);
        return Page();
    }
}
