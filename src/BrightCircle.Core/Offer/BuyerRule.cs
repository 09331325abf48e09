using System.Text.Json.Serialization;

namespace BrightCircle.Core.Offer;

/// <summary>Who may buy at a price, where that isn't anybody.</summary>
[JsonDerivedType(typeof(Holders), "holders")]
[JsonDerivedType(typeof(FormerHolders), "former")]
[JsonDerivedType(typeof(Newcomers), "newcomers")]
[JsonDerivedType(typeof(Listed), "listed")]
public abstract record BuyerRule
{
    private BuyerRule() { }
    /// <summary>Who holds one of these plans.</summary>
    public sealed record Holders(IReadOnlyList<PlanId> Plans) : BuyerRule;
    /// <summary>Who held one of these plans and holds none of them now.</summary>
    public sealed record FormerHolders(IReadOnlyList<PlanId> Plans) : BuyerRule;
    /// <summary>Who never bought anything.</summary>
    public sealed record Newcomers : BuyerRule;
    /// <summary>Who stands in a list of members, at the moment they buy.</summary>
    public sealed record Listed(MemberFilter Filter) : BuyerRule;
}
