using BrightCircle.App.Community;
using BrightCircle.App.Files;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Keeping the talk good: what was reported, and who can't write for a time.</summary>
public sealed class DeskTalkModel(CareTalk care, FileLinks links) : DeskPage
{
    const int PageSize = 20;
    public override string Place => "talk";
    public bool Settled { get; private set; }
    public IReadOnlyList<Reported> Rows { get; private set; } = [];
    public IReadOnlyList<(TalkBar Bar, string Name)> Bars { get; private set; } = [];
    public Pager Pager { get; private set; } = null!;

    public IReadOnlyList<Waits> Waits { get; private set; } = [];
    public int WaitsInAll { get; private set; }
    public IReadOnlyList<Unanswered> Unanswered { get; private set; } = [];
    public IReadOnlyList<GoneQuiet> Quiet { get; private set; } = [];
    public bool Writes => Now.Site!.OwnerLetters.Talk;
    public FileLinks Links => links;
    /// <summary>They keep every space.</summary>
    public bool MayBar { get; private set; }
    public bool MayRule => Actor.Role == TeamRole.Owner;
    public bool FirstPosts { get; private set; }
    public bool WithLinks { get; private set; }
    [BindProperty] public string? Words { get; set; }
    /// <summary>What was said of what waits was refused.</summary>
    public bool IsWrong { get; private set; }

    public Task OnGet(bool settled, int page = 1)
    {
        var holds = Now.Site!.Holds;
        (FirstPosts, WithLinks, Words) = (holds.FirstPosts, holds.Links, string.Join('\n', holds.Words));
        return Show(settled, page);
    }

    async Task Show(bool settled, int page)
    {
        (Settled, page, MayBar) = (settled, Math.Clamp(page, 1, 100_000), care.MayBar(Actor));
        var look = await care.Look(Actor, settled, page, PageSize, Ct);
        (Rows, Waits, WaitsInAll, Bars, Unanswered, Quiet) = (look.Reports, look.Waits, look.WaitInAll, look.Bars, look.Unanswered, look.Quiet);
        Pager = new(page, look.InAll, PageSize, p => $"/desk/talk?settled={(settled ? "true" : "false")}&page={p}");
    }

    public async Task<IActionResult> OnPostSettle(long report, ReportOutcome outcome, string? words)
    {
        var done = ModelState.IsValid ? await care.Settle(Actor, report, outcome, words, Ct) : App.Result.Refused("Choose what becomes of it.");
        Tell(!done.Ok ? done.Refusal! : outcome == ReportOutcome.TakenAway ? "It is taken away." : "It stands.");
        return Redirect("/desk/talk");
    }

    public async Task<IActionResult> OnPostStand(long post)
    {
        var done = await care.LetStand(Actor, post, Ct);
        Tell(done.Ok ? "It stands, and everybody sees it." : done.Refusal!);
        return Redirect("/desk/talk");
    }

    public async Task<IActionResult> OnPostGo(long post, string? words)
    {
        var done = await care.LetGo(Actor, post, words, Ct);
        Tell(done.Ok ? "It doesn’t stand." : done.Refusal!);
        return Redirect("/desk/talk");
    }

    public async Task<IActionResult> OnPostHolds(bool firstPosts, bool links)
    {
        ModelState.Clear();
        var done = await care.SaveHolds(Actor, firstPosts, links, Words, Ct);
        if (done.Ok)
        {
            Tell("It is saved, for what is written from now on.");
            return Redirect("/desk/talk");
        }
        (FirstPosts, WithLinks) = (firstPosts, links);
        await Show(false, 1);
        IsWrong = true;
        Refuse(done.Refusal!, done.Field);
        return Page();
    }

    public async Task<IActionResult> OnPostMorning(bool writes)
    {
        var done = await care.Write(Actor, writes, Ct);
        Tell(!done.Ok ? done.Refusal! : writes ? "You get a letter in the morning where something waits." : "No letter is written about it.");
        return Redirect("/desk/talk#unanswered");
    }

    public async Task<IActionResult> OnPostLet(long member)
    {
        var done = await care.LetWrite(Actor, new(member), Ct);
        Tell(done.Ok ? "They can write again." : done.Refusal!);
        return Redirect("/desk/talk");
    }
}
