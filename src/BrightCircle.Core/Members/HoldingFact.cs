using BrightCircle.Core.Events;
using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>Through what a member got a holding.</summary>
public enum HoldingSource
{
    Bought,
    /// <summary>The team gave it.</summary>
    Gift,
    /// <summary>By a key link.</summary>
    Key,
    /// <summary>It was brought along from elsewhere.</summary>
    MovedIn,
    /// <summary>Everybody gets it who comes.</summary>
    Arrival,
    /// <summary>A seat of a group that somebody else holds.</summary>
    Seat,
    /// <summary>A routine gave it.</summary>
    Routine,
}

public static class HoldingSources
{
    /// <summary>"gift", as it stands behind a plan's name; empty for what was bought.</summary>
    public static string Word(this HoldingSource source) => source switch
    {
        HoldingSource.Bought => "",
        HoldingSource.Gift => "gift",
        HoldingSource.Key => "by a key link",
        HoldingSource.MovedIn => "brought along",
        HoldingSource.Arrival => "for everybody",
        HoldingSource.Seat => "a seat in a group",
        HoldingSource.Routine => "by a routine",
    };
}

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
    /// <summary>A period went by without being charged, because the site stood still; it was open, and its amount is owed.</summary>
    Missed,
    /// <summary>The team waived all that was missed until then.</summary>
    Waived,
    /// <summary>Moved to another version of the plan's promise, on purpose.</summary>
    Moved,
    /// <summary>Over.</summary>
    Ended,
    /// <summary>It begins at its start by itself, with its first payment due then: a change that was planned.</summary>
    Planned,
    /// <summary>An instalment failed to the last retry: closed until it is paid.</summary>
    Closed,
    /// <summary>The member or the team paused it, from one moment to another.</summary>
    Paused,
    /// <summary>The pause was ended before its time.</summary>
    Resumed,
    /// <summary>Money that its next charges use first was put to it, or taken from it.</summary>
    Credit,
}

/// <summary>One thing that is true of a holding from a moment on. Facts are only ever added, and have an order of their own.</summary>
public sealed class HoldingFact
{
    private HoldingFact() { }

    public HoldingId HoldingId { get; private init; }
    /// <summary>Its place among the holding's facts, from 1: of two things known at the same moment the later one counts.</summary>
    public int Seq { get; private init; }
    public HoldingFactKind Kind { get; private init; }
    /// <summary>When it became known, UTC: a fact counts from here on.</summary>
    public Instant At { get; private init; }
    /// <summary>The start of the stretch it is about.</summary>
    public Instant From { get; private init; }
    /// <summary>The end of the stretch, exclusive; null for ever. For leaving: when access ends.</summary>
    public Instant? To { get; private init; }
    public EndReason? Reason { get; private init; }
    public PaymentId? PaymentId { get; private init; }
    /// <summary>Of a move: the version of the promise that it lives by from then on.</summary>
    public int? Promise { get; private init; }

    /// <summary>Of a credit: what was put to it, or taken from it where negative. Of a paid stretch: the credit that was used for it.</summary>
    public Money? Amount => AmountMinor is { } minor && AmountCurrency is { } code ? new(minor, new(code)) : null;
    public long? AmountMinor { get; private init; }
    public string? AmountCurrency { get; private init; }

    /// <summary>A fact as it is stored, or to be added by the holding.</summary>
    public static HoldingFact Stored(HoldingId holding, int seq, HoldingFactKind kind, Instant at, Instant from, Instant? to, EndReason? reason = null,
        PaymentId? payment = null, int? promise = null, Money? amount = null) =>
        new()
        {
            HoldingId = holding,
            Seq = seq,
            Kind = kind,
            At = at,
            From = from,
            To = to,
            Reason = reason,
            PaymentId = payment,
            Promise = promise,
            AmountMinor = amount?.Minor,
            AmountCurrency = amount?.Currency.Code,
        };

    /// <summary>The same fact with another stretch, as a pause makes it.</summary>
    internal HoldingFact Moved(Instant from, Instant to) => Stored(HoldingId, Seq, Kind, At, from, to, Reason, PaymentId, Promise, Amount);

    /// <summary>Open time that was paid for or given: it counts for reach and keep, grace doesn't.</summary>
    public bool IsPaidTime => Kind is HoldingFactKind.Paid or HoldingFactKind.Trial or HoldingFactKind.Given;
}
