using BrightCircle.App.Billing;
using BrightCircle.App.Members;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The team notes that somebody paid in cash or by transfer what a holding asks for next.</summary>
public sealed class NotePaidModel(MemberPageQuery query, ReceiveMoney receive) : DeskPage
{
    public override string Place => "members";
    public long Id { get; private set; }
    public string Name { get; private set; } = "";
    public string Plan { get; private set; } = "";
    public Charge Charge { get; private set; } = null!;
    public bool HasCard { get; private set; }
    public PayWay Way { get; private set; } = PayWay.Elsewhere;
    public string? Words { get; private set; }
    public string Day0 { get; private set; } = "";

    async Task<bool> Find(long id, long holding)
    {
        if (await query.Load(new(id), Ct) is not { } file || file.Holdings.FirstOrDefault(h => h.Id.Value == holding) is not { } h
            || ReceiveMoney.Noteable(h, Moment) is not { } charge) return false;
        (Id, Name, Plan, Charge, HasCard) = (id, file.Member.Name, Now.PlanName(h.PlanId), charge, h.Way == PayWay.Card);
        Day0 = LocalDatePattern.Iso.Format(Now.Calendar.Date(Moment));
        return true;
    }

    public async Task<IActionResult> OnGet(long id, long holding) => await Find(id, holding) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id, long holding, PayWay way, string? day, string? words, long shown)
    {
        Actor.NeedSupport();
        if (!await Find(id, holding)) return NotFound();
        (Way, Words, Day0) = (way, words, day ?? "");
        if (!LocalInput.TryReadDay(day, out var on)) Refuse("On which day?", "Day");
        else if (await receive.Note(Actor, new(id), new(holding), way, on, shown, words, Ct) is { Ok: false } refused) Refuse(refused.Refusal!, refused.Field);
        else
        {
            Tell("Noted. A receipt is on its way.");
            return Redirect($"/desk/members/{id}");
        }
        return Page();
    }
}
