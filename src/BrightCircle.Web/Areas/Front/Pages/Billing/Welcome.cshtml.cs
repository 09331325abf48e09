using BrightCircle.App.Members;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>It is done: leads to what was bought, and says what of it is open now.</summary>
public sealed class WelcomeModel(OwnFields fields) : TiersPage
{
    /// <summary>What whoever joins is asked about themselves, as far as they haven't said it yet.</summary>
    public IReadOnlyList<OwnField> Asked { get; private set; } = [];

    /// <summary>What was joined or bought just now, as far as they hold it.</summary>
    public Plan? Plan { get; private set; }
    /// <summary>The challenge it is for; null for everything else.</summary>
    public BrightCircle.Core.Community.Challenge? TakesPartIn => Plan is null ? null : Now.Community.ChallengeOf(Plan.Id);
    /// <summary>How it was got and how long it stays, of a pass.</summary>
    public string Stays { get; private set; } = "";
    public IReadOnlyList<Released> Open { get; private set; } = [];
    public Released? Next { get; private set; }
    /// <summary>The spaces of those with whom they begin something of it together.</summary>
    public IReadOnlyList<BrightCircle.Core.Community.Space> BeginTogether => Plan is null ? [] : [.. Now.Spaces.Where(s => s is { CohortId: not null,
        PieceId: { } piece } && Now.Book.PlansThatOpen(piece, Moment).Contains(Plan) && Visitor.Talks(Now, s.Id, Moment) is { MayWrite: true })];
    /// <summary>What the owner says to those who joined by this price.</summary>
    public BrightCircle.Web.Parts.PageSections? Own { get; private set; }

    public async Task OnGet(long? plan)
    {
        if (Visitor.Recorded is { } member && Now.OwnFields.Any(f => f.AskedAtJoining))
        {
            var said = await fields.Of(member, Ct);
            Asked = [.. Now.OwnFields.Where(f => f.AskedAtJoining && !said.ContainsKey(f.Id))];
        }
        var held = Visitor.Person?.Holdings.Where(h => h.IsHeldAt(Moment)).ToArray() ?? [];
        var of = held.LastOrDefault(h => h.PlanId.Value == plan) ?? held.LastOrDefault();
        Plan = of is null ? null : Now.PlanById[of.PlanId];
        if (Plan is null) return;
        if (of!.PriceId is { } price) Own = Words(Core.Content.SitePageKind.Confirmation, Plan, price);
        var ends = Obligations.Of(of, Moment).AccessEnds;
        Stays = $"It {(of.Agreement.IsFree ? "costs nothing" : "was paid once")}, and "
            + (ends is { } end ? $"is open until {FullDay(end - NodaTime.Duration.Epsilon)}."
                : PromiseWords.Lasts(Plan.Promise) is { } length ? $"is open for {length}." : "stays.");
        var theirs = Now.OpenTo(Visitor.Facts, Moment).Where(r => Gives(Plan, r));
        Open = [.. theirs.Take(3)];
        Next = Now.ComingTo(Visitor.Facts, Moment).FirstOrDefault(r => Gives(Plan, r));
    }

    bool Gives(Plan plan, Released r) => Now.Book.PlansThatOpen(r.Thing, Moment).Any(p => p.Id == plan.Id);
}
