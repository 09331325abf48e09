using NodaTime;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Offer;

/// <summary>A line of a promise, or a line that it brings along.</summary>
/// <param name="Line">Which line of the promise it is, or comes from, from 0.</param>
/// <param name="IsBonus">It stands in another plan's promise.</param>
public readonly record struct Unfolded(Inclusion Inclusion, short Line, bool IsBonus);

/// <summary>
/// What comes along with a plan: everything another plan opens. It isn't held beside it but follows from the promise, so that those who hold the plan
/// already have it too, and it closes with what gave it.
/// </summary>
public static class Bonus
{
    /// <summary>
    /// The lines of a promise with those it brings along in their places: of the other plan's present promise, each as far back as it says, at once. What
    /// is kept
    /// after leaving, when it ends and what else is asked for says the line that brings them. A bonus brings no bonuses of its own.
    /// </summary>
    public static IEnumerable<Unfolded> Unfold(IReadOnlyList<Inclusion> promise, Func<PlanId, Plan?> planOf)
    {
        for (short line = 0; line < promise.Count; line++)
        {
            var i = promise[line];
            if (i.Covers is not Coverage.WhatAPlanOpens other) yield return new(i, line, false);
            else if (planOf(other.Plan) is { } plan)
                foreach (var inner in plan.Promise)
                    if (inner.Covers is not Coverage.WhatAPlanOpens)
                        yield return new(inner with
                        {
                            Keep = i.Keep,
                            Pace = null,
                            Ends = Sooner(i.Ends, inner.Ends),
                            Needs = [.. i.Needs ?? [],
                            .. inner.Needs ?? []]
                        },
                            line, true);
        }
    }

    /// <summary>Whether a plan comes along with another, by its present promise or by one that somebody may still live by.</summary>
    public static bool Comes(Plan with, PlanId plan) => with.Promise.Concat(with.Earlier.SelectMany(v => v.Promise))
        .Any(i => i.Covers is Coverage.WhatAPlanOpens c && c.Plan == plan);

    static Period? Sooner(Period? a, Period? b) => a is not { } x ? b : b is not { } y ? x : x.AddTo(Some, 1) <= y.AddTo(Some, 1) ? x : y;

    /// <summary>A day to measure lengths by.</summary>
    static readonly LocalDate Some = new(2026, 1, 1);
}
