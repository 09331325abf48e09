using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Billing;

/// <summary>
/// What a holding owes, from its agreement and its facts, as known at a moment: the next charge, whether it has failed before, what a standstill left
/// open, and when access ends. Everything that shows or takes money reads this.
/// </summary>
/// <param name="State">The holding's state at the moment.</param>
/// <param name="Next">The charge that comes next or is overdue; null where nothing more will be asked: free, paid for good, left, over.</param>
/// <param name="GraceUntil">Where it has failed: until when access stays open; null where it hasn't.</param>
/// <param name="AccessEnds">When access ends by itself as things stand; null where it goes on with the payments, or for ever.</param>
/// <param name="Open">The sum of the periods a standstill left uncharged; null where there is none.</param>
public sealed record Obligations(HoldingState State, Charge? Next, Instant? GraceUntil, Instant? AccessEnds, Money? Open)
{
    /// <summary>The next charge has failed and waits to be paid.</summary>
    public bool IsOverdue => GraceUntil is not null;

    /// <summary>What is to be charged now: due, or failed before.</summary>
    public Charge? DueAt(Instant moment) => Next is { } c && (IsOverdue || c.DueAt <= moment) ? c : null;

    public static Obligations Of(Holding holding, Instant moment)
    {
        var t = holding.TimelineAsOf(moment);
        var stretch = t.StretchAt(moment);
        var state = stretch?.State ?? HoldingState.NotYet;
        var open = OpenAmount(holding, t);
        switch (state)
        {
            case HoldingState.Over:
                return new(state, null, null, stretch!.Value.From, open);
            case HoldingState.Ending:
                return new(state, null, null, t.Leaving!.To, open);
            case HoldingState.NotYet:
                return holding.IsPaidFor ? new(state, holding.Agreement.Charges().FirstOrDefault(), null, null, open)
                    : new(state, null, null, t.PaidThrough, open);
            case HoldingState.Grace:
                return new(state, NextOf(holding, t), stretch!.Value.Because!.To, stretch.Value.Because.To, open);
            case HoldingState.Trial or HoldingState.Active:
                return holding.IsPaidFor ? new(state, NextOf(holding, t), null, null, open) : new(state, null, null, t.PaidThrough, open);
            default:
                throw new InvalidOperationException($"No such state: {state}");
        }
    }

    /// <summary>The first charge for time that isn't paid yet.</summary>
    static Charge? NextOf(Holding holding, Timeline t) => t.IsPaidForEver ? null : holding.Agreement.From(t.PaidThrough ?? holding.StartsAt);

    static Money? OpenAmount(Holding holding, Timeline t)
    {
        Money? sum = null;
        foreach (var missed in t.Missed)
            if (holding.Agreement.At(missed.From) is { } charge) sum = sum is { } s ? s + charge.Amount : charge.Amount;
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
        if (IsOverdue || due.PaidThrough is not { } end || end > moment) return (due, []);
        var missed = new List<Charge>();
        foreach (var c in agreement.Charges().SkipWhile(c => c.DueAt < due.DueAt))
        {
            if (c.PaidThrough is null || c.PaidThrough > moment) return (c, missed);
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
            case HoldingState.Grace:
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
    /// <summary>Until when it stays open if they leave now: the end of what is paid; null where nothing is paid ahead and it ends at once.</summary>
    public static Instant? OpenUntil(Holding holding, Instant moment) =>
        holding.StateAt(moment) is HoldingState.Active or HoldingState.Trial && holding.PaidThrough(moment) is { } until && until > moment ? until : null;

    /// <summary>Whether there is anything to leave: a membership that goes on. What was paid once is simply theirs.</summary>
    public static bool Possible(Holding holding, Instant moment) => holding.StateAt(moment) switch
    {
        HoldingState.Active or HoldingState.Trial => !holding.IsPaidFor || holding.Agreement.Renews,
        HoldingState.Grace => true,
        HoldingState.Ending or HoldingState.Over or HoldingState.NotYet => false,
    };
}
