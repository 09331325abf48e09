using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class EditionsModel : RingPage
{
    public override string Place => "editions";
    YearMonth first;
    public YearMonth LitMonth => Now.NextEdition?.Month ?? Now.Calendar.Month(Moment).PlusMonths(1);
    public Edition? Lit => Of(LitMonth);
    public IReadOnlyList<YearMonth> Months => [.. Enumerable.Range(0, 4).Select(first.PlusMonths)];
    public IReadOnlyList<Piece> ToCome => [.. Now.Pieces.Where(p => p.EditionId is null)];
    public Edition? Of(YearMonth m) => Now.Editions.FirstOrDefault(e => e.Month == m);
    public string Shift(int months) => first.PlusMonths(months).ToString("uuuu-MM", null);

    /// <summary>How many pieces of an edition each tier's holders get, if they go on as they are.</summary>
    public IEnumerable<(Plan, int)> Gives(Edition e) => Now.Plans.Select(p => (p, Now.PartsOf[e.Id].Count(x => x.Ready && Now.Book.PlansThatCover([x.Id]).Contains(p))));

    public void OnGet(string? from)
    {
        var asked = NodaTime.Text.YearMonthPattern.Iso.Parse(from ?? "");
        first = asked.Success && asked.Value.Year is > 2000 and < 2100 ? asked.Value : Now.Calendar.Month(Moment).PlusMonths(-1);
    }
}
