using BrightCircle.Core.Events;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Members;

public enum HoldingState
{
    NotYet,
    Trial,
    Active,
    Grace,
    Ending,
    Over,
    /// <summary>For a stated time nothing is charged, and it isn't paid time.</summary>
    Paused,
    /// <summary>An instalment wasn't paid to the last retry: closed until it is.</summary>
    Closed,
}

/// <summary>One right of one member: this plan, from this moment, through this source, on these terms.</summary>
public sealed class Holding
{
    public HoldingId Id { get; init; }
    public MemberId MemberId { get; init; }
    public PlanId PlanId { get; init; }
    public PriceId? PriceId { get; init; }
    public HoldingSource Source { get; init; }
    public Instant StartsAt { get; init; }
    /// <summary>The terms as agreed, from which all it owes is computed.</summary>
    public required Agreement Agreement { get; init; }
    /// <summary>The version of the plan's promise it was made with.</summary>
    public int PromiseNumber { get; init; } = 1;
    /// <summary>It skips every pace: paid in full, or given so.</summary>
    public bool AllAtOnce { get; init; }
    /// <summary>The key link, the group's holding or the moving in that it came through; null where it came by none.</summary>
    public long? Through { get; init; }
    /// <summary>How its payments come in.</summary>
    public PayWay Way { get; set; }
    /// <summary>How many others it is for as well; null where it is for one person.</summary>
    public int? Seats { get; set; }
    /// <summary>The holding of the same plan whose place it takes: what counts from joining counts from that one's start. Null for none.</summary>
    public HoldingId? Continues { get; init; }
    /// <summary>Who gave it and why, for a gift.</summary>
    public string? Note { get; init; }
    /// <summary>A projection for lists, kept by the same transaction that adds the ending fact.</summary>
    public bool IsOver { get; set; }
    public List<HoldingFact> Facts { get; } = [];

    /// <summary>Given in one way or another, and not joined by a price.</summary>
    public bool IsGiven => Source != HoldingSource.Bought;
    /// <summary>It costs something: neither a gift nor free.</summary>
    public bool IsPaidFor => Source == HoldingSource.Bought && !Agreement.IsFree;

    Timeline? timeline;
    int foldedFacts = -1;

    /// <summary>All its facts folded, in their order.</summary>
    public Timeline Timeline
    {
        get
        {
            if (timeline is null || foldedFacts != Facts.Count) (timeline, foldedFacts) = (Timeline.Of(StartsAt, Facts, Agreement), Facts.Count);
            return timeline;
        }
    }

    /// <summary>As it was known at a moment: facts that became known later are left out.</summary>
    public Timeline TimelineAsOf(Instant asOf)
    {
        foreach (var f in Facts)
            if (f.At > asOf) return Timeline.Of(StartsAt, Facts.Where(x => x.At <= asOf), Agreement);
        return Timeline;
    }

    /// <summary>The state at a moment, from what was known then.</summary>
    public HoldingState StateAt(Instant moment) => Timeline.At(moment);

    /// <summary>Open, as far as the holding goes: begun, not over, neither paused nor closed for want of a payment.</summary>
    public bool IsHeldAt(Instant moment) => StateAt(moment) is HoldingState.Active or HoldingState.Trial or HoldingState.Grace or HoldingState.Ending;

    /// <summary>The end of the last paid, trial or given stretch known at a moment: null for ever, or where there is none.</summary>
    public Instant? PaidThrough(Instant moment) => TimelineAsOf(moment).PaidThrough;

    /// <summary>When access ends because the member is leaving; null where they aren't.</summary>
    public Instant? LeavingAt(Instant moment) => TimelineAsOf(moment).Leaving?.To;

    /// <summary>The version of the promise it lives by, from all that is known.</summary>
    public int LivesBy => Timeline.Promise ?? PromiseNumber;

    public HoldingFact? Ending => Timeline.Ended;

    /// <summary>The grace that runs at a moment, or null.</summary>
    public HoldingFact? GraceAt(Instant moment) => Timeline.StretchAt(moment) is { State: HoldingState.Grace, Because: { } grace } ? grace : null;

