using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Access;

/// <summary>What one member holds, where they have a place and what they completed, as known at a moment, made ready for many decisions.</summary>
public sealed class MemberFacts
{
    internal readonly record struct Span(Instant From, Instant To);

    /// <param name="Paid">Paid, trial and given stretches, by their start.</param>
    /// <param name="Until">The first moment at which it isn't held any more, as things stand.</param>
    /// <param name="LastPaid">The end of its last paid moment: what had opened until then may be kept.</param>
    /// <param name="PaceFrom">Where a pace counts from: the start of the first holding of the plan.</param>
    /// <param name="Pauses">Times since then in which the plan wasn't held, or was paused.</param>
    /// <param name="Begins">Where it is known and hasn't begun: when it will; else the beginning of time.</param>
    internal sealed record Held(PlanId Plan, Instant Start, Span[] Paid, Instant Until, Instant LastPaid, bool KeepsNothing, Holding? Holding,
        int Promise, PriceId? Price, bool AllAtOnce, Instant PaceFrom, (Instant From, Instant To)[] Pauses)
    {
        public Instant Begins { get; init; } = Instant.MinValue;
    }

    static readonly HashSet<PieceId> NoPlaces = [];
    static readonly Dictionary<LessonId, Instant> NothingDone = [];
    static readonly HashSet<CohortId> NoCohorts = [];

    public static MemberFacts Nobody { get; } = new([], Instant.MinValue, false, NoPlaces, NothingDone, NoCohorts);
    /// <summary>The team sees everything.</summary>
    public static MemberFacts Team { get; } = new([], Instant.MinValue, true, NoPlaces, NothingDone, NoCohorts);

    internal MemberFacts(Held[] held, Instant asOf, bool isTeam, IReadOnlySet<PieceId> places,
        IReadOnlyDictionary<LessonId, Instant> completed, IReadOnlySet<CohortId> cohorts) =>
        (this.held, AsOf, IsTeam, Places, Completed, Cohorts) = (held, asOf, isTeam, places, completed, cohorts);

    internal readonly Held[] held;
    public Instant AsOf { get; }
    public bool IsTeam { get; }
    /// <summary>The pieces with only so many places in which they have one.</summary>
    public IReadOnlySet<PieceId> Places { get; }
    /// <summary>The lessons they have done, and when.</summary>
    public IReadOnlyDictionary<LessonId, Instant> Completed { get; }
    /// <summary>The cohorts they were put into; who is in none of a piece starts with the next after joining, or else with the last.</summary>
    public IReadOnlySet<CohortId> Cohorts { get; }
    public bool HoldsAnything => held.Any(h => h.Until > AsOf && h.Begins <= AsOf);
    public Holding At(int position) => held[position].Holding!;

    /// <param name="asOf">Facts that became known later are left out.</param>
    public static MemberFacts From(IEnumerable<Holding> holdings, Instant asOf, IReadOnlySet<PieceId>? places = null,
        IReadOnlyDictionary<LessonId, Instant>? completed = null, IReadOnlySet<CohortId>? cohorts = null)
    {
        var known = new List<(Holding Holding, Timeline Timeline)>();
        foreach (var h in holdings)
        {
            var t = h.TimelineAsOf(asOf);
            // What is planned or given for later is known, too; what was bought later isn't.
            if (t.At(asOf) != HoldingState.NotYet || h.Facts.Exists(f => f.At <= asOf)) known.Add((h, t));
        }
        var held = new List<Held>(known.Count);
        foreach (var (h, t) in known)
        {
            // Where another has taken its place, that one says all of it.
            if (h.Timeline.Ended?.Reason == EndReason.Replaced && known.Exists(k => k.Holding.Continues == h.Id && k.Timeline.At(asOf) != HoldingState.NotYet))
                continue;
            var start = h.StartsAt;
            List<Span> before = [];
            for (var by = h.Continues; by is { } id && known.Find(k => k.Holding.Id == id) is { Holding: { } earlier } found; by = earlier.Continues)
            {
                before.InsertRange(0, PaidTime(found.Timeline, OverFrom(found.Timeline, asOf)));
                start = earlier.StartsAt;
            }
            var (from, pauses) = PaceOf(known, h.PlanId, start, t);
            held.Add(One(h, t, asOf, start, before) with { PaceFrom = from, Pauses = pauses });
        }
        return new([.. held], asOf, false, places ?? NoPlaces, completed ?? NothingDone, cohorts ?? NoCohorts);
    }

