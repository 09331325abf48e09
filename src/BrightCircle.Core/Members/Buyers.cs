using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>Who is who, to a price that isn't for anybody.</summary>
public static class Buyers
{
    /// <summary>Whether somebody may buy, by what they hold and held. Of somebody who isn't signed in nothing is known: only newcomers' prices are
    /// theirs.</summary>
    public static bool Allows(this BuyerRule rule, IReadOnlyList<Holding> holdings, Instant moment) => rule switch
    {
        BuyerRule.Holders h => holdings.Any(x => h.Plans.Contains(x.PlanId) && x.IsHeldAt(moment)),
        BuyerRule.FormerHolders f => holdings.Any(x => f.Plans.Contains(x.PlanId) && x.StateAt(moment) == HoldingState.Over)
            && !holdings.Any(x => f.Plans.Contains(x.PlanId) && x.IsHeldAt(moment)),
        BuyerRule.Newcomers => !holdings.Any(x => x.IsPaidFor),
        _ => throw new InvalidOperationException($"No such rule: {rule}"),
    };
}
