using BrightCircle.Core;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Data;

public enum CheckoutPurpose { Join, ChangeCard, ConfirmPayment }

public enum CheckoutState { Open, Completed }

/// <summary>Somebody on the way through the Till, for a plan or with another card.</summary>
public sealed class Checkout
{
    public long Id { get; init; }
    public CheckoutPurpose Purpose { get; init; }
    public PriceId? PriceId { get; init; }
    public HoldingId? HoldingId { get; set; }
    public MemberId? MemberId { get; set; }
    public string Email { get; init; } = "";
    public string Name { get; init; } = "";
    public Instant CreatedAt { get; init; }
    /// <summary>Whether the price's trial applies: it is for those who never held the plan.</summary>
    public bool WithTrial { get; init; }
    /// <summary>The coupon that was typed in and fits; null for none.</summary>
    public AppliedCoupon? Coupon { get; set; }
    /// <summary>When it went to be paid, UTC: a sale counts as it was then.</summary>
    public Instant? AgreedAt { get; set; }
    /// <summary>For a payment in grace: which charge it pays.</summary>
    public int Turn { get; init; }
    public PaymentPurpose? ChargePurpose { get; init; }
    public Money? Asked => AskedMinor is { } m && AskedCurrency is { } c ? new(m, new(c)) : null;
    /// <summary>What the payment service's page asks for, in minor units; null where it only keeps a card.</summary>
    public long? AskedMinor { get; set; }
    public string? AskedCurrency { get; set; }
    /// <summary>SHA-256 of the secret that the browser which began it holds; only that browser is signed in at its end, once. Null when it was used.</summary>
    public string? BrowserHash { get; set; }
    /// <summary>The piece whose doorway led here; null where none did.</summary>
    public PieceId? FromPieceId { get; init; }
    public string? Session { get; set; }
    public CheckoutState State { get; set; }
    public Instant? CompletedAt { get; set; }
    /// <summary>Completed, but nothing was joined, and why: a trial that was had already.</summary>
    public string? RefusedBecause { get; set; }
    /// <summary>It made the account, so the browser that did it may be signed in.</summary>
    public bool MadeAccount { get; set; }
}

/// <summary>A card kept by the payment service for renewals; the newest of a member counts.</summary>
public sealed class Card
{
    public long Id { get; init; }
    public MemberId MemberId { get; init; }
    public string Token { get; init; } = "";
    public string Label { get; init; } = "";
    public Instant AddedAt { get; init; }
}

/// <summary>
/// A charge that is being asked: written down before the payment service is, in a transaction of its own, and taken away by the one that records the answer.
/// While it is there the answer is unknown, and settled before anything else is done to the holding.
/// </summary>
public sealed class ChargeAsk
{
    /// <summary>The idempotency key it is asked under.</summary>
    public string Key { get; init; } = "";
    public HoldingId HoldingId { get; init; }
    public MemberId MemberId { get; init; }
    public PaymentPurpose Purpose { get; init; }
    public int Turn { get; init; }
    public int Attempt { get; init; }
    public Instant DueAt { get; init; }
    public Instant? PaidThrough { get; init; }
    public Money Amount { get; init; }
    public string CardToken { get; init; } = "";
    public string CardLabel { get; init; } = "";
    public string Text { get; init; } = "";
    public Instant At { get; init; }
    /// <summary>What it is made of.</summary>
    public IReadOnlyList<ChargeLine> Lines { get; init; } = [];
    /// <summary>The change that takes place where it is approved; null where it charges what the holding owes.</summary>
    public ChangeOrder? Change { get; init; }
    public Charge Charge => Lines.Count > 0 ? new(Purpose, Turn, DueAt, PaidThrough, Lines) : new(Purpose, Turn, DueAt, PaidThrough, Amount);
}

/// <summary>A change to another price that waits for its money: what it is worked out from, so that it comes out the same.</summary>
/// <param name="New">The number of the holding it makes.</param>
public sealed record ChangeOrder(HoldingId New, PriceId To);

/// <summary>A use of a coupon: kept for a checkout that goes to be paid, and used once that is completed.</summary>
public sealed class CouponUse
{
    public long Id { get; init; }
    public long CouponId { get; init; }
    public long CheckoutId { get; init; }
    /// <summary>Of whoever uses it, as addresses are compared.</summary>
    public string Email { get; init; } = "";
    public MemberId? MemberId { get; set; }
    public HoldingId? HoldingId { get; set; }
    /// <summary>When it was kept for them, UTC.</summary>
    public Instant At { get; set; }
    /// <summary>When it was used; null as long as it is only kept.</summary>
    public Instant? UsedAt { get; set; }

    /// <summary>So long a use is kept for somebody who went to be paid.</summary>
    public static Duration KeptFor { get; } = Duration.FromHours(24);
}

/// <summary>The last receipt number of a year.</summary>
public sealed class ReceiptCounter
{
    public int Year { get; init; }
    public int Last { get; set; }
}
