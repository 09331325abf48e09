using System.Globalization;
using BrightCircle.App.Billing;
using BrightCircle.Core.Billing;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A page that shows the payments a filter names; all of it stands in the address.</summary>
public abstract class PaymentFilterPage : DeskPage
{
    public override string Place => "payments";
    public PaymentFilter Filter { get; private set; } = new();

    protected void ReadFilter()
    {
        string? Typed(string name) => Request.Query[name].ToString() is { Length: > 0 } v ? v.Trim() : null;
        long? Number(string name) => long.TryParse(Typed(name), NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : null;
        Filter = new(Enum.TryParse<PaymentState>(Typed("state"), out var s) && Enum.IsDefined(s) ? s : null, Typed("q"), LocalInput.DayOrNone(Typed("from")),
            LocalInput.DayOrNone(Typed("to")), Number("plan") is { } plan && Now.PlanById.ContainsKey(new(plan)) ? new(plan) : null,
            Number("price") is { } price && Now.PriceById.ContainsKey(new(price)) ? new(price) : null, Number("coupon"),
            Enum.TryParse<Core.Offer.PayWay>(Typed("way"), out var way) && Enum.IsDefined(way) ? way : null);
    }

    /// <summary>The filter as it stands in an address.</summary>
    protected QueryString InAddress(int? page) => QueryString.Create(new Dictionary<string, string?>
    {
        ["q"] = Filter.Search,
        ["state"] = Filter.State?.ToString(),
        ["from"] = Filter.From?.ToString("uuuu-MM-dd", null),
        ["to"] = Filter.To?.ToString("uuuu-MM-dd", null),
        ["plan"] = Filter.Plan?.Value.ToString(CultureInfo.InvariantCulture),
        ["price"] = Filter.Price?.Value.ToString(CultureInfo.InvariantCulture),
        ["coupon"] = Filter.Coupon?.ToString(CultureInfo.InvariantCulture),
        ["way"] = Filter.Way?.ToString(),
        ["page"] = page?.ToString(CultureInfo.InvariantCulture),
    }.Where(x => !string.IsNullOrEmpty(x.Value)));
}

public sealed class PaymentsModel(PaymentList list) : PaymentFilterPage
{
    public PaymentPage List { get; private set; } = null!;
    public int PageNumber { get; private set; } = 1;
    public bool IsFiltered => Filter != new PaymentFilter();

    public async Task OnGet(int page = 1)
    {
        ReadFilter();
        PageNumber = Math.Max(1, page);
        List = await list.Page(Filter, PageNumber, Ct);
    }

    public string Query(int page) => InAddress(page).ToString();
    public string Csv => "/desk/payments.csv" + InAddress(null);
}
