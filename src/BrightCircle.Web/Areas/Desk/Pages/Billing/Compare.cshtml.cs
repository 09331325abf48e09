using BrightCircle.App.Billing;
using BrightCircle.Web.House;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The payment service's list of a month beside the books.</summary>
public sealed class CompareModel(CompareBooks compare) : DeskPage
{
    public override string Place => "compare";
    public YearMonth Month { get; private set; }
    public Comparison? View { get; private set; }

    public static string Word(Difference kind) => kind switch
    {
        Difference.NotInBooks => "taken there, not written down here",
        Difference.NotAtService => "written down here, not known there",
        Difference.AmountDiffers => "another amount",
        Difference.RefundDiffers => "another amount given back",
    };

    public async Task OnGet(string? month)
    {
        Month = YearMonthPattern.Iso.Parse(month ?? "") is { Success: true, Value: { Year: > 2000 and < 2200 } m } ? m : Now.Calendar.Month(Moment);
        View = await compare.Of(Month, Ct);
    }
}
