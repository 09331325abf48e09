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

    public async Task OnGet(int page = 1)
    {
        Actor.NeedOwner();
        PageNumber = Math.Max(1, page);
        (Rows, Total) = await deeds.Page(PageNumber, Ct);
    }
}
