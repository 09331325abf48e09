using BrightCircle.App.Community;
using BrightCircle.App.Settings;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.RazorPages;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>One conversation, with who they are in the margin.</summary>
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

    async Task<bool> Find(long id)
    {
        if (await correspond.ForTeam(Actor, new(id), Ct) is not var (member, view, answers)) return false;
        (Member, View, Answers) = (member, view, answers);
        return true;
    }

    public async Task<IActionResult> OnGet(long id) => await Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id, bool done)
    {
        if (!await Find(id)) return NotFound();
        ModelState.Clear();
        var sent = await correspond.Answer(Actor, Member.Id, Body, done, Ct);
        if (!sent.Ok)
        {
            Refuse(sent.Refusal!, sent.Field);
            return Page();
        }
        Tell($"{Member.FirstName} gets it, here and by letter.");
        return Redirect(done ? "/desk/inbox" : $"/desk/inbox/{id}");
    }

    /// <summary>Puts something more into what is being written; nothing is sent.</summary>
    PageResult Put(string? more)
    {
        ModelState.Clear();
        if (more is not null) Body = string.IsNullOrWhiteSpace(Body) ? more : $"{Body.TrimEnd()}\n\n{more}";
        return Page();
    }

    public async Task<IActionResult> OnPostPutAnswer(long id, long saved)
    {
        if (!await Find(id)) return NotFound();
        return Put(Answers.FirstOrDefault(a => a.Id == saved)?.Body);
    }

    public async Task<IActionResult> OnPostPutOffer(long id, long offer) =>
        await Find(id) ? Put(correspond.OfferOf(new(offer), address.Url)) : NotFound();

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
