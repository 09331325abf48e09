using BrightCircle.App.Files;
using BrightCircle.App.Letters;
using BrightCircle.App.Settings;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class DeskCalendarModel(FileLinks links, SiteAddress address) : DeskPage
{
    public override string Place => "calendar";
    public string Address => $"{address.Url}/calendar/{links.TokenFor("calendar", Actor.AccountId, Visitor.SignedIn!.FeedsVersion)}/releases.ics";
}
