using BrightCircle.App.Words;
using BrightCircle.Core.Community;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The challenges, the latest first.</summary>
public sealed class DeskChallengesModel : DeskPage
{
    public override string Place => "challenges";
    public void OnGet() { }

    public string When(Challenge c) => ChallengeWords.Short(c, Now.Calendar.Date(Moment), Now.Culture);
}