    /// <summary>Adds a fact after all others. Whoever adds one holds the member's row.</summary>
    public HoldingFact Add(HoldingFactKind kind, Instant at, Instant from, Instant? to = null, EndReason? reason = null, PaymentId? payment = null,
        int? promise = null, Money? amount = null)
    {
        if (to < from) throw new ArgumentException("A stretch doesn’t end before it begins.", nameof(to));
        var seq = 0;
        foreach (var f in Facts) seq = Math.Max(seq, f.Seq);
        var fact = HoldingFact.Stored(Id, seq + 1, kind, at, from, to, reason, payment, promise, amount);
        Facts.Add(fact);
        return fact;
    }

    public HoldingFact Paid(Instant from, Instant? to, Instant at, PaymentId? payment = null, Money? credit = null) =>
        Add(HoldingFactKind.Paid, at, from, to, payment: payment, amount: credit);
    public HoldingFact Trial(Instant from, Instant to, Instant at, PaymentId? payment = null, Money? credit = null) =>
        Add(HoldingFactKind.Trial, at, from, to, payment: payment, amount: credit);
    public HoldingFact Given(Instant from, Instant? to = null, Instant? at = null) => Add(HoldingFactKind.Given, at ?? from, from, to);
    public HoldingFact Grace(Instant failedAt, Instant until) => Add(HoldingFactKind.Grace, failedAt, failedAt, until);
    /// <param name="reason">Left, or replaced where a change was planned for then.</param>
    public HoldingFact Leaving(Instant at, Instant openUntil, EndReason reason = EndReason.Left) =>
        Add(HoldingFactKind.Leaving, at, at, openUntil, reason);
    public HoldingFact Staying(Instant at) => Add(HoldingFactKind.Staying, at, at);
    public HoldingFact Missed(Instant from, Instant to, Instant at) => Add(HoldingFactKind.Missed, at, from, to);
    public HoldingFact Waived(Instant at) => Add(HoldingFactKind.Waived, at, at);
    public HoldingFact Moved(Instant at, int promise) => Add(HoldingFactKind.Moved, at, at, promise: promise);
    public HoldingFact Ended(Instant at, EndReason reason) => Add(HoldingFactKind.Ended, at, at, reason: reason);
    public HoldingFact Planned(Instant at) => Add(HoldingFactKind.Planned, at, StartsAt);
    public HoldingFact Closed(Instant at) => Add(HoldingFactKind.Closed, at, at);
    public HoldingFact Paused(Instant at, Instant until) => Add(HoldingFactKind.Paused, at, at, until);
    public HoldingFact Resumed(Instant at) => Add(HoldingFactKind.Resumed, at, at);
    public HoldingFact Credit(Instant at, Money amount) => Add(HoldingFactKind.Credit, at, at, amount: amount);

    /// <summary>A holding as it would be: of somebody who joined by a price at a moment, and left at another.</summary>
    /// <param name="left">Null where they stay.</param>
    public static Holding Imagined(Plan plan, PriceId? price, Instant joined, string zoneId, Instant? left = null)
    {
        var holding = new Holding
        {
            PlanId = plan.Id,
            PriceId = price,
            StartsAt = joined,
            PromiseNumber = plan.PromiseNumber,
            Agreement = Agreement.ForNothing(joined, zoneId),
        };
        holding.Paid(joined, left, joined);
        if (left is { } end) holding.Ended(end, EndReason.Left);
        return holding;
    }

    /// <summary>The same holding with its own list of facts, to ask what would be if another were added.</summary>
    public Holding Copy()
    {
        var copy = new Holding
        {
            Id = Id,
            MemberId = MemberId,
            PlanId = PlanId,
            PriceId = PriceId,
            Source = Source,
            StartsAt = StartsAt,
            Agreement = Agreement,
            PromiseNumber = PromiseNumber,
            AllAtOnce = AllAtOnce,
            Through = Through,
            Seats = Seats,
            Continues = Continues,
            Note = Note,
            IsOver = IsOver
        };
        copy.Facts.AddRange(Facts);
        return copy;
    }
}
