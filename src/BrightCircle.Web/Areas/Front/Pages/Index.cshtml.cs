using BrightCircle.Core.Content;

namespace BrightCircle.Web.Areas.Front.Pages;

public sealed class IndexModel : TiersPage
{
    public YearRing? Ring { get; private set; }

    public void OnGet()
    {
        if (Now.Shelves.Count > 0) Ring = Now.PublicRingFrom(YearRing.WindowAround(Now.Calendar.Month(Moment)));
    }
}
