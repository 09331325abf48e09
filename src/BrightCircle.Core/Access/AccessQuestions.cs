using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Access;

/// <summary>Something that will open by itself to somebody.</summary>
public readonly record struct ToOpen(Thing Thing, AccessDecision Decision)
{
    public Instant At => Decision.OpensAt;
}

public sealed partial class AccessBook
{
    public IEnumerable<Thing> Tallies => tallies.Select(t => (Thing)new TallyId(t));

    /// <summary>All lessons that will open by themselves to somebody as things stand, the soonest first; pieces without lessons too, and neither spaces
    /// nor live sessions.</summary>
    public IReadOnlyList<ToOpen> OpeningsOf(MemberFacts facts, Instant moment)
    {
        var found = new List<ToOpen>();
        // Without a pace only what isn't out yet can open later.
        var isPaced = facts.held.Any(h => Paced.Contains(h.Plan));
        foreach (var (thing, at) in positions)
        {
            if (!isPaced && entries[at].From <= moment) continue;
            if (thing.Kind is ThingKind.Module or ThingKind.Space or ThingKind.SpaceWriting or ThingKind.Live || thing.Kind == ThingKind.Piece &&
                lessonsOf[new(thing.Id)].Count > 0) continue;
            if (Decide(facts, entries[at], moment) is { State: AccessState.OpensAt } d) found.Add(new(thing, d));
        }
        found.Sort((a, b) => a.At != b.At ? a.At.CompareTo(b.At) : positions[a.Thing].CompareTo(positions[b.Thing]));
        return found;
    }

    /// <summary>Of many people those who can open a thing at a moment.</summary>
    public IEnumerable<T> WhoCanOpen<T>(IEnumerable<T> people, Func<T, MemberFacts> factsOf, Thing thing, Instant moment) =>
        people.Where(p => Decide(factsOf(p), thing, moment).IsOpen);

    /// <summary>Moments at which something comes out, closes, or stops being current.</summary>
    internal IEnumerable<Instant> Edges => entries.SelectMany(e => new[] { e.At, e.From, e.CurrentFrom, e.CurrentUntil, e.ClosesAt }
        .Concat(e.Openings ?? [])).Distinct();

    IEnumerable<(PlanId Plan, Promised Promise)> AllPromises =>
        promised.Select(p => (p.Key, p.Value)).Concat(earlier.Select(p => (p.Key.Plan, p.Value)));

    IEnumerable<Pace> PacesOf(PlanId plan, Promised promise) => promise.Rules.Select(r => r.Pace).OfType<Pace>().Concat(promise.PaceOf.Values)
        .Concat(entries.SelectMany(e => e.Timelines ?? []).Distinct().Where(t => t.Plan is null || t.Plan == plan).Select(t => t.Pace));

    /// <summary>Plans in whose promise some pace counts from somebody's own start.</summary>
    internal IReadOnlySet<PlanId> Paced => paced ??= AllPromises.Where(p => PacesOf(p.Plan, p.Promise).Any(x => !x.IsNone)).Select(p => p.Plan).ToHashSet();
    HashSet<PlanId>? paced;

    /// <summary>Plans for which the very moment of the start matters: a length from joining, closing some days after, a pace without a time of day.</summary>
    internal IEnumerable<PlanId> ExactPlans => AllPromises.Where(p => p.Promise.Rules.Any(r => r.Ends is not null || r.KeepFor is not null)
        || entries.Any(e => e.Days is not null) || PacesOf(p.Plan, p.Promise).Any(x => x is Pace.Steps { At: null } or Pace.AtOnce { AfterPrevious: true }))
            .Select(p => p.Plan);

    /// <summary>Whether any pace or promise asks what somebody has done.</summary>
    public bool AsksForDone => AllPromises.Any(p => PacesOf(p.Plan, p.Promise).Any(x => x.AfterPrevious)
        || p.Promise.Rules.Any(r => r.Needs.Any(n => n is not Need.HoldingPlan)));

    internal int DayOf(Instant moment) => NodaTime.Period.DaysBetween(new(1970, 1, 1), calendar.Date(moment));
}
