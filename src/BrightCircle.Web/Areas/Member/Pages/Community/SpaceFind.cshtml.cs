using BrightCircle.App.Community;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>Looks for words in what was said, in the spaces that are open to whoever looks.</summary>
public sealed class SpaceFindModel(ReadTalk read) : MemberPage
{
    public const int PageSize = 20;
    public override string Place => "spaces";
    public string Q { get; private set; } = "";
    public int PageNumber { get; private set; }
    /// <summary>One more than a page where there are more.</summary>
    public IReadOnlyList<TalkHit> Hits { get; private set; } = [];

    public async Task OnGet(string? q, int page = 1)
    {
        ModelState.Clear();
        (Q, PageNumber) = (q?.Trim() ?? "", Math.Clamp(page, 1, 1000));
        var found = await read.Find(Visitor.AllTalks(Now, Moment), Q, (PageNumber - 1) * PageSize, PageSize + 1, Ct);
        Hits = found;
    }

    public string At(int page) => "/spaces/search" + QueryString.Create(new Dictionary<string, string?>
    {
        ["q"] = Q,
        ["page"] = page.ToString(System.Globalization.CultureInfo.InvariantCulture),
    });
}
