using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>A member's computed state. It is derived from facts, never typed in.</summary>
public enum Standing
{
    /// <summary>An account, nothing ever held.</summary>
    Guest,
    Trial,
    Active,
    /// <summary>A payment failed, access is still open.</summary>
    Grace,
    /// <summary>Left; the paid time still runs.</summary>
    Ending,
    /// <summary>Held something once; nothing now.</summary>
    Lapsed,
}

/// <param name="Standing">The state.</param>
/// <param name="Plan">The plan it rests on: the highest held one, or the last one held; null for a guest.</param>
public readonly record struct StandingOn(Standing Standing, PlanId? Plan);

/// <summary>Standing from holdings.</summary>
public static class Standings
{
    /// <summary>
    /// The standing at a moment, past or future, from what was known then: it rests on the current holding of the highest-ranked plan;
    /// among equals the most generous state counts (active, trial, ending, grace). Without a current holding it is lapsed, or guest if nothing was ever held.
    /// </summary>
    public static StandingOn At(IReadOnlyList<Holding> holdings, Func<PlanId, int> rankOf, Instant moment)
    {
        Holding? best = null, last = null;
        var bestState = HoldingState.Over;
        foreach (var h in holdings)
        {
            var state = h.StateAt(moment);
            if (state == HoldingState.NotYet) continue;
            if (state == HoldingState.Over)
            {
                if (last is null || h.StartsAt > last.StartsAt) last = h;
                continue;
            }
            if (best is null || rankOf(h.PlanId) > rankOf(best.PlanId)
                || rankOf(h.PlanId) == rankOf(best.PlanId) && Generosity(state) > Generosity(bestState))
                (best, bestState) = (h, state);
        }
        if (best is not null) return new(Of(bestState), best.PlanId);
        return last is null ? new(Standing.Guest, null) : new(Standing.Lapsed, last.PlanId);
    }

    static int Generosity(HoldingState state) => state switch
    {
        HoldingState.Active => 4,
        HoldingState.Trial => 3,
        HoldingState.Ending => 2,
        HoldingState.Grace => 1,
        _ => 0,
    };

    static Standing Of(HoldingState state) => state switch
    {
        HoldingState.Active => Standing.Active,
        HoldingState.Trial => Standing.Trial,
        HoldingState.Ending => Standing.Ending,
        HoldingState.Grace => Standing.Grace,
        _ => throw new ArgumentOutOfRangeException(nameof(state), state, "No standing rests on it."),
    };

    /// <summary>Something is open to them as members: the people a letter to "current members" goes to.</summary>
    public static bool IsCurrent(this Standing standing) => standing is Standing.Trial or Standing.Active or Standing.Grace or Standing.Ending;

    public static string Word(this Standing standing) => standing switch
    {
        Standing.Guest => "guest",
        Standing.Trial => "trial",
        Standing.Active => "active",
        Standing.Grace => "grace",
        Standing.Ending => "ending",
        Standing.Lapsed => "lapsed",
        _ => throw new ArgumentOutOfRangeException(nameof(standing)),
    };
}

/// <summary>A stretch of the life line.</summary>
public readonly record struct LifeStretch(Instant From, Instant To, StandingOn State);

/// <summary>A member's standing over time: stretches that follow each other without gap or overlap, from the first day on.</summary>
public sealed record LifeLine(IReadOnlyList<LifeStretch> Stretches)
{
    /// <param name="from">The first day, UTC; usually when the account was made.</param>
    /// <param name="until">The end of the picture, after <paramref name="from"/>.</param>
    public static LifeLine Of(IReadOnlyList<Holding> holdings, Func<PlanId, int> rankOf, Instant from, Instant until)
    {
        if (until <= from) return new([]);
        var moments = new SortedSet<Instant> { from };
        foreach (var h in holdings)
        {
            moments.Add(h.StartsAt);
            foreach (var f in h.Facts)
            {
                moments.Add(f.At);
                moments.Add(f.From);
                if (f.To is { } to) moments.Add(to);
            }
        }
        var stretches = new List<LifeStretch>();
        foreach (var moment in moments.Where(m => m >= from && m < until))
        {
            var state = Standings.At(holdings, rankOf, moment);
            if (stretches.Count > 0 && stretches[^1].State == state) continue;
            if (stretches.Count > 0) stretches[^1] = stretches[^1] with { To = moment };
            stretches.Add(new(moment, until, state));
        }
        return new(stretches);
    }
}
