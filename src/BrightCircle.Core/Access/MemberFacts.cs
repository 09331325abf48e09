using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using NodaTime;

namespace BrightCircle.Core.Access;

/// <summary>What one member holds, where they have a place and what they completed, as known at a moment, made ready for many decisions.</summary>
public sealed class MemberFacts
{
    internal readonly record struct Span(Instant From, Instant To);

    /// <param name="Paid">Paid, trial and given stretches, by their start.</param>
    /// <param name="Until">The first moment at which it isn't held any more, as things stand.</param>
    /// <param name="LastPaid">The end of its last paid moment: what had opened until then may be kept.</param>
    internal sealed record Held(PlanId Plan, Instant Start, Span[] Paid, Instant Until, Instant LastPaid, bool KeepsNothing, Holding? Holding = null);

    static readonly HashSet<PieceId> NoPlaces = [];
    static readonly HashSet<LessonId> NothingDone = [];

    public static MemberFacts Nobody { get; } = new([], Instant.MinValue, false, NoPlaces, NothingDone);
    /// <summary>The team sees everything.</summary>
    public static MemberFacts Team { get; } = new([], Instant.MinValue, true, NoPlaces, NothingDone);

    internal MemberFacts(Held[] held, Instant asOf, bool isTeam, IReadOnlySet<PieceId> places, IReadOnlySet<LessonId> completed) =>
        (this.held, AsOf, IsTeam, Places, Completed) = (held, asOf, isTeam, places, completed);

    internal readonly Held[] held;
    public Instant AsOf { get; }
    public bool IsTeam { get; }
    /// <summary>The pieces with only so many places in which they have one.</summary>
    public IReadOnlySet<PieceId> Places { get; }
    /// <summary>The lessons they have done.</summary>
    public IReadOnlySet<LessonId> Completed { get; }
    public bool HoldsAnything => held.Any(h => h.Until > AsOf);
    public Holding At(int position) => held[position].Holding!;

    /// <param name="asOf">Facts that became known later are left out.</param>
    public static MemberFacts From(IEnumerable<Holding> holdings, Instant asOf, IReadOnlySet<PieceId>? places = null, IReadOnlySet<LessonId>? completed = null)
    {
        var list = new List<Held>();
        foreach (var h in holdings)
        {
            var t = h.TimelineAsOf(asOf);
            var state = t.At(asOf);
            if (state == HoldingState.NotYet) continue;
            var until = OverFrom(t);
            var paid = new Span[t.Paid.Count];
            for (var i = 0; i < paid.Length; i++) paid[i] = new(t.Paid[i].From, t.Paid[i].To ?? Instant.MaxValue);
            // What goes on is taken to be paid on until a fact says otherwise: nobody is locked out by a slow worker, and what comes after the next payment is
            // theirs to expect.
            if (state is HoldingState.Active or HoldingState.Trial && paid.Length > 0 && until == Instant.MaxValue)
                paid[^1] = paid[^1] with { To = Instant.MaxValue };
            if (until < Instant.MaxValue)
                paid = [.. paid.Where(p => p.From < until).Select(p => p.To > until ? p with { To = until } : p)];
            var keepsNothing = t.Ended?.Reason is EndReason.Refunded or EndReason.ChargedBack or EndReason.EndedByTeam;
            list.Add(new(h.PlanId, h.StartsAt, paid, until, paid.Length == 0 ? h.StartsAt : paid[^1].To, keepsNothing, h));
        }
        return new([.. list], asOf, false, places ?? NoPlaces, completed ?? NothingDone);
    }

    static Instant OverFrom(Timeline t) => t.Stretches[^1] is { State: HoldingState.Over } last ? last.From : Instant.MaxValue;

    /// <summary>Somebody who joins a plan at a moment and stays, with a place wherever one is needed.</summary>
    internal static Held Joining(PlanId plan, Instant at) => new(plan, at, [new(at, Instant.MaxValue)], Instant.MaxValue, Instant.MaxValue, false);
}
