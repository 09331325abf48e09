using BrightCircle.App.Content;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Front.Pages;

public sealed class SearchModel(SearchContent search) : BrightPage
{
    public string? Query { get; private set; }
    public IReadOnlyList<SearchHit> Hits { get; private set; } = [];

    public async Task OnGet(string? q)
    {
        Query = q;
        Hits = await search.ForVisitor(q, Visitor.Facts, Moment, Ct);
    }
}
