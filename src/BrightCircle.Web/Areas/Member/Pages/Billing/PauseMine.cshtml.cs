using BrightCircle.App.Billing;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>A member pauses what they hold, as long as its price lets them.</summary>
public sealed class PauseMineModel(PausePlan pause) : MemberPage
{
    public override string Place => "account";
    public Holding Holding { get; private set; } = null!;
    public Plan Plan => Now.PlanById[Holding.PlanId];
    public PauseRule Rule { get; private set; } = null!;
    public PausePreview Preview { get; private set; } = null!;
    public Instant PaidThrough { get; private set; }
    public string Until { get; private set; } = "";

    bool Find(long id, LocalDate? day)
    {
        var today = Now.Calendar.Date(Moment);
        if (Visitor.Person!.Holdings.FirstOrDefault(h => h.Id == new HoldingId(id)) is not { } found || Now.PriceOf(found)?.Pause is not { } rule
            || Pausing.Refuses(found, today.PlusDays(1), rule, byTeam: false, Moment) is not null) return false;
        (Holding, Rule, PaidThrough) = (found, rule, found.PaidThrough(Moment)!.Value);
        // As long as the rule allows, a month at most to begin with.
        var most = Enumerable.Range(1, Math.Min(30, rule.MostDays)).Last(d => Pausing.Refuses(found, today.PlusDays(d), rule, false, Moment) is null);
        var shown = day is { } wanted && wanted > today && wanted <= today.PlusDays(Pausing.Longest) ? wanted : today.PlusDays(most);
        Preview = Pausing.Preview(found, shown, Moment);
        Until = NodaTime.Text.LocalDatePattern.Iso.Format(shown);
        return true;
    }

    public IActionResult OnGet(long id) => Visitor.IsMember && Find(id, null) ? Page() : Redirect("/me/account");

    public async Task<IActionResult> OnPost(long id, string? until)
    {
        var day = LocalInput.DayOrNone(until);
        if (!Find(id, day)) return Redirect("/me/account");
        ModelState.Clear();
        if (day is not { } chosen) Refuse("On which day does it go on?", "Until");
        else if (await pause.Do(Member, Holding.Id, chosen, null, Ct) is { Ok: false } refused) Refuse(refused.Refusal!, refused.Field);
        else
        {
            Tell($"It is paused until {FullDay(Now.Calendar.At(chosen.AtMidnight()))}.");
            return Redirect("/me/account");
        }
        return Page();
    }
}
