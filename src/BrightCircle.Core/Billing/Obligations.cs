using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Billing;

/// <summary>
/// What a holding owes, from its agreement and its facts, as known at a moment: the next charge, whether it has failed before, what a standstill left
/// open, and when access ends. Everything that shows or takes money reads this.
/// </summary>
/// <param name="State">The holding's state at the moment.</param>
/// <param name="Next">The charge that comes next or is overdue, with the credit it will use; null where nothing more will be asked: free, all paid, left,
/// over.</param>
/// <param name="GraceUntil">Where it has failed: until when access stays open; null where it hasn't.</param>
/// <param name="AccessEnds">When access ends by itself as things stand; null where it goes on with the payments, or for ever.</param>
/// <param name="Open">The sum of the periods a standstill left uncharged; null where there is none.</param>
/// <param name="Balance">What is to its credit, for its next charges; null where nothing is.</param>
public sealed record Obligations(HoldingState State, Charge? Next, Instant? GraceUntil, Instant? AccessEnds, Money? Open, Money? Balance = null)
{
    /// <summary>The next charge has failed and waits to be paid.</summary>
    public bool IsOverdue => State is HoldingState.Grace or HoldingState.Closed;

    /// <summary>When it goes on, where it is paused; null where it isn't.</summary>
    public Instant? PausedUntil { get; init; }

    /// <summary>What is to be charged now: due, or failed before.</summary>
    public Charge? DueAt(Instant moment) => Next is { } c && (IsOverdue || c.DueAt <= moment) && State != HoldingState.Paused ? c : null;

    public static Obligations Of(Holding holding, Instant moment)
    {
        var t = holding.TimelineAsOf(moment);
        var stretch = t.StretchAt(moment);
        var state = stretch?.State ?? HoldingState.NotYet;
        var agreement = Effective(holding, t);
        Obligations With(Charge? next, Instant? ends, Instant? graceUntil = null) =>
            new(state, next?.Using(t.Balance), graceUntil, ends, OpenAmount(agreement, t), t.Balance is { Minor: > 0 } some ? some : null);
        switch (state)
        {
            case HoldingState.Over:
                return With(null, stretch!.Value.From);
            case HoldingState.Ending:
                return With(null, t.Leaving!.To);
            case HoldingState.NotYet:
                return holding.IsPaidFor ? With(agreement.Charges().FirstOrDefault(), null) : With(null, t.PaidThrough);
            case HoldingState.Grace:
                var grace = stretch!.Value.Because!.To!.Value;
                return With(NextOf(holding, agreement, t), agreement.AccessEnds is { } end && end < grace ? end : grace, grace);
            case HoldingState.Closed:
                return With(NextOf(holding, agreement, t), agreement.AccessEnds);
            case HoldingState.Trial or HoldingState.Active or HoldingState.Paused:
                // A change that was planned for the end of the paid time: nothing more is asked for this one.
                if (t.Leaving is { To: { } changes }) return With(null, changes);
                return (holding.IsPaidFor ? With(NextOf(holding, agreement, t), agreement.AccessEnds) : With(null, t.PaidThrough)) with
                {
                    PausedUntil = state == HoldingState.Paused ? stretch!.Value.Because!.To : null,
                };
            default:
                throw new InvalidOperationException($"No such state: {state}");
        }
    }

    /// <summary>The agreement with its payments where pauses moved them.</summary>
    public static Agreement AgreementAt(Holding holding, Instant moment) => Effective(holding, holding.TimelineAsOf(moment));

    static Agreement Effective(Holding holding, Timeline t)
    {
        var agreement = holding.Agreement;
        foreach (var (from, to) in t.Pauses) agreement = agreement.Paused(from, to);
        return agreement;
    }

    /// <summary>All that is left of instalments, as one charge; null where fewer than two are left.</summary>
    public Charge? RestOf(Agreement agreement) =>
        Next is { Purpose: PaymentPurpose.Instalment } next && agreement.Terms.Times - next.Turn > 1 ? agreement.RestFrom(next.Turn)?.Using(Balance) : null;

    /// <summary>The first charge for time that isn't paid yet.</summary>
    static Charge? NextOf(Holding holding, Agreement agreement, Timeline t) =>
        t.IsPaidForEver ? null : agreement.From(t.PaidThrough ?? holding.StartsAt);

