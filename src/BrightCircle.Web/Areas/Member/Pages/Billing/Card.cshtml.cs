using BrightCircle.App.Billing;
using BrightCircle.App.Letters;
using BrightCircle.App.Settings;
using BrightCircle.Web.Areas.Front.Pages;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>To the Till for another card, or to pay what is open.</summary>
public sealed class CardModel(GoToTill till, SiteAddress address) : MemberPage
{
    public override string Place => "account";
    public OpenPayment? Open => OpenPayment.Of(Visitor.Person!.Holdings, Moment);

    public IActionResult OnGet() => Visitor.IsMember ? Page() : Redirect("/me/account");

    public async Task<IActionResult> OnPost()
    {
        var next = await till.Card(Member, id => $"{address.Url}/me/card/back?c={Uri.EscapeDataString(CheckoutToken.Make(HttpContext, id))}", Ct);
        if (next.Ok) return Redirect(next.Value!);
        Refuse(next.Refusal!);
        return Page();
    }
}
