using BrightCircle.App.Members;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Web.Areas.Front.Pages;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>To the Till for another card, or to pay what is open.</summary>
public sealed class CardModel(JoinPlan join) : MemberPage
{
    public override string Place => "account";
    public string? Open => Visitor.Person!.Holdings.FirstOrDefault(h => h.StateAt(Moment) == HoldingState.Grace) is { PriceId: { } p } && Now.PriceById[p].Terms is PriceTerms.Recurring r ? Money(r.Amount) : null;

    public void OnGet() { }

    public async Task<IActionResult> OnPost() =>
        Redirect(await join.OpenCardPage(Member, id => join.Absolute("/me/card/back?c=" + Uri.EscapeDataString(CheckoutToken.Make(HttpContext, id))), Ct));
}
