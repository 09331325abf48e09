using BrightCircle.App.Community;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>A post in its thread.</summary>
/// <param name="IsForm">Nothing is in it: others are made of it.</param>
public sealed record PostShown(ThreadModel Page, PostView View, bool IsForm = false);

/// <summary>One conversation.</summary>
[RequestFormLimits(MultipartBodyLengthLimit = MostBytes), RequestSizeLimit(MostBytes)]
public sealed class ThreadModel(ReadTalk read, Talk talk) : SayingPage
{
    /// <summary>Of what those that come while somebody reads are made.</summary>
    public static PostView Blank { get; } = new(new TalkPost { Body = " " }, new Dictionary<int, int>(), new HashSet<int>(), []);
    public SpaceReader Reader { get; private set; } = null!;
    public ThreadView View { get; private set; } = null!;
    public Pager Pager { get; private set; } = null!;
    [BindProperty] public string? Body { get; set; }
    /// <summary>What is answered; null for the whole.</summary>
    [BindProperty(SupportsGet = true)] public long? Answers { get; set; }
    /// <summary>What is said from now on comes by itself.</summary>
    public bool IsLive => !Visitor.IsLooking && View.Thread.HiddenAt is null;
    public bool MayAnswer => Reader.MayWrite && View.Bar is null && View.Thread.HiddenAt is null && (View.Thread.ClosedAt is null || Reader.IsTeam);
    /// <summary>The first of the page that the reader hasn’t seen; null where they have seen all, or none of it.</summary>
    public long? FirstNew => View.SeenTo == 0 ? null : View.Posts.FirstOrDefault(p => p.Post.Id > View.SeenTo)?.Post.Id;

    /// <summary>How many chose what: shown to whoever chose, to the team, and to everybody once it is closed.</summary>
    public bool ShowsChosen => View.OwnChoice is not null || Reader.IsTeam || View.Thread.ClosedAt is not null;
    public bool MayChoose => Reader.MayWrite && View.Bar is null && View.Thread is { HiddenAt: null, ClosedAt: null };

    public async Task<IActionResult> OnPostChoose(long id, int choice, [FromServices] Choosing choosing)
    {
        if (await By(id) is not { } by) return NotFound();
        var done = ModelState.IsValid ? await choosing.Do(by, id, choice, Ct) : App.Result.Refused("Choose one of them.");
        Tell(done.Ok ? "It is counted. You can choose another as long as the thread is open." : done.Refusal!);
        return Redirect($"/spaces/threads/{id}");
    }

    async Task<bool> Load(long id, int page)
    {
        page = Math.Clamp(page, 1, 100_000);
        var open = Visitor.AllTalks(Now, Moment);
        if (await read.Thread(open, id, page, ReadTalk.PostsAPage, Moment, Ct, Answers) is not { } view) return false;
        (View, Reader) = (view, open.Single(o => o.Space.Id == view.Thread.SpaceId));
        Pager = new(page, view.Count, ReadTalk.PostsAPage, p => $"/spaces/threads/{id}?page={p}");
        Chosen = new([], Alt, Links, Now.Site!.DocumentKinds);
        return true;
    }

    /// <param name="on">Where they read on: at the first post they haven't seen, on whichever page that is.</param>
    /// <param name="quote">A post of the page whose words stand in what is written.</param>
    public async Task<IActionResult> OnGet(long id, int page = 1, int on = 0, long? quote = null)
    {
        if (on != 1)
        {
            if (!await Load(id, page)) return NotFound();
            if (View.Thread.MergedId is { } merged) return Redirect($"/spaces/threads/{merged}");
            Body = View.Draft?.Body;
            if (quote is { } q && View.Posts.FirstOrDefault(p => p.Post.Id == q && p.Post.GoneAt is null) is { } quoted)
                Body = Body is { Length: > 0 } begun ? $"{begun}\n\n{Talk.Quoted(quoted.Post)}" : Talk.Quoted(quoted.Post);
            return Page();
        }
        return await By(id) is { } by ? Redirect(await read.PathOn(by, id, Ct)) : NotFound();
    }

    public async Task<IActionResult> OnPostFollow(long id, bool follows, [FromServices] FollowTalk follow)
    {
        if (await By(id) is not { } by) return NotFound();
        var done = await follow.Thread(by, id, follows, Ct);
        Tell(!done.Ok ? done.Refusal! : follows ? "You are told of what is said here, as you chose for this space." : "You hear nothing more of this thread.");
        return Redirect($"/spaces/threads/{id}");
    }

