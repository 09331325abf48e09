using BrightCircle.App.Events;
using BrightCircle.Data;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>What the team did to the house, and through whose eyes it looked.</summary>
public sealed class DeedsModel(Deeds deeds) : DeskPage
{
    public override string Place => "deeds";
    public IReadOnlyList<Deed> Rows { get; private set; } = [];
    public int Total { get; private set; }
    public int PageNumber { get; private set; } = 1;

    public string? Search { get; private set; }

    public async Task OnGet(string? q, int page = 1)
    {
        Actor.NeedOwner();
        (Search, PageNumber) = (Bounded.To(q, 100), Math.Clamp(page, 1, 100_000));
        (Rows, Total) = await deeds.Page(Search, PageNumber, Ct);
    }
}
