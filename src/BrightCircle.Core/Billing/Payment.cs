using NodaTime;

namespace BrightCircle.Core.Billing;

public enum PaymentState { Paid, Failed, PartlyRefunded, Refunded, ChargedBack }

/// <summary>One asking of a card for money, and what came of it. Refunds are facts of their own; the sums here follow them.</summary>
public sealed class Payment
{
    public PaymentId Id { get; init; }
    public MemberId MemberId { get; init; }
    public HoldingId HoldingId { get; init; }
    public PriceId PriceId { get; init; }
    public Money Amount { get; init; }
    public PaymentPurpose Purpose { get; init; }
    public ChargeOutcome Outcome { get; init; }
    /// <summary>When it was asked, UTC.</summary>
    public Instant At { get; init; }
    /// <summary>The stretch it pays for; the end is null for ever.</summary>
    public Instant PeriodFrom { get; init; }
    public Instant? PeriodTo { get; init; }
    /// <summary>Which boundary of the holding's periods it is for: 0 is the anchor's.</summary>
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

    /// <summary>What went back so far, in minor units; never more than was paid.</summary>
    public long RefundedMinor { get; private set; }
    public bool ChargedBack { get; private set; }

    public bool IsPaid => Outcome == ChargeOutcome.Approved;
    public Money Refunded => new(RefundedMinor, Amount.Currency);
    public Money Refundable => IsPaid ? Amount - Refunded : Money.Zero(Amount.Currency);
    /// <summary>The receipt's number: the payment's own, with the year it was paid in.</summary>
    public string ReceiptNumber(int year) => $"{year}-{Id.Value:D6}";

    public PaymentState State => !IsPaid ? PaymentState.Failed
        : ChargedBack ? PaymentState.ChargedBack
        : RefundedMinor == 0 ? PaymentState.Paid
        : RefundedMinor == Amount.Minor ? PaymentState.Refunded : PaymentState.PartlyRefunded;

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
    public PaymentId PaymentId { get; init; }
    public MemberId MemberId { get; init; }
    public LedgerAccount Account { get; init; }
    public Money Amount { get; init; }
    public Instant At { get; init; }
    public string Text { get; init; } = "";
}
