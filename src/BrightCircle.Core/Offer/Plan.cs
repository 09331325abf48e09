using NodaTime;

namespace BrightCircle.Core.Offer;

/// <summary>Who may newly take a plan or a price.</summary>
public enum Availability
{
    /// <summary>It stands on the front.</summary>
    OnOffer,
    /// <summary>Only whoever was given its link.</summary>
    ByLink,
    /// <summary>Nobody. Those who have it keep it.</summary>
    Closed,
}

public enum PlanKind
{
    /// <summary>A level of ongoing membership. Tiers are ranked, and of paid ones a member holds one.</summary>
    Tier,
    /// <summary>A one-off thing to buy: a piece, several, a challenge. It has no rank and stands beside any tier.</summary>
    Pass,
}

/// <summary>A plan with its promise: a tier, or a pass.</summary>
public sealed class Plan
{
    public const int MostGroupLink = 400, MostGroupWords = 200;

    public PlanId Id { get; init; }
    public PlanKind Kind { get; init; }
    public string Name { get; set; } = "";
    /// <summary>Of a tier: 1 is the lowest. A pass has none, and 0 stands here.</summary>
    public int Rank { get; set; }
    public string Description { get; set; } = "";
    /// <summary>The promise for those who join now.</summary>
    public IReadOnlyList<Inclusion> Promise { get; set; } = [];
    /// <summary>Of the promise for those who join now: the pace of those who hold the plan through a price.</summary>
    public IReadOnlyDictionary<PriceId, Pace> PaceOf { get; set; } = PromiseVersion.NoPaces;
    /// <summary>The number of the promise for those who join now.</summary>
    public int PromiseNumber { get; set; } = 1;
    /// <summary>When that was saved, UTC.</summary>
    public Instant PromiseFrom { get; set; }
    /// <summary>What it promised before; some who joined then may still live by it.</summary>
    public IReadOnlyList<PromiseVersion> Earlier { get; set; } = [];
    public Availability Availability { get; set; }
    /// <summary>Where its holders come to when they sign in: a path of the site; empty for their home.</summary>
    public string StartPath { get; set; } = "";
    /// <summary>What its holders start with: it stands first on their home until it is done; null for nothing.</summary>
    public PieceId? StartPieceId { get; set; }
    /// <summary>Where its holders meet elsewhere: an https address that only they are shown; empty for nowhere.</summary>
    public string GroupLink { get; set; } = "";
    /// <summary>What is said beside it; empty for the usual.</summary>
    public string GroupWords { get; set; } = "";
    public Instant CreatedAt { get; init; }
    public bool IsTier => Kind == PlanKind.Tier;
    /// <summary>What whoever lives by a version of the promise is promised; the present one where there is no such version.</summary>
    public IReadOnlyList<Inclusion> PromiseOf(int number) => Earlier.FirstOrDefault(v => v.Number == number)?.Promise ?? Promise;
    /// <summary>"tier" or "pass".</summary>
    public string Word => Kind switch { PlanKind.Tier => "tier", PlanKind.Pass => "pass" };
}

/// <summary>One way to pay for a plan. Its terms never change once it exists; its wording and whether it is on offer can.</summary>
public sealed class Price
{
    public PriceId Id { get; init; }
    public PlanId PlanId { get; init; }
    public string Name { get; set; } = "";
    /// <summary>The words on the button that leads to it.</summary>
    public string Button { get; set; } = "";
    public required PriceTerms Terms { get; init; }
    /// <summary>The last part of its join link: short, unique, in lower case.</summary>
    public string Code { get; set; } = "";
    /// <summary>A sentence of the owner's own that stands with it on the front; empty for none.</summary>
    public string Text { get; set; } = "";
    /// <summary>The one the owner would take: it stands out among its plan's prices.</summary>
    public bool IsHighlighted { get; set; }
    /// <summary>How long members may pause it by themselves; null where only the team does.</summary>
    public PauseRule? Pause { get; set; }
    /// <summary>Who may buy it; null for anybody.</summary>
    public BuyerRule? Buyers { get; set; }
    /// <summary>What is offered beside it where it is paid; null for nothing.</summary>
    public CheckoutExtra? Extra { get; set; }
    /// <summary>Ways to pay that the site offers, but not for this price.</summary>
    public IReadOnlyList<PayWay> NotBy { get; set; } = [];
    /// <summary>It can be bought for somebody else, as a voucher.</summary>
    public bool AsVoucher { get; set; }
    /// <summary>Where it stands among its plan's prices.</summary>
    public int Order { get; set; }
    public Instant CreatedAt { get; init; }
    public Availability Availability { get; set; }

    /// <summary>Of a plan and one of its prices the stricter word counts.</summary>
    public Availability Within(Plan plan) => plan.Availability > Availability ? plan.Availability : Availability;

    /// <summary>Made for who held a plan and went: it can be offered as a way back while it, and what it is for, can be bought.</summary>
    /// <param name="of">What it is the price of.</param>
    public bool IsWayBackFrom(PlanId plan, Plan of) => Buyers is BuyerRule.FormerHolders f && f.Plans.Contains(plan) && Within(of) != Availability.Closed;
}

/// <summary>How long members may pause a price by themselves. The team may always.</summary>
/// <param name="MostDays">The longest pause, in calendar days; at least 1.</param>
/// <param name="DaysAYear">How many days of pause in the year before a pause's end; at least <paramref name="MostDays"/>.</param>
public sealed record PauseRule(int MostDays, int DaysAYear);
