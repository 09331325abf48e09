using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Straight into this month's edition: its first part that is open, or home where none is.</summary>
public sealed class StartModel : MemberPage
{
    public IActionResult OnGet() =>
        Redirect(Now.CurrentEdition is { } e && Now.PartsOf[e.Id].FirstOrDefault(p => p.ReleasedAt is not null && Decide(p).IsOpen) is { } first ? PathOf(first) : "/me");
}
