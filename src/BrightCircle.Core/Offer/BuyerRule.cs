using System.Text.Json.Serialization;
using BrightCircle.Core.Members;
using NodaTime;

namespace BrightCircle.Core.Offer;

/// <summary>Who may buy at a price, where that isn't anybody.</summary>
[JsonDerivedType(typeof(Holders), "holders")]
[JsonDerivedType(typeof(FormerHolders), "former")]
[JsonDerivedType(typeof(Newcomers), "newcomers")]
public abstract record BuyerRule
{
    private BuyerRule() { }
    /// <summary>Who holds one of these plans.</summary>
    public sealed record Holders(IReadOnlyList<PlanId> Plans) : BuyerRule;
    /// <summary>Who held one of these plans and holds none of them now.</summary>
    public sealed record FormerHolders(IReadOnlyList<PlanId> Plans) : BuyerRule;
    /// <summary>Who never bought anything.</summary>
    public sealed record Newcomers : BuyerRule;

    /// <summary>Whether somebody may, by what they hold and held. Of somebody who isn't signed in nothing is known: only newcomers' prices are theirs.</summary>
    public bool Allows(IReadOnlyList<Holding> holdings, Instant moment) => this switch
    {
        Holders h => holdings.Any(x => h.Plans.Contains(x.PlanId) && x.IsHeldAt(moment)),
        FormerHolders f => holdings.Any(x => f.Plans.Contains(x.PlanId) && x.StateAt(moment) == HoldingState.Over)
            && !holdings.Any(x => f.Plans.Contains(x.PlanId) && x.IsHeldAt(moment)),
        Newcomers => !holdings.Any(x => x.IsPaidFor),
        _ => throw new InvalidOperationException($"No such rule: {this}"),
    };
}
