using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Members;

/// <param name="Standing">The state.</param>
/// <param name="Plan">The tier it rests on, or the last one held; null for a guest.</param>
public readonly record struct StandingOn(Standing Standing, PlanId? Plan);

/// <summary>Standing from holdings. Tiers make it; passes stand beside it.</summary>
public static class Standings
{
    /// <summary>
    /// The standing at a moment, past or future, from what was known then. In this order: a bought tier in grace (a failing payment is never hidden
    /// by another holding); the highest-ranked open bought tier; then of a gift; then of a free one; without any, lapsed if a tier was ever held, else guest.
    /// Among equals the most generous state counts: active, trial, ending.
    /// </summary>
    public static StandingOn At(IReadOnlyList<Holding> holdings, Func<PlanId, Plan> planOf, Instant moment)
    {
        Holding? best = null, last = null;
        var (bestState, bestWeight, bestRank) = (HoldingState.Over, -1, 0);
        foreach (var h in holdings)
        {
            var plan = planOf(h.PlanId);
            if (!plan.IsTier) continue;
            var state = h.StateAt(moment);
            if (state == HoldingState.NotYet) continue;
            // An instalment that isn't paid closes a tier like its end.
            if (state is HoldingState.Over or HoldingState.Closed)
            {
                if (last is null || h.StartsAt > last.StartsAt) last = h;
                continue;
            }
            var weight = Weight(h, state);
            if (weight > bestWeight || weight == bestWeight && (plan.Rank > bestRank || plan.Rank == bestRank && Generosity(state) > Generosity(bestState)))
                (best, bestState, bestWeight, bestRank) = (h, state, weight, plan.Rank);
        }
        if (best is not null) return new(Of(bestState), best.PlanId);
        return last is null ? new(Standing.Guest, null) : new(Standing.Lapsed, last.PlanId);
    }

    static int Weight(Holding h, HoldingState state) =>
        !h.IsPaidFor ? h.IsGiven ? 1 : 0 : state == HoldingState.Grace ? 3 : 2;

    static int Generosity(HoldingState state) => state switch
    {
        HoldingState.Active => 3,
        HoldingState.Trial => 2,
        HoldingState.Ending => 1,
        HoldingState.Grace or HoldingState.Paused or HoldingState.Over or HoldingState.NotYet or HoldingState.Closed => 0,
    };

    static Standing Of(HoldingState state) => state switch
    {
        HoldingState.Active => Standing.Active,
        HoldingState.Trial => Standing.Trial,
        HoldingState.Ending => Standing.Ending,
        HoldingState.Grace => Standing.Grace,
        HoldingState.Paused => Standing.Paused,
        HoldingState.Over or HoldingState.NotYet or HoldingState.Closed =>
            throw new ArgumentOutOfRangeException(nameof(state), state, "No standing rests on it."),
    };

    /// <summary>Something is open to them as members: the people a letter to "current members" goes to.</summary>
    public static bool IsCurrent(this Standing standing) => standing switch
    {
        Standing.Trial or Standing.Active or Standing.Grace or Standing.Ending => true,
        Standing.Guest or Standing.Lapsed or Standing.Paused => false,
    };

    /// <summary>Is a member, also while nothing is charged: whoever goes from this to anything else has left.</summary>
    public static bool IsMember(this Standing standing) => standing is Standing.Paused || standing.IsCurrent();

    /// <summary>Is a member, and nothing says that they go: those of whom signs are looked for that they might.</summary>
    public static bool IsSettled(this Standing standing) => standing switch
    {
        Standing.Trial or Standing.Active => true,
        Standing.Guest or Standing.Grace or Standing.Ending or Standing.Lapsed or Standing.Paused => false,
    };

    public static string Word(this Standing standing) => standing switch
    {
        Standing.Guest => "guest",
        Standing.Trial => "trial",
        Standing.Active => "active",
        Standing.Grace => "grace",
        Standing.Ending => "ending",
        Standing.Lapsed => "lapsed",
        Standing.Paused => "paused",
    };
}

/// <summary>A stretch of the life line.</summary>
public readonly record struct LifeStretch(Instant From, Instant To, StandingOn State);

/// <summary>A member's standing over time: stretches that follow each other without gap or overlap, from the first day on.</summary>
public sealed record LifeLine(IReadOnlyList<LifeStretch> Stretches)
{
    /// <param name="from">The first day, UTC; usually when the account was made.</param>
    /// <param name="until">The end of the picture, after <paramref name="from"/>.</param>
    public static LifeLine Of(IReadOnlyList<Holding> holdings, Func<PlanId, Plan> planOf, Instant from, Instant until)
    {
        if (until <= from) return new([]);
        var moments = new SortedSet<Instant> { from };
        foreach (var h in holdings)
            foreach (var change in h.Timeline.Changes) moments.Add(change);
        var stretches = new List<LifeStretch>();
        foreach (var moment in moments)
        {
            if (moment < from || moment >= until) continue;
            var state = Standings.At(holdings, planOf, moment);
            if (stretches.Count > 0 && stretches[^1].State == state) continue;
            if (stretches.Count > 0) stretches[^1] = stretches[^1] with { To = moment };
            stretches.Add(new(moment, until, state));
        }
        return new(stretches);
    }
}
