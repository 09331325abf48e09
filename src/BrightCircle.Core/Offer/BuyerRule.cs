using System.Text.Json.Serialization;

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
}
