using BrightCircle.Core.Community;
using BrightCircle.Web.House;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The challenges, the latest first.</summary>
public sealed class DeskChallengesModel : DeskPage
{
    public override string Place => "challenges";
    public void OnGet() { }

    LocalDate Today => Now.Calendar.Date(Moment);
    public string When(Challenge c) => c.IsUnderWay(Today) ? $"week {c.WeekOf(Today)} of {c.Weeks}" : c.IsOver(Today)
        ? $"over since {c.EndsOn.ToString("d MMMM uuuu", Now.Culture)}" : $"begins on {c.StartsOn.ToString("d MMMM uuuu", Now.Culture)}";
}