    /// <param name="start">Its own, or that of the first of those whose place it took.</param>
    /// <param name="before">What was paid of those.</param>
    static Held One(Holding h, Timeline t, Instant asOf, Instant start, List<Span> before)
    {
        var state = t.At(asOf);
        var until = OverFrom(t, asOf);
        List<Span> paid = [.. before, .. PaidTime(t, until)];
        // What goes on is taken to be paid on until a fact says otherwise: nobody is locked out by a slow worker, and what comes after the next payment is
        // theirs to expect.
        if (until == Instant.MaxValue && state is HoldingState.Active or HoldingState.Trial or HoldingState.NotYet)
            if (paid.Count > 0) paid[^1] = paid[^1] with { To = Instant.MaxValue };
            else if (state is HoldingState.Active or HoldingState.NotYet) paid.Add(new(h.StartsAt, Instant.MaxValue));
        var keepsNothing = state == HoldingState.Closed || t.Ended?.Reason is EndReason.Refunded or EndReason.ChargedBack or EndReason.EndedByTeam;
        return new(h.PlanId, start, [.. paid], until, paid.Count == 0 ? h.StartsAt : paid[^1].To, keepsNothing, h,
            t.Promise ?? h.PromiseNumber, h.PriceId, h.AllAtOnce, start, [])
        {
            Begins = state == HoldingState.NotYet ? h.StartsAt : Instant.MinValue,
        };
    }

    static IEnumerable<Span> PaidTime(Timeline t, Instant until)
    {
        foreach (var (from, to) in t.PaidTime)
            if (from < until) yield return new(from, to is { } end && end < until ? end : to is null ? until : Instant.Min(to.Value, until));
    }

    /// <summary>Leaving and coming back to the same plan is a pause to a pace: it goes on from where they were.</summary>
    static (Instant From, (Instant, Instant)[] Pauses) PaceOf(List<(Holding Holding, Timeline Timeline)> known, PlanId plan, Instant start, Timeline own)
    {
        var from = start;
        var several = false;
        foreach (var (h, _) in known)
        {
            if (h.PlanId != plan || h.StartsAt >= start) continue;
            several = true;
            from = Instant.Min(from, h.StartsAt);
        }
        // Most hold a plan once and without interruption.
        if (!several && own.Stretches.All(s => s.State is not (HoldingState.Over or HoldingState.Paused or HoldingState.Closed) || s.To == Instant.MaxValue))
            return (from, []);
        var running = known.Where(b => b.Holding.PlanId == plan).SelectMany(b => b.Timeline.Stretches)
            .Where(s => s.State is not (HoldingState.Over or HoldingState.NotYet or HoldingState.Paused or HoldingState.Closed)).OrderBy(s => s.From);
        var pauses = new List<(Instant, Instant)>();
        var end = from;
        foreach (var s in running)
        {
            if (s.From > end) pauses.Add((end, s.From));
            end = Instant.Max(end, s.To);
        }
        return (from, [.. pauses]);
    }

    /// <summary>The same facts, if what is held of some plans lived by their present promise.</summary>
    public MemberFacts MovedTo(AccessBook book, IReadOnlySet<PlanId> moved) => moved.Count == 0 || !held.Any(h => moved.Contains(h.Plan)) ? this
        : new([.. held.Select(h => moved.Contains(h.Plan) ? h with { Promise = book.Plan(h.Plan).PromiseNumber } : h)], AsOf, IsTeam, Places, Completed,
            Cohorts);

    /// <summary>From when it isn't held as things stand: over, or paused or closed just now.</summary>
    static Instant OverFrom(Timeline t, Instant asOf) => t.StretchAt(asOf) is { State: HoldingState.Paused or HoldingState.Closed } shut ? shut.From
        : t.Stretches[^1] is { State: HoldingState.Over } last ? last.From : Instant.MaxValue;

    /// <summary>Somebody who joins a plan at a moment, by a price, and stays.</summary>
    /// <param name="promise">The version of the promise; the present one where null.</param>
    public static MemberFacts Imagined(Plan plan, Instant at, PriceId? price = null, int? promise = null, bool allAtOnce = false) =>
        new([Joining(plan.Id, at) with { Price = price, Promise = promise ?? plan.PromiseNumber, AllAtOnce = allAtOnce }], at, false, NoPlaces,
            NothingDone, NoCohorts);

    /// <summary>The same person, with a place wherever one is needed.</summary>
    internal static Held Joining(PlanId plan, Instant at) =>
        new(plan, at, [new(at, Instant.MaxValue)], Instant.MaxValue, Instant.MaxValue, false, null, int.MaxValue, null, false, at, []);
}