    static Money? OpenAmount(Agreement agreement, Timeline t)
    {
        Money? sum = null;
        foreach (var missed in t.Missed)
            if (agreement.At(missed.From) is { } charge) sum = sum is { } s ? s + charge.Amount : charge.Amount;
        return sum;
    }

    /// <summary>
    /// What is asked when a charge is due at a moment that is long past it: the charge whose stretch the moment is in, and the ones before it that were
    /// slept over. At most one charge is asked at once; the older ones become an open amount.
    /// </summary>
    /// <returns>The charge to ask, and the missed ones, oldest first; the charge is null where nothing is due.</returns>
    public (Charge? Ask, IReadOnlyList<Charge> Missed) AskAt(Agreement agreement, Instant moment)
    {
        if (DueAt(moment) is not { } due) return (null, []);
        // Instalments are owed one by one, however late: none of them is left out.
        if (IsOverdue || due.Purpose == PaymentPurpose.Instalment || due.PaidThrough is not { } end || end > moment) return (due, []);
        var missed = new List<Charge>();
        foreach (var c in agreement.Charges().SkipWhile(c => c.DueAt < due.DueAt))
        {
            if (c.PaidThrough is null || c.PaidThrough > moment) return (c.Using(Balance), missed);
            missed.Add(c);
        }
        return (due, []);
    }
}

/// <summary>What becomes of a holding when another plan is joined.</summary>
public abstract record GivesWay
{
    private GivesWay() { }
    /// <summary>Both go on side by side.</summary>
    public sealed record Stays : GivesWay;
    /// <summary>It isn't renewed any more and stays open to the end of its paid time.</summary>
    public sealed record RunsOut(Instant At) : GivesWay;
    /// <summary>Nothing is paid ahead: it ends at once, unpaid.</summary>
    public sealed record EndsNow : GivesWay;

    /// <summary>
    /// Among paid tiers one replaces another. Passes, gifts and free tiers never end anything and are never ended by it; a tier paid for good stays.
    /// </summary>
    /// <param name="joined">The plan being joined.</param>
    /// <param name="terms">The terms on which.</param>
    public static GivesWay Of(Holding other, Plan otherPlan, Plan joined, PriceTerms terms, Instant moment)
    {
        if (!joined.IsTier || !otherPlan.IsTier || terms is PriceTerms.Free || !other.IsPaidFor || !other.Agreement.Renews) return new Stays();
        switch (other.StateAt(moment))
        {
            case HoldingState.Over or HoldingState.NotYet or HoldingState.Ending:
                return new Stays();
            case HoldingState.Grace or HoldingState.Closed or HoldingState.Paused:
                return new EndsNow();
            case HoldingState.Active or HoldingState.Trial:
                return other.PaidThrough(moment) is { } until && until > moment ? new RunsOut(until) : new EndsNow();
            default:
                throw new InvalidOperationException("No such state.");
        }
    }
}

/// <summary>How a member may leave a holding.</summary>
public static class Leaving
{
    /// <summary>Until when it stays open if they leave now: the end of what is paid; null where nothing is paid ahead and it ends at once. A pause ends
    /// with the leaving, and the rest of what was paid runs from there.</summary>
    public static Instant? OpenUntil(Holding holding, Instant moment)
    {
        var known = holding;
        if (holding.StateAt(moment) == HoldingState.Paused)
        {
            known = holding.Copy();
            known.Resumed(moment);
        }
        return known.StateAt(moment) is HoldingState.Active or HoldingState.Trial && known.PaidThrough(moment) is { } until && until > moment ? until : null;
    }

    /// <summary>Whether there is anything to leave: a membership that goes on. What was paid once is simply theirs, and instalments are owed.</summary>
    public static bool Possible(Holding holding, Instant moment) => holding.StateAt(moment) switch
    {
        HoldingState.Active or HoldingState.Trial or HoldingState.Grace or HoldingState.Paused =>
            (!holding.IsPaidFor || holding.Agreement.Renews) && holding.Timeline.Leaving is null,
        HoldingState.Ending or HoldingState.Over or HoldingState.NotYet or HoldingState.Closed => false,
    };
}
