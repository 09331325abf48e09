using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Straight into what a plan starts with, or what is newest and open: of what was just bought where that is named, else of all; home where
/// nothing is.</summary>
public sealed class StartModel : MemberPage
{
    public IActionResult OnGet(long? plan)
    {
        // What the plan starts with comes before what is newest.
        if (plan is { } bought && Now.PlanById.GetValueOrDefault(new(bought)) is { } of && Now.StartOf(of) is { } begin && Decide(begin).IsOpen)
            return Redirect(PathOf(begin));
        var open = Now.OpenTo(Visitor.Facts, Moment);
        var first = plan is { } id ? open.FirstOrDefault(r => Now.Book.PlansThatOpen(r.Thing, Moment).Any(p => p.Id.Value == id)) : null;
        return Redirect((first ?? open.FirstOrDefault()) is { } r ? PathOf(r) : "/me");
    }
}
