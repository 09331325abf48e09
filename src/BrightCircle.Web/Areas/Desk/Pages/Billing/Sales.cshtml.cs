using BrightCircle.App.Insight;
using BrightCircle.Web.House;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What was sold in some days, with as many days before beside it.</summary>
public sealed class SalesModel(Sales sales) : DeskPage
{
    public override string Place => "sales";
    public SalesView View { get; private set; } = null!;
    public string Date(LocalDate day) => day.ToString("d MMM uuuu", Now.Culture);

    public async Task OnGet(string? from, string? to)
    {
        var today = Now.Calendar.Date(Moment);
        // Days that can't be are brought to where they can: the last thirty days, and never more than a year and a bit.
        var last = LocalInput.DayOrNone(to) is { Year: > 2000 and < 2200 } t ? t : today;
        var first = LocalInput.DayOrNone(from) is { Year: > 2000 and < 2200 } f && f <= last ? f : last.PlusDays(-29);
        if (NodaTime.Period.DaysBetween(first, last) >= Sales.MostDays) first = last.PlusDays(1 - Sales.MostDays);
        View = await sales.Of(first, last, Ct);
    }

    public IEnumerable<(string Word, string Query)> Spans
    {
        get
        {
            var today = Now.Calendar.Date(Moment);
            string Query(LocalDate from, LocalDate to) => $"?from={from.ToString("uuuu-MM-dd", null)}&to={to.ToString("uuuu-MM-dd", null)}";
            var month = today.With(DateAdjusters.StartOfMonth);
            yield return ("this month", Query(month, today));
            yield return ("last month", Query(month.PlusMonths(-1), month.PlusDays(-1)));
            yield return ("twelve months", Query(today.PlusYears(-1).PlusDays(1), today));
        }
    }
}
