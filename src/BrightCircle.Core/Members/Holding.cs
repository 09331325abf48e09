using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>Through what a member got a holding.</summary>
public enum HoldingSource { Bought, Gift }

public enum HoldingFactKind
{
    /// <summary>Open by payment from one moment to another, or for ever.</summary>
    Paid,
    /// <summary>Open on trial.</summary>
    Trial,
    /// <summary>Open without payment: a free price or a gift.</summary>
    Given,
    /// <summary>A payment failed; still open until the last retry.</summary>
    Grace,
    /// <summary>The member decided to leave; open until the stated moment.</summary>
    Leaving,
    /// <summary>The member took the leaving back.</summary>
    Staying,
    /// <summary>Over.</summary>
    Ended,
}

/// <summary>Why a holding is over.</summary>
public enum EndReason
{
    /// <summary>The member left.</summary>
    Left,
    /// <summary>Payments failed to the last retry.</summary>
    Lapsed,
    /// <summary>A gift's time ran out.</summary>
    RanOut,
    /// <summary>Given up for another plan.</summary>
    Replaced,
    /// <summary>The team ended it.</summary>
    EndedByTeam,
    Refunded,
    ChargedBack,
}

/// <summary>One thing that is true of a holding from a moment on. Facts are only ever added.</summary>
public sealed class HoldingFact
{
    private HoldingFact() { }

    public HoldingFactId Id { get; private init; }
    public HoldingId HoldingId { get; private init; }
    public HoldingFactKind Kind { get; private init; }
    /// <summary>When it became known, UTC: a fact counts from here on.</summary>
    public Instant At { get; private init; }
    /// <summary>The start of the stretch it is about.</summary>
    public Instant From { get; private init; }
    /// <summary>The end of the stretch, exclusive; null for ever. For leaving: when access ends.</summary>
    public Instant? To { get; private init; }
    public EndReason? Reason { get; private init; }
    public PaymentId? PaymentId { get; private init; }

    public static HoldingFact Paid(HoldingFactId id, HoldingId holding, Instant from, Instant? to, Instant at, PaymentId? payment) =>
        new() { Id = id, HoldingId = holding, Kind = HoldingFactKind.Paid, From = from, To = to, At = at, PaymentId = payment };
    public static HoldingFact Trial(HoldingFactId id, HoldingId holding, Instant from, Instant to, Instant at, PaymentId? payment) =>
        new() { Id = id, HoldingId = holding, Kind = HoldingFactKind.Trial, From = from, To = to, At = at, PaymentId = payment };
    public static HoldingFact Given(HoldingFactId id, HoldingId holding, Instant from, Instant? to) =>
        new() { Id = id, HoldingId = holding, Kind = HoldingFactKind.Given, From = from, To = to, At = from };
    public static HoldingFact Grace(HoldingFactId id, HoldingId holding, Instant failedAt, Instant until) =>
        new() { Id = id, HoldingId = holding, Kind = HoldingFactKind.Grace, From = failedAt, To = until, At = failedAt };
    public static HoldingFact Leaving(HoldingFactId id, HoldingId holding, Instant at, Instant openUntil) =>
        new() { Id = id, HoldingId = holding, Kind = HoldingFactKind.Leaving, From = at, To = openUntil, At = at, Reason = EndReason.Left };
    public static HoldingFact Staying(HoldingFactId id, HoldingId holding, Instant at) =>
        new() { Id = id, HoldingId = holding, Kind = HoldingFactKind.Staying, From = at, At = at };
    public static HoldingFact Ended(HoldingFactId id, HoldingId holding, Instant at, EndReason reason) =>
        new() { Id = id, HoldingId = holding, Kind = HoldingFactKind.Ended, From = at, At = at, Reason = reason };

    /// <summary>A stored fact read back.</summary>
    internal static HoldingFact Stored(HoldingFactId id, HoldingId holding, HoldingFactKind kind, Instant at, Instant from, Instant? to, EndReason? reason) =>
        new() { Id = id, HoldingId = holding, Kind = kind, At = at, From = from, To = to, Reason = reason };

