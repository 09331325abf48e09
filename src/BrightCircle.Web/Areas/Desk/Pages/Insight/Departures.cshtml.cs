using BrightCircle.App.Insight;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Somebody in a column of departures.</summary>
/// <param name="Words">What was said, by them or by their bank; empty for nothing.</param>
/// <param name="Soft">What else there is to know.</param>
public sealed record DepartureCard(MemberId Member, string Name, PlanId? Plan, string Words, string Soft)
{
    /// <summary>Prices that are made for who held what they held.</summary>
    public IReadOnlyList<Core.Offer.Price> WaysBack { get; init; } = [];
}

/// <param name="Figure">How many there are, also where not all are shown.</param>
/// <param name="Link">Where all of them are; null where no list has just these.</param>
public sealed record DepartureColumn(string Key, string Title, string Figure, string? Link, string Empty, IReadOnlyList<DepartureCard> Cards);

/// <summary>Who is about to go, and who went; what they said, and what was tried.</summary>
public sealed class DeparturesModel(Departures departures) : DeskPage
{
    public override string Place => "departures";
    public DeparturesView View { get; private set; } = null!;

    public async Task OnGet()
    {
        View = await departures.Load(Moment, Ct);
        if (View.MustCount) await departures.Count(Moment, Ct);
    }

    public string Number(int n) => n.ToString("N0", Now.Culture);

    public IEnumerable<DepartureColumn> Columns
    {
        get
        {
            string Whole(Standing standing) => Number(View.Counts.GetValueOrDefault(standing));
            string Shown(int n) => Number(n) + (n >= Departures.Most ? "+" : "");
            static string List(Standing standing) => $"/desk/members?standing={standing}";
            yield return new("grace", "In grace", Whole(Standing.Grace), List(Standing.Grace), "Every payment went through.", [.. View.Grace.Select(g =>
                new DepartureCard(g.Member, g.Name, g.Plan, g.Said.Length > 0 ? Sentence(g.Said) : "A payment failed.",
                    (g.Next is { } next ? $"Asked again on {Day(next)}." : "Needs another card.")
                    + (g.OpenUntil is { } until ? $" Open until {Day(until)}." : "") + Tried(g.Member)))]);
            yield return new("ending", "Ending", Whole(Standing.Ending), List(Standing.Ending), "Nobody has decided to leave.", [.. View.Ending.Select(e =>
                new DepartureCard(e.Member, e.Name, e.Plan, Quoted(e.Why),
                    $"Said so {Ago(e.At)}{(e.Until is { } until ? $", open until {Day(until)}" : "")}.{Tried(e.Member)}"))]);
            yield return new("left", "Went in 30 days", Shown(View.Left.Count), null, "Nobody.", [.. View.Left.Select(e =>
                new DepartureCard(e.Member, e.Name, e.Plan, Quoted(e.Why),
                    $"{Sentence(e.Ended is { } reason ? reason.Words() : "over", "")}, {Ago(e.At)}.{Tried(e.Member)}") { WaysBack = WaysBack(e.Plan) })]);
            yield return new("risk", "May not stay", Shown(View.Risk.Count), null, "No sign of it in anybody.", [.. View.Risk.Take(Departures.Most).Select(r =>
                new DepartureCard(r.Member, r.Name, r.Plan, "",
                    Sentence(string.Join(", ", r.Signs.Select(Word))) + (r.Seen is { } seen ? $" Last here {Ago(seen)}." : "")))]);
        }
    }

    /// <summary>No more than a card has room for; in their own order.</summary>
    const int MostWaysBack = 3;

    IReadOnlyList<Core.Offer.Price> WaysBack(PlanId? from) => from is not { } plan ? []
        : [.. Now.Prices.Where(p => p.IsWayBackFrom(plan, Now.PlanById[p.PlanId])).OrderBy(p => p.Order).Take(MostWaysBack)];

    static string Word(RiskSign sign) => sign switch
    {
        RiskSign.NotSeen => $"not seen for {Risk.Days} days",
        RiskSign.LookedAtLeaving => "was about to leave, and stayed",
        RiskSign.LettersRefused => "letters come back",
        RiskSign.CardRunsOut => "the card runs out",
    };

    /// <summary>What the team noted of them since.</summary>
    string Tried(MemberId member) => View.Tried.GetValueOrDefault(member) is > 0 and var n ? $" {Count(n, "note")} of the team." : "";

    string Sentence(string words, string end = ".") => char.ToUpper(words[0], Now.Culture) + words[1..] + end;
    static string Quoted(string? words) => string.IsNullOrEmpty(words) ? "" : $"“{words}”";
}
