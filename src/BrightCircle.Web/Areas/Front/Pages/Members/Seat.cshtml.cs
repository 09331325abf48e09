using BrightCircle.App.Members;
using BrightCircle.App.Rights;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>A seat in a group is offered: what it gives, and taking it. Its address came by letter, and proves the letterbox.</summary>
[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class SeatModel(GroupSeats seats, SignInManager<Account> signIn) : BrightPage
{
    public GroupSeat Seat { get; private set; } = null!;
    public Plan Plan { get; private set; } = null!;
    public string By { get; private set; } = "";
    public bool IsForTheTeam => Visitor is { IsTeam: true, IsLooking: false };

    async Task<bool> Find(string code)
    {
        if (await seats.ByCode(code, Ct) is not { } found) return false;
        (Seat, Plan, By) = (found.Seat, Now.PlanById[found.Plan], found.By);
        return true;
    }

    public async Task<IActionResult> OnGet(string code) => await Find(code) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(string code, string? name)
    {
        if (!await Find(code)) return NotFound();
        if (Visitor.IsLooking) return Redirect("/status/looking");
        if (IsForTheTeam) return Page();
        var taken = await seats.Take(code, Visitor.Member, name, Ct);
        if (!taken.Ok)
        {
            Refuse(taken.Refusal!, taken.Field);
            return Page();
        }
        if (Visitor.SignedIn is null)
        {
            var account = await signIn.UserManager.FindByIdAsync(taken.Value.Value.ToString(System.Globalization.CultureInfo.InvariantCulture));
            await signIn.SignInAsync(account!, isPersistent: true);
        }
        return Redirect($"/start/{Plan.Id.Value}");
    }
}
