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
    /// <param name="Pauses">Times since then in which the plan wasn't held.</param>
    internal sealed record Held(PlanId Plan, Instant Start, Span[] Paid, Instant Until, Instant LastPaid, bool KeepsNothing, Holding? Holding,
        int Promise, PriceId? Price, bool AllAtOnce, Instant PaceFrom, (Instant From, Instant To)[] Pauses);

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
    public bool HoldsAnything => held.Any(h => h.Until > AsOf);
    public Holding At(int position) => held[position].Holding!;

    /// <param name="asOf">Facts that became known later are left out.</param>
    public static MemberFacts From(IEnumerable<Holding> holdings, Instant asOf, IReadOnlySet<PieceId>? places = null,
        IReadOnlyDictionary<LessonId, Instant>? completed = null, IReadOnlySet<CohortId>? cohorts = null)
    {
        var begun = new List<(Holding Holding, Timeline Timeline)>();
        foreach (var h in holdings)
        {
            var t = h.TimelineAsOf(asOf);
            if (t.At(asOf) != HoldingState.NotYet) begun.Add((h, t));
        }
        var held = new Held[begun.Count];
        for (var i = 0; i < held.Length; i++)
        {
            var (h, t) = begun[i];
            var (from, pauses) = PaceOf(begun, h.PlanId, h.StartsAt, t);
            held[i] = One(h, t, asOf) with { PaceFrom = from, Pauses = pauses };
        }
        return new(held, asOf, false, places ?? NoPlaces, completed ?? NothingDone, cohorts ?? NoCohorts);
    }

    static Held One(Holding h, Timeline t, Instant asOf)
    {
        var until = OverFrom(t);
        var paid = new Span[t.Paid.Count];
        for (var i = 0; i < paid.Length; i++) paid[i] = new(t.Paid[i].From, t.Paid[i].To ?? Instant.MaxValue);
        // What goes on is taken to be paid on until a fact says otherwise: nobody is locked out by a slow worker, and what comes after the next payment is
        // theirs to expect.
        if (t.At(asOf) is HoldingState.Active or HoldingState.Trial && paid.Length > 0 && until == Instant.MaxValue)
            paid[^1] = paid[^1] with { To = Instant.MaxValue };
        if (until < Instant.MaxValue)
            paid = [.. paid.Where(p => p.From < until).Select(p => p.To > until ? p with { To = until } : p)];
        var keepsNothing = t.Ended?.Reason is EndReason.Refunded or EndReason.ChargedBack or EndReason.EndedByTeam;
        return new(h.PlanId, h.StartsAt, paid, until, paid.Length == 0 ? h.StartsAt : paid[^1].To, keepsNothing, h,
            t.Promise ?? h.PromiseNumber, h.PriceId, h.AllAtOnce, h.StartsAt, []);
    }

    /// <summary>Leaving and coming back to the same plan is a pause to a pace: it goes on from where they were.</summary>
    static (Instant From, (Instant, Instant)[] Pauses) PaceOf(List<(Holding Holding, Timeline Timeline)> begun, PlanId plan, Instant start, Timeline own)
    {
        var from = start;
        var several = false;
        foreach (var (h, _) in begun)
        {
            if (h.PlanId != plan || h.StartsAt >= start) continue;
            several = true;
            from = Instant.Min(from, h.StartsAt);
        }
        // Most hold a plan once and without interruption.
        if (!several && own.Stretches.All(s => s.State is not HoldingState.Over || s.To == Instant.MaxValue)) return (from, []);
        var running = begun.Where(b => b.Holding.PlanId == plan).SelectMany(b => b.Timeline.Stretches)
            .Where(s => s.State is not (HoldingState.Over or HoldingState.NotYet)).OrderBy(s => s.From);
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

    static Instant OverFrom(Timeline t) => t.Stretches[^1] is { State: HoldingState.Over } last ? last.From : Instant.MaxValue;

    /// <summary>Somebody who joins a plan at a moment, by a price, and stays.</summary>
    /// <param name="promise">The version of the promise; the present one where null.</param>
    public static MemberFacts Imagined(Plan plan, Instant at, PriceId? price = null, int? promise = null, bool allAtOnce = false) =>
        new([Joining(plan.Id, at) with { Price = price, Promise = promise ?? plan.PromiseNumber, AllAtOnce = allAtOnce }], at, false, NoPlaces,
            NothingDone, NoCohorts);

    /// <summary>The same person, with a place wherever one is needed.</summary>
    internal static Held Joining(PlanId plan, Instant at) =>
        new(plan, at, [new(at, Instant.MaxValue)], Instant.MaxValue, Instant.MaxValue, false, null, int.MaxValue, null, false, at, []);
}
