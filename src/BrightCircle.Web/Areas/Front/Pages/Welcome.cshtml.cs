using BrightCircle.Core.Members;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Front.Pages;

public sealed class WelcomeModel : BrightPage
{
    public string? Holds => Visitor.Person?.Holdings.LastOrDefault(h => h.StateAt(Moment) is not (HoldingState.Over or HoldingState.NotYet)) is { } h ? Now.PlanName(h.PlanId) : null;
    public void OnGet() { }
}