    /// <summary>Whoever does something in a thread, as a reader of its space.</summary>
    async Task<SpaceReader?> By(long id) => await read.SpaceOf(id, Ct) is { } space ? Visitor.Talks(Now, space, Moment) : null;

    public async Task<IActionResult> OnPost(long id)
    {
        if (await By(id) is not { } by) return NotFound();
        ModelState.Clear();
        var shown = await Take(by);
        var done = shown.Ok ? await talk.Answer(by, id, Answers, Body, Ct, shown.Value) : App.Result.Refused(shown.Refusal!, shown.Field);
        if (done.Value is { } said)
        {
            if (said.Waits) Tell(Waits);
            return await At(id, said.Id);
        }
        if (!await Load(id, 1)) return NotFound();
        Chosen = await Again(by);
        Refuse(done.Refusal!, done.Field);
        return Page();
    }

    public async Task<IActionResult> OnPostKeep(long id, [FromServices] DraftTalk drafts)
    {
        if (await By(id) is not { } by) return NotFound();
        ModelState.Clear();
        var done = await drafts.Keep(by, id, null, Body, Answers, Since, Ct);
        return IsScript ? KeptForScript(done) : await AgainOr(done, by, id);
    }

    async Task<IActionResult> AgainOr(App.Result done, SpaceReader by, long id)
    {
        if (done.Ok)
        {
            TellKept();
            return Redirect($"/spaces/threads/{id}#answer");
        }
        if (!await Load(id, 1)) return NotFound();
        Chosen = await Again(by);
        Refuse(done.Refusal!, done.Field);
        return Page();
    }

    public async Task<IActionResult> OnPostForget(long id, [FromServices] DraftTalk drafts)
    {
        if (await By(id) is not { } by) return NotFound();
        await drafts.Forget(by, id, Ct);
        return Redirect($"/spaces/threads/{id}?answers=0#answer");
    }

    internal const string Waits = "Thank you. The team looks at it, and then everybody sees it.";

    async Task<IActionResult> At(long id, long post) => Redirect(await read.PathTo(id, post, Ct));

    public async Task<IActionResult> OnPostNod(long id, long post, int word)
    {
        if (await By(id) is not { } by) return NotFound();
        return await Said(id, post, await talk.Nod(by, post, word, Ct));
    }

    public async Task<IActionResult> OnPostTakeAway(long id, long post)
    {
        if (await By(id) is not { } by) return NotFound();
        return await Said(id, post, await talk.TakeAway(by, post, Ct), "It is taken away.");
    }

    async Task<IActionResult> Said(long id, long post, App.Result done, string? well = null)
    {
        if (!done.Ok) Tell(done.Refusal!);
        else if (well is not null) Tell(well);
        return await At(id, post);
    }

    // ---- What the team keeps. ----

    async Task<IActionResult> ByTeam(long id, Func<App.TeamActor, Task<App.Result>> act, string well)
    {
        if (Visitor.IsLooking || await By(id) is not { IsTeam: true }) return NotFound();
        var done = await act(Visitor.Actor);
        Tell(done.Ok ? well : done.Refusal!);
        return Redirect($"/spaces/threads/{id}");
    }

    public Task<IActionResult> OnPostPin(long id, bool on, [FromServices] KeepTalk keep) =>
        ByTeam(id, a => keep.Pin(a, id, on, Ct), on ? "It stands first." : "It stands among the others.");
    public Task<IActionResult> OnPostClose(long id, bool on, [FromServices] KeepTalk keep) =>
        ByTeam(id, a => keep.Close(a, id, on, Ct), on ? "It is closed: only the team answers." : "It is open again.");
    public Task<IActionResult> OnPostHide(long id, bool on, [FromServices] KeepTalk keep) =>
        ByTeam(id, a => keep.Hide(a, id, on, Ct), on ? "It is taken away; only the team sees it." : "It is put back.");
    public Task<IActionResult> OnPostHidePost(long id, long post, bool on, [FromServices] KeepTalk keep) =>
        ByTeam(id, a => keep.HidePost(a, post, on, Ct), on ? "It is taken away." : "It is put back.");
    public Task<IActionResult> OnPostHelped(long id, long? post, [FromServices] KeepTalk keep) =>
        ByTeam(id, a => keep.Helped(a, id, post, Ct), post is null ? "No answer is marked." : "It is marked as the answer that helped.");
}
