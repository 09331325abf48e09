using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Core.Billing;

public enum PaymentState { Paid, Failed, PartlyRefunded, Refunded, ChargedBack }

/// <summary>One asking of a card for money, and what came of it. Refunds are facts of their own; the sums here follow them.</summary>
public sealed class Payment
{
    public PaymentId Id { get; init; }
    public MemberId MemberId { get; init; }
    /// <summary>What it paid for; null for a voucher, which somebody else will hold, and for what was paid again and goes back.</summary>
    public HoldingId? HoldingId { get; init; }
    /// <summary>The order it came with, by its number; null for what is charged later.</summary>
    public long? OrderId { get; init; }
    /// <summary>How it came in.</summary>
    public PayWay Way { get; init; }
    public PriceId PriceId { get; init; }
    /// <summary>What was asked.</summary>
    public Money Amount { get; init; }
    public PaymentPurpose Purpose { get; init; }
    public ChargeOutcome Outcome { get; init; }
    /// <summary>When it was asked, UTC.</summary>
    public Instant At { get; init; }
    /// <summary>The stretch it pays for; the end is null for ever.</summary>
    public Instant PeriodFrom { get; init; }
    public Instant? PeriodTo { get; init; }
    /// <summary>What it is made of; empty where that was one line, from before there were several.</summary>
    public IReadOnlyList<ChargeLine> Lines { get; init; } = [];
    /// <summary>The coupon that lowered it; null for none.</summary>
    public long? CouponId { get; init; }
    /// <summary>Which charge of its purpose it is for.</summary>
    public int Turn { get; init; }
    /// <summary>1 for the first asking of a turn, then counting.</summary>
    public int Attempt { get; init; }
    /// <summary>The idempotency key under which the payment service knows it.</summary>
    public string Key { get; init; } = "";
    /// <summary>The payment service's own reference.</summary>
    public string ChargeRef { get; init; } = "";
    public string CardLabel { get; init; } = "";
    /// <summary>Why it was refused, in words; null where it wasn't.</summary>
    public string? Refusal { get; init; }
    /// <summary>What the payment service says it took, in minor units of <see cref="TakenCurrency"/>; null where it took nothing or didn't say.</summary>
    public long? TakenMinor { get; init; }
    public string? TakenCurrency { get; init; }
    /// <summary>The year of its receipt in the site's calendar, and the number in it, counted without gaps; null where nothing was paid.</summary>
    public int? ReceiptYear { get; init; }
    public int? ReceiptNumber { get; set; }

    /// <summary>What went back so far, in minor units; never more than was paid.</summary>
    public long RefundedMinor { get; private set; }
    public bool ChargedBack { get; private set; }
    /// <summary>What of it was put to the member's credit instead, in minor units.</summary>
    public long CreditedMinor { get; private set; }

    /// <summary>The key of the payment for a voucher, by the number of its order.</summary>
    public static string VoucherKey(long order) => $"voucher-{order}";
    /// <summary>It paid for a voucher.</summary>
    public bool IsOfVoucher => OrderId is { } order && Key == VoucherKey(order);

    public bool IsPaid => Outcome == ChargeOutcome.Approved;
    /// <summary>The payment service took something else than it was asked for: somebody has to look at it.</summary>
    public bool TakenDiffers => TakenMinor is { } taken && (taken != Amount.Minor || TakenCurrency != Amount.Currency.Code);
    public Money Refunded => new(RefundedMinor, Amount.Currency);
    public Money Credited => new(CreditedMinor, Amount.Currency);
    /// <summary>What of it isn't there any more: it went back, or to the member's credit.</summary>
    public Money GoneFrom => Refunded + Credited;
    /// <summary>What can still go back, or to the member's credit.</summary>
    public Money Refundable => IsPaid ? Amount - GoneFrom : Money.Zero(Amount.Currency);
    /// <summary>"2026-00042".</summary>
    public string Receipt => ReceiptNumber is { } n ? $"{ReceiptYear:D4}-{n:D5}" : "";

    public PaymentState State => !IsPaid ? PaymentState.Failed
        : ChargedBack ? PaymentState.ChargedBack
        : RefundedMinor == 0 ? PaymentState.Paid
        : RefundedMinor == Amount.Minor ? PaymentState.Refunded : PaymentState.PartlyRefunded;

