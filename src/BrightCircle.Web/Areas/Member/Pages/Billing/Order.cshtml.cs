using BrightCircle.App.Billing;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>An order of one's own: how to pay it, or what came of it.</summary>
public sealed class OrderModel(FindOrder find, ReceiveMoney receive) : MemberPage
{
    public override string Place => "account";
    public OrderFile Shown { get; private set; } = null!;

    public async Task<IActionResult> OnGet(long id)
    {
        if (Visitor.Member is not { } member || await find.Do(id, member, Ct) is not { } file) return NotFound();
        Shown = file;
        return Page();
    }

    public async Task<IActionResult> OnPostCallOff(long id)
    {
        var done = await receive.CallOff(null, id, Member, Ct);
        Tell(done.Ok ? "The order is called off." : done.Refusal!);
        return Redirect("/me/account");
    }
}
