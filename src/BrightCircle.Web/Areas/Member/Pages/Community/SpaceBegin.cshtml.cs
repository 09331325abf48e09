using BrightCircle.App.Community;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>A new thread in a space.</summary>
[RequestFormLimits(MultipartBodyLengthLimit = MostBytes), RequestSizeLimit(MostBytes)]
public sealed class SpaceBeginModel : SayingPage
{
    public SpaceReader Reader { get; private set; } = null!;
    [BindProperty] public string? Title { get; set; }
    [BindProperty] public string? Body { get; set; }
    /// <summary>What can be chosen in it, a line each.</summary>
    [BindProperty] public string? Choices { get; set; }

    bool Shows => Reader.Space.Kind == BrightCircle.Core.Community.SpaceKind.Showcase;

    bool Find(long id)
    {
        if (Visitor.Talks(Now, new(id), Moment) is not { MayBegin: true } reader) return false;
        Reader = reader;
        Chosen = new([], Alt, Links, Now.Site!.DocumentKinds, Open: Shows);
        return true;
    }

    /// <summary>It was begun before, and kept.</summary>
    public TalkDraft? Draft { get; private set; }

    public async Task<IActionResult> OnGet(long id, [FromServices] DraftTalk drafts)
    {
        if (!Find(id)) return NotFound();
        Draft = await drafts.Of(Reader, id, Ct);
        (Title, Body, Choices) = (Draft?.Title, Draft?.Body, Draft?.Choices);
        return Page();
    }

    public async Task<IActionResult> OnPostKeep(long id, [FromServices] DraftTalk drafts)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        var done = await drafts.Keep(Reader, null, Title, Body, null, Since, Ct, Choices);
        if (IsScript) return KeptForScript(done);
        if (done.Ok)
        {
            TellKept();
            return Redirect($"/spaces/{id}");
        }
        Chosen = await Again(Reader, Shows);
        Refuse(done.Refusal!, done.Field);
        return Page();
    }

    public async Task<IActionResult> OnPostForget(long id, [FromServices] DraftTalk drafts)
    {
        if (!Find(id)) return NotFound();
        await drafts.Forget(Reader, id, Ct);
        return Redirect($"/spaces/{id}/begin");
    }

    public async Task<IActionResult> OnPost(long id, [FromServices] Talk talk)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        var shown = await Take(Reader);
        var begun = shown.Ok ? await talk.Begin(Reader, Title, Body, Ct, shown.Value, Choices) : App.Result.Refused(shown.Refusal!, shown.Field);
        if (begun.Value is { } said)
        {
            if (!said.Waits) return Redirect($"/spaces/threads/{said.Id}");
            Tell(ThreadModel.Waits);
            return Redirect($"/spaces/{id}");
        }
        Chosen = await Again(Reader, Shows);
        Refuse(begun.Refusal!, begun.Field);
        return Page();
    }
}
