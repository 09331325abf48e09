using BrightCircle.App.Learning;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>All tallies with their week under way.</summary>
public sealed class DeskTalliesModel(Tallies tallies) : DeskPage
{
    public override string Place => "tallies";
    public IReadOnlyDictionary<TallyId, TallyTeamWeek> Weeks { get; private set; } = new Dictionary<TallyId, TallyTeamWeek>();

    public async Task OnGet() => Weeks = await tallies.UnderWay(Ct);
}
