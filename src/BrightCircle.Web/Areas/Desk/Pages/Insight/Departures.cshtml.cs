using BrightCircle.App.Insight;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Who is about to go, and who went; what they said, and what was tried.</summary>
public sealed class DeparturesModel(Departures departures) : DeskPage
{
    public override string Place => "departures";
    public DeparturesView View { get; private set; } = null!;

    public async Task OnGet() => View = await departures.Load(Moment, Ct);

    public static string Word(RiskSign sign) => sign switch
    {
        RiskSign.NotSeen => $"not seen for {Risk.Days} days",
        RiskSign.LookedAtLeaving => "was about to leave, and stayed",
        RiskSign.LettersRefused => "letters come back",
        RiskSign.CardRunsOut => "the card runs out",
    };

    public string Tried(MemberId member) => View.Tried.GetValueOrDefault(member) is > 0 and var n ? Count(n, "note") : "";
}
