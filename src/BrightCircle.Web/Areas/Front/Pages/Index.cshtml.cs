using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.OutputCaching;

namespace BrightCircle.Web.Areas.Front.Pages;

[OutputCache(PolicyName = SameForVisitors.Name)]
public sealed class IndexModel : TiersPage
{
    public YearRing? Ring { get; private set; }

    public void OnGet()
    {
        if (Now.Shelves.Count > 0) Ring = Now.PublicRingFrom(YearRing.WindowAround(Now.Calendar.Month(Moment)));
    }
}
