using System.Globalization;
using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Reads the member filter from the address, and writes it back.</summary>
public abstract class MemberFilterPage : DeskPage
{
    public override string Place => "members";
    public MemberFilter Filter { get; private set; } = new();

    protected void ReadFilter()
    {
        string? Q(string name) => Request.Query[name].ToString() is { Length: > 0 } v ? v : null;
        Filter = new(Q("q"), Enum.TryParse<Standing>(Q("standing"), out var s) && Enum.IsDefined(s) ? s : null,
            long.TryParse(Q("plan"), out var p) ? new PlanId(p) : null, LocalInput.DayOrNone(Q("from")), LocalInput.DayOrNone(Q("to")),
                Q("sort") ?? "joined", Q("down") != "false");
    }

    public string Query(int page = 1, string? sort = null, bool? down = null)
    {
        var parts = new Dictionary<string, string?>
        {
            ["q"] = Filter.Search,
            ["standing"] = Filter.Standing?.ToString(),
            ["plan"] = Filter.Plan?.Value.ToString(CultureInfo.InvariantCulture),
            ["from"] = Filter.From?.ToString("uuuu-MM-dd", null),
            ["to"] = Filter.To?.ToString("uuuu-MM-dd", null),
            ["sort"] = (sort ?? Filter.Sort) is "joined" ? null : sort ?? Filter.Sort,
            ["down"] = (down ?? Filter.Down) ? null : "false",
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
    public bool IsFiltered => Filter.Search is not null || Filter.Standing is not null || Filter.Plan is not null || Filter.From is not null
        || Filter.To is not null;
    public string SortLink(string key) => "/desk/members" + Query(1, key, Filter.Sort == key ? !Filter.Down : key is "since" or "joined");

    public async Task OnGet(int page = 1)
    {
        ReadFilter();
        PageNumber = Math.Max(1, page);
        (Rows, Total) = await list.Page(Filter, PageNumber, Ct);
    }
}
