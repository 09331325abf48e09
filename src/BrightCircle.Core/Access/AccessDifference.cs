using System.Runtime.InteropServices;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Access;

/// <summary>What a change does to one person, counted in pieces, lessons and tallies.</summary>
/// <param name="Opens">Closed before, open after.</param>
/// <param name="Closes">Open before, closed after.</param>
/// <param name="Sooner">Closed before and after, and opens sooner, or at all.</param>
/// <param name="Later">Closed before and after, and opens later, or never.</param>
/// <param name="Furthest">The longest of the moves between two known moments.</param>
public readonly record struct AccessEffect(int Opens, int Closes, int Sooner, int Later, Duration Furthest)
{
    public bool IsNone => Opens + Closes + Sooner + Later == 0;
    public int Moves => Sooner + Later;
}

/// <summary>One thing about which two settings decide differently.</summary>
public readonly record struct AccessChange(Thing Thing, AccessDecision Before, AccessDecision After);

/// <summary>
/// The difference of two settings at a moment: two books, for people who live by the same facts but for plans whose holders are moved to another
/// version of the promise. People whose facts differ in nothing that a decision rests on are decided once.
/// </summary>
/// <param name="moved">The plans whose holders are moved to the present version of the book after.</param>
public sealed class AccessDifference(AccessBook before, AccessBook after, Instant moment, IReadOnlySet<PlanId>? moved = null)
{
    readonly IReadOnlySet<PlanId> moved = moved ?? new HashSet<PlanId>();
    readonly Thing[] things = [.. before.Things.Where(after.Knows).Where(t => t.Kind is ThingKind.Piece or ThingKind.Lesson)
        .Concat(before.Tallies.Where(after.Knows))];
    readonly FactsKey keys = new(before, after);
    readonly Dictionary<string, AccessEffect> known = [];

    public int Things => things.Length;
    /// <summary>How many different sets of facts were decided.</summary>
    public int Decided => known.Count;

    public AccessEffect Of(MemberFacts facts)
    {
        ref var effect = ref CollectionsMarshal.GetValueRefOrAddDefault(known, keys.Of(facts), out var exists);
        if (!exists) effect = Count(facts);
        return effect;
    }

    AccessEffect Count(MemberFacts facts)
    {
        var then = facts.MovedTo(after, moved);
        var (opens, closes, sooner, later, furthest) = (0, 0, 0, 0, Duration.Zero);
        foreach (var thing in things)
        {
            var (was, becomes) = (before.Decide(facts, thing, moment), after.Decide(then, thing, moment));
            if (was.IsOpen && becomes.IsOpen) continue;
            if (becomes.IsOpen) opens++;
            else if (was.IsOpen) closes++;
            else
            {
                var (t0, t1) = (Turn(was), Turn(becomes));
                if (t1 < t0) sooner++;
                else if (t1 > t0) later++;
                if (t0 != t1 && t0 < Instant.MaxValue && t1 < Instant.MaxValue)
                    furthest = Duration.Max(furthest, t1 > t0 ? t1 - t0 : t0 - t1);
            }
        }
        return new(opens, closes, sooner, later, furthest);
    }

    static Instant Turn(AccessDecision d) => d.State == AccessState.OpensAt ? d.OpensAt : Instant.MaxValue;

    /// <summary>Thing by thing, for one person.</summary>
    public IEnumerable<AccessChange> ChangesFor(MemberFacts facts)
    {
        var then = facts.MovedTo(after, moved);
        foreach (var thing in things)
        {
            var (was, becomes) = (before.Decide(facts, thing, moment), after.Decide(then, thing, moment));
            if (was.IsOpen != becomes.IsOpen || !was.IsOpen && Turn(was) != Turn(becomes)) yield return new(thing, was, becomes);
        }
    }
}

/// <summary>Names what of somebody's facts two books can tell apart: who has the same name, is decided alike at one moment.</summary>
sealed class FactsKey(AccessBook before, AccessBook after)
{
    readonly Instant[] edges = [.. before.Edges.Concat(after.Edges).Distinct().Order()];
    readonly HashSet<PlanId> exact = [.. before.ExactPlans.Concat(after.ExactPlans)];
    readonly HashSet<PlanId> paced = [.. before.Paced.Concat(after.Paced)];
    readonly bool knowsDone = before.AsksForDone || after.AsksForDone;
    readonly System.Text.StringBuilder text = new();

    public string Of(MemberFacts facts)
    {
        text.Clear();
        if (facts.IsTeam) return "team";
        foreach (var h in facts.held)
        {
            text.Append(h.Plan.Value).Append('v').Append(h.Promise).Append('p').Append(h.Price?.Value ?? 0).Append(h.AllAtOnce ? 'a' : '-')
                .Append(h.KeepsNothing ? 'n' : '-');
            var (isExact, isPaced) = (exact.Contains(h.Plan), paced.Contains(h.Plan));
            Put(h.Start, isExact);
            if (isPaced) text.Append('@').Append(isExact ? h.PaceFrom.ToUnixTimeTicks() : before.DayOf(h.PaceFrom));
            if (h.Begins > Instant.MinValue) text.Append('b').Append(h.Begins.ToUnixTimeTicks());
            Put(h.Until, isPaced || isExact);
            Put(h.LastPaid, isPaced || isExact);
            foreach (var p in h.Paid)
            {
                Put(p.From, false);
                Put(p.To, false);
            }
            if (isPaced) foreach (var (from, to) in h.Pauses) text.Append('|').Append(from.ToUnixTimeTicks()).Append('-').Append(to.ToUnixTimeTicks());
            text.Append(';');
        }
        Put('P', facts.Places.Select(p => p.Value));
        Put('C', facts.Cohorts.Select(c => c.Value));
        if (knowsDone) foreach (var (lesson, at) in facts.Completed.OrderBy(c => c.Key.Value))
            text.Append('D').Append(lesson.Value).Append('=').Append(at.ToUnixTimeTicks());
        return text.ToString();
    }

    void Put(char kind, IEnumerable<long> ids)
    {
        foreach (var id in ids.Order()) text.Append(kind).Append(id);
    }

    /// <summary>A moment, or between which two of the moments that matter it lies.</summary>
    void Put(Instant at, bool isExact)
    {
        if (isExact)
        {
            text.Append('=').Append(at == Instant.MaxValue ? long.MaxValue : at.ToUnixTimeTicks());
            return;
        }
        var i = Array.BinarySearch(edges, at);
        text.Append('.').Append(i >= 0 ? 2 * i : 2 * ~i - 1);
    }
}
