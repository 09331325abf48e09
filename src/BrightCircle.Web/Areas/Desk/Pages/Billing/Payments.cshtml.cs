using System.Globalization;
using BrightCircle.App.Billing;
using BrightCircle.Core.Billing;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class PaymentsModel(PaymentList list) : DeskPage
{
    public override string Place => "payments";
    public PaymentFilter Filter { get; private set; } = new();
    public PaymentPage List { get; private set; } = null!;
    public int PageNumber { get; private set; } = 1;
    public bool IsFiltered => Filter != new PaymentFilter();

    public async Task OnGet(string? state, string? q, string? from, string? to, int page = 1)
    {
        Filter = new(Enum.TryParse<PaymentState>(state, out var s) && Enum.IsDefined(s) ? s : null, string.IsNullOrWhiteSpace(q) ? null : q.Trim(),
            LocalInput.DayOrNone(from),
            LocalInput.DayOrNone(to));
        PageNumber = Math.Max(1, page);
        List = await list.Page(Filter, PageNumber, Ct);
    }

    public string Query(int page) => QueryString.Create(new Dictionary<string, string?>
    {
        ["q"] = Filter.Search,
        ["state"] = Filter.State?.ToString(),
        ["from"] = Filter.From?.ToString("uuuu-MM-dd", null),
        ["to"] = Filter.To?.ToString("uuuu-MM-dd", null),
        ["page"] = page.ToString(CultureInfo.InvariantCulture),
    }.Where(x => !string.IsNullOrEmpty(x.Value))).ToString();
}
