using BrightCircle.App.Content;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class DeskSearchModel(SearchContent search) : DeskPage
{
    public override string Place => "shelves";
    public string? Query { get; private set; }
    public IReadOnlyList<SearchHit> Hits { get; private set; } = [];

    public async Task OnGet(string? q)
    {
        Query = q;
        Hits = await search.ForTeam(q, Ct);
    }
}
