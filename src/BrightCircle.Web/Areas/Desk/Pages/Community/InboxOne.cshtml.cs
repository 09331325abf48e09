using BrightCircle.App.Community;
using BrightCircle.App.Settings;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One conversation, with who they are in the margin.</summary>
[RequestFormLimits(MultipartBodyLengthLimit = PicturesSent.MostBytes), RequestSizeLimit(PicturesSent.MostBytes)]
public sealed class InboxOneModel(Correspond correspond, SiteAddress address) : DeskPage
{
    public override string Place => "inbox";
    public Core.Members.Member Member { get; private set; } = null!;
    public DialogueView View { get; private set; } = null!;
    public IReadOnlyList<SavedAnswer> Answers { get; private set; } = [];
    /// <summary>What can be put in as a link: what is on offer, or by link only.</summary>
    public IReadOnlyList<Price> Offers => [.. Now.Prices.Where(p => p.Within(Now.PlanById[p.PlanId]) != Availability.Closed)];
    public string Where => View.Dialogue?.State switch
    {
        null => "Nobody has written yet.",
        DialogueState.Open => "waits for your answer",
        DialogueState.Waiting => "you wait for theirs",
        DialogueState.Done => "done",
        { } other => throw new InvalidOperationException($"No such state: {other}"),
    };
    [BindProperty] public string? Body { get; set; }
    public PicturesChosen Chosen { get; private set; } = null!;
    Uploader Uploader => new(Actor.AccountId, true);

    async Task<bool> Find(long id)
    {
        Chosen = await new PicturesSent().Again(this, Uploader);
        if (await correspond.ForTeam(Actor, new(id), Ct) is not var (member, view, answers)) return false;
        (Member, View, Answers) = (member, view, answers);
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id, bool done, PicturesSent files)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var shown = await files.Take(this, Uploader, NotRefused);
        var sent = shown.Ok ? await correspond.Answer(Actor, Member.Id, Body, done, Ct, shown.Value) : App.Result.Refused(shown.Refusal!, shown.Field);
        if (!sent.Ok)
        {
            Refuse(sent.Refusal!, sent.Field);
            Chosen = await files.Again(this, Uploader);
            return Page();
        }
        Tell($"{Member.FirstName} gets it, here and by letter.");
        return Redirect(done ? "/desk/inbox" : $"/desk/inbox/{id}");
    }

    static Task<App.Result?> NotRefused() => Task.FromResult<App.Result?>(null);

    /// <summary>Puts something more into what is being written; nothing is sent, and the files that were chosen stay.</summary>
    async Task<IActionResult> Put(string? more, PicturesSent files)
    {
        ModelState.Clear();
        if (more is not null) Body = string.IsNullOrWhiteSpace(Body) ? more : $"{Body.TrimEnd()}\n\n{more}";
        var shown = await files.Take(this, Uploader, NotRefused);
        if (!shown.Ok) Refuse(shown.Refusal!, shown.Field);
        Chosen = await files.Again(this, Uploader);
        return Page();
    }

    public async Task<IActionResult> OnPostPutAnswer(long id, long saved, PicturesSent files) =>
        await Find(id) ? await Put(Answers.FirstOrDefault(a => a.Id == saved)?.Body, files) : NotFound();

    public async Task<IActionResult> OnPostPutOffer(long id, long offer, PicturesSent files) =>
        await Find(id) ? await Put(correspond.OfferOf(new(offer), address.Url), files) : NotFound();

    public async Task<IActionResult> OnPostTake(long id, bool take)
    {
        if (!await Find(id)) return NotFound();
        var done = await correspond.Assign(Actor, Member.Id, take, Ct);
        if (!done.Ok) Tell(done.Refusal!);
        return Redirect($"/desk/inbox/{id}");
    }

    public async Task<IActionResult> OnPostState(long id, DialogueState state)
    {
        if (!await Find(id) || !ModelState.IsValid) return NotFound();
        var done = await correspond.Set(Actor, Member.Id, state, Ct);
        if (!done.Ok) Tell(done.Refusal!);
        return Redirect(state == DialogueState.Done ? "/desk/inbox" : $"/desk/inbox/{id}");
    }
}
