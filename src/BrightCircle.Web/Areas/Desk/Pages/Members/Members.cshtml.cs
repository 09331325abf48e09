using System.Globalization;
using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Reads the member filter from the address, and writes it back.</summary>
public abstract class MemberFilterPage : DeskPage
{
    public override string Place => "members";
    public MemberListing Listing { get; private set; } = new(new());
    public MemberFilter Filter => Listing.Filter;

    protected void ReadFilter()
    {
        string? Q(string name) => Request.Query[name].ToString() is { Length: > 0 } v ? v : null;
        Listing = new(new(Q("q"), Enum.TryParse<Standing>(Q("standing"), out var s) && Enum.IsDefined(s) ? s : null,
            long.TryParse(Q("plan"), out var p) ? new PlanId(p) : null, LocalInput.DayOrNone(Q("from")), LocalInput.DayOrNone(Q("to")),
            long.TryParse(Q("tag"), out var t) ? new TagId(t) : null, long.TryParse(Q("audience"), out var a) ? new AudienceId(a) : null),
            Q("sort") ?? "joined", Q("down") != "false");
    }

    public string Query(int page = 1, string? sort = null, bool? down = null) =>
        QueryOf(new(Filter, sort ?? Listing.Sort, down ?? Listing.Down), page);

    /// <summary>A listing as it stands in the address.</summary>
    public static string QueryOf(MemberListing listing, int page = 1)
    {
        var f = listing.Filter;
        var parts = new Dictionary<string, string?>
        {
            ["q"] = f.Search,
            ["standing"] = f.Standing?.ToString(),
            ["plan"] = f.Plan?.Value.ToString(CultureInfo.InvariantCulture),
            ["from"] = f.From?.ToString("uuuu-MM-dd", null),
            ["to"] = f.To?.ToString("uuuu-MM-dd", null),
            ["tag"] = f.Tag?.Value.ToString(CultureInfo.InvariantCulture),
            ["audience"] = f.Audience?.Value.ToString(CultureInfo.InvariantCulture),
            ["sort"] = listing.Sort is "joined" ? null : listing.Sort,
            ["down"] = listing.Down ? null : "false",
            ["page"] = page == 1 ? null : page.ToString(CultureInfo.InvariantCulture),
        };
        return QueryString.Create(parts.Where(x => !string.IsNullOrEmpty(x.Value))).ToString();
    }
}

public sealed class MembersModel(MemberList list) : MemberFilterPage
{
    public static readonly (string, string)[] Columns = [("name", "Name"), ("standing", "Standing"), ("since", "Since"), ("joined", "Joined")];
    public IReadOnlyList<MemberRow> Rows { get; private set; } = [];
    public int Total { get; private set; }
    public int PageNumber { get; private set; } = 1;
    public bool IsFiltered => !Filter.IsEverybody;
    public string SortLink(string key) => "/desk/members" + Query(1, key, Listing.Sort == key ? !Listing.Down : key is "since" or "joined");

    public async Task OnGet(int page = 1)
    {
        ReadFilter();
        PageNumber = Math.Max(1, page);
        (Rows, Total) = await list.Page(Listing, PageNumber, Ct);
    }
}
