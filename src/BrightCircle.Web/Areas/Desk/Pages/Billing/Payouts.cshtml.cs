using BrightCircle.App.Billing;
using BrightCircle.Core;
using BrightCircle.Web.House;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What the payment service sent to the bank in a month, with its fees, beside the books.</summary>
public sealed class PayoutsModel(Payouts payouts) : DeskPage
{
    public override string Place => "payouts";
    public YearMonth Month { get; private set; }
    public IReadOnlyList<PayoutRow>? Rows { get; private set; }

    public Money Sum(IReadOnlyList<PayoutRow> rows, Func<GatewayPayout, Money> of) =>
        new(rows.Where(r => of(r.Payout).Currency == Now.Currency).Sum(r => of(r.Payout).Minor), Now.Currency);

    public async Task OnGet(string? month)
    {
        Month = YearMonthPattern.Iso.Parse(month ?? "") is { Success: true, Value: { Year: > 2000 and < 2200 } m } ? m : Now.Calendar.Month(Moment);
        Rows = await payouts.Of(Month, Ct);
    }
}