    /// <summary>Open time that was paid for or given: it counts for reach and keep, grace doesn't.</summary>
    public bool IsPaidTime => Kind is HoldingFactKind.Paid or HoldingFactKind.Trial or HoldingFactKind.Given;
}

/// <summary>One right of one member: this plan, from this moment, through this source.</summary>
public sealed class Holding
{
    public HoldingId Id { get; init; }
    public MemberId MemberId { get; init; }
    public PlanId PlanId { get; init; }
    public PriceId? PriceId { get; init; }
    public HoldingSource Source { get; init; }
    public Instant StartsAt { get; init; }
    /// <summary>Where its periods are counted from, UTC: the start, or the end of its trial.</summary>
    public Instant Anchor { get; init; }
    /// <summary>Who gave it and why, for a gift.</summary>
    public string? Note { get; init; }
    /// <summary>A projection for lists, kept by the same transaction that adds the ending fact.</summary>
    public bool IsOver { get; set; }
    public List<HoldingFact> Facts { get; } = [];

    /// <summary>The state at a moment, from what was known then.</summary>
    public HoldingState StateAt(Instant moment)
    {
        if (moment < StartsAt) return HoldingState.NotYet;
        HoldingFact? leaving = null, open = null, grace = null;
        foreach (var f in Facts)
        {
            if (f.At > moment) continue;
            switch (f.Kind)
            {
                case HoldingFactKind.Ended: return HoldingState.Over;
                case HoldingFactKind.Leaving: leaving = f; break;
                case HoldingFactKind.Staying: leaving = null; break;
                case HoldingFactKind.Grace: if (grace is null || f.From > grace.From) grace = f; break;
                default: if (f.From <= moment && (open is null || f.From > open.From)) open = f; break;
            }
        }
        if (leaving is not null) return moment < leaving.To ? HoldingState.Ending : HoldingState.Over;
        if (open is null) return HoldingState.NotYet;
        var inOpen = open.To is null || moment < open.To;
        if (!inOpen && open.Kind == HoldingFactKind.Given) return HoldingState.Over;
        // Past the paid time without an ending: grace where a payment failed since, else a renewal that is just due and still counts as held.
        if (!inOpen && grace is not null && grace.From >= open.From && (open.To is null || grace.To > open.To)) return HoldingState.Grace;
        return open.Kind == HoldingFactKind.Trial ? HoldingState.Trial : HoldingState.Active;
    }

    /// <summary>The end of the last paid, trial or given stretch known at a moment: null for ever, or where there is none.</summary>
    public Instant? PaidThrough(Instant moment)
    {
        Instant? to = null;
        foreach (var f in Facts)
            if (f.IsPaidTime && f.At <= moment)
            {
                if (f.To is null) return null;
                if (to is null || f.To > to) to = f.To;
            }
        return to;
    }

    /// <summary>When access ends because the member is leaving; null where they aren't.</summary>
    public Instant? LeavingAt(Instant moment)
    {
        Instant? at = null;
        foreach (var f in Facts)
            if (f.At <= moment)
            {
                if (f.Kind == HoldingFactKind.Leaving) at = f.To;
                else if (f.Kind == HoldingFactKind.Staying) at = null;
            }
        return at;
    }

    public HoldingFact? Ending => Facts.FirstOrDefault(f => f.Kind == HoldingFactKind.Ended);

    /// <summary>The grace that runs at a moment, or null.</summary>
    public HoldingFact? GraceAt(Instant moment) =>
        StateAt(moment) == HoldingState.Grace ? Facts.Where(f => f.Kind == HoldingFactKind.Grace && f.At <= moment).MaxBy(f => f.From) : null;
}

public enum HoldingState { NotYet, Trial, Active, Grace, Ending, Over }
