using BrightCircle.App.Billing;
using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The team pauses what a member holds, for as long as it likes.</summary>
public sealed class DeskPauseModel(MemberPageQuery query, PausePlan pause) : DeskPage
{
    public override string Place => "members";
    public MemberFile Whose { get; private set; } = null!;
    public Holding Holding { get; private set; } = null!;
    public Plan Plan => Now.PlanById[Holding.PlanId];
    public string Until { get; private set; } = "";

    async Task<bool> Find(long id, long holding)
    {
        if (await query.Load(new(id), Ct) is not { } file || file.Holdings.FirstOrDefault(h => h.Id == new HoldingId(holding)) is not { } found) return false;
        (Whose, Holding) = (file, found);
        return true;
    }

    public async Task<IActionResult> OnGet(long id, long holding)
    {
        if (!await Find(id, holding)) return NotFound();
        Until = NodaTime.Text.LocalDatePattern.Iso.Format(Now.Calendar.Date(Moment).PlusDays(30));
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, long holding, string? until)
    {
        if (!await Find(id, holding)) return NotFound();
        ModelState.Clear();
        Until = until ?? "";
        if (LocalInput.DayOrNone(until) is not { } day) Refuse("On which day does it go on?", "Until");
        else if (await pause.Do(new(id), new(holding), day, Actor, Ct) is { Ok: false } refused) Refuse(refused.Refusal!, refused.Field);
        else
        {
            Tell("It is paused.");
            return Redirect($"/desk/members/{id}");
        }
        return Page();
    }
}