    /// <summary>Takes account of money that is the member's credit from now on.</summary>
    /// <exception cref="InvalidOperationException">More than is left of it, nothing, or another currency.</exception>
    public void ToCredit(Money amount)
    {
        if (amount.Minor <= 0 || amount > Refundable) throw new InvalidOperationException($"{amount} can't be credited of {Refundable}.");
        CreditedMinor += amount.Minor;
    }

    /// <summary>Takes account of money given back.</summary>
    /// <exception cref="InvalidOperationException">More than is left of it, nothing, or another currency.</exception>
    public void GiveBack(Money amount, bool chargeback)
    {
        if (amount.Minor <= 0 || amount > Refundable) throw new InvalidOperationException($"{amount} can't go back of {Refundable}.");
        RefundedMinor += amount.Minor;
        ChargedBack |= chargeback;
    }
}

/// <summary>Money that went back: by the team's refund or by the bank's chargeback.</summary>
public sealed class Refund
{
    public long Id { get; init; }
    public PaymentId PaymentId { get; init; }
    public Money Amount { get; init; }
    public Instant At { get; init; }
    public bool IsChargeback { get; init; }
    public string Reason { get; init; } = "";
    public string Key { get; init; } = "";
}

/// <summary>A stored line of the ledger. Lines with the same <see cref="PostingId"/> sum to zero.</summary>
public sealed class LedgerEntry
{
    public long Id { get; init; }
    public long PostingId { get; init; }
    /// <summary>Null where no money moved: credit was given or used.</summary>
    public PaymentId? PaymentId { get; init; }
    public MemberId MemberId { get; init; }
    public LedgerAccount Account { get; init; }
    public Money Amount { get; init; }
    public Instant At { get; init; }
    public string Text { get; init; } = "";
}

public enum DisputeState
{
    /// <summary>The team can say something to it.</summary>
    Open,
    Answered,
    /// <summary>The money came back.</summary>
    Won,
    Lost,
}

/// <summary>A bank took a payment back, and the site may say something to it.</summary>
public sealed class Dispute
{
    public long Id { get; init; }
    public PaymentId PaymentId { get; init; }
    public MemberId MemberId { get; init; }
    /// <summary>The payment service's own reference.</summary>
    public string Ref { get; init; } = "";
    /// <summary>What was taken back, over all payments of the charge.</summary>
    public Money Amount { get; init; }
    public Instant OpenedAt { get; init; }
    /// <summary>Until when it can be answered.</summary>
    public Instant AnswerBy { get; init; }
    public string Reason { get; init; } = "";
    public DisputeState State { get; set; }
    public string? Answer { get; set; }
    public Instant? AnsweredAt { get; set; }
    public string? AnsweredBy { get; set; }
    public Instant? DecidedAt { get; set; }

    public bool CanBeAnswered(Instant at) => State == DisputeState.Open && at < AnswerBy;
}

/// <summary>Why the team has to look at a payment.</summary>
public enum PaymentConcern
{
    /// <summary>The payment service took another amount than it was asked for.</summary>
    TakenDiffers,
    /// <summary>A bank took money back.</summary>
    Dispute,
    /// <summary>A bank took money back of which nothing was left: it had been refunded.</summary>
    DisputeAfterRefund,
    /// <summary>A bank took back a charge that nobody here knows.</summary>
    DisputeOfUnknown,
    /// <summary>The payment service won't take the charge at all.</summary>
    ChargeRefused,
    /// <summary>The very first charge after a trial failed.</summary>
    FirstPaymentFailed,
    /// <summary>A dispute was decided for the site: the money came back, and what it paid for had ended.</summary>
    DisputeWon,
}

/// <summary>A payment that somebody of the team has to look at; it stands on Today until they did.</summary>
public sealed class PaymentToLookAt
{
    public long Id { get; init; }
    public PaymentConcern Concern { get; init; }
    public MemberId? MemberId { get; init; }
    public PaymentId? PaymentId { get; init; }
    public Instant At { get; init; }
    /// <summary>What is known of it, in a sentence.</summary>
    public string Text { get; init; } = "";
    /// <summary>The same thing told twice is noted once.</summary>
    public string Key { get; init; } = "";
    public Instant? SettledAt { get; set; }
    public string? SettledBy { get; set; }
}
