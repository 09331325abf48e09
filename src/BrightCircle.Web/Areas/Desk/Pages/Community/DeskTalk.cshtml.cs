using BrightCircle.App.Community;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Keeping the talk good: what was reported, and who can't write for a time.</summary>
public sealed class DeskTalkModel(CareTalk care) : DeskPage
{
    const int PageSize = 20;
    public override string Place => "talk";
    public bool Settled { get; private set; }
    public IReadOnlyList<Reported> Rows { get; private set; } = [];
    public IReadOnlyList<(TalkBar Bar, string Name)> Bars { get; private set; } = [];
    public Pager Pager { get; private set; } = null!;

    public async Task OnGet(bool settled, int page = 1)
    {
        (Settled, page) = (settled, Math.Clamp(page, 1, 100_000));
        (Rows, var count, Bars) = await care.Reports(settled, page, PageSize, Ct);
        Pager = new(page, count, PageSize, p => $"/desk/talk?settled={(settled ? "true" : "false")}&page={p}");
    }

    public async Task<IActionResult> OnPostSettle(long report, ReportOutcome outcome, string? words)
    {
        var done = ModelState.IsValid ? await care.Settle(Actor, report, outcome, words, Ct) : App.Result.Refused("Choose what becomes of it.");
        Tell(!done.Ok ? done.Refusal! : outcome == ReportOutcome.TakenAway ? "It is taken away." : "It stands.");
        return Redirect("/desk/talk");
    }

    public async Task<IActionResult> OnPostLet(long member)
    {
        var done = await care.LetWrite(Actor, new(member), Ct);
        Tell(done.Ok ? "They can write again." : done.Refusal!);
        return Redirect("/desk/talk");
    }
}
