using BrightCircle.App.Settings;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>How the site goes onto a phone: the same for everybody, since the letter that leads here may be opened anywhere.</summary>
public sealed class PhoneModel(SiteAddress site) : BrightPage
{
    public string Address => site.Url + "/phone";
    public string Code => QrCode.Svg(Address, $"A code that leads to {Address}");
}
