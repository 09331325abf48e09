using BrightCircle.Core;
using BrightCircle.Core.Offer;
using NodaTime;

namespace BrightCircle.Data;

public enum CheckoutPurpose { Join, ChangeCard, ConfirmPayment }

public enum CheckoutState
{
    /// <summary>Being looked over, or at the payment service's page.</summary>
    Open,
    Completed,
    /// <summary>Ordered, and the money is on its way by another way than the card.</summary>
    Placed,
    /// <summary>The money didn't come in time.</summary>
    Expired,
    /// <summary>Given up by the buyer or the team.</summary>
    CalledOff,
}

/// <summary>
/// An order, from its beginning on: somebody on the way to a plan, with another card, or to pay what is open. What it asks for is worked out by
/// <see cref="Core.Billing.Order"/>.
/// </summary>
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
    /// <summary>What is bought beside it: prices.</summary>
    public IReadOnlyList<PriceId> Extras { get; set; } = [];
    /// <summary>The owner's terms of sale that were agreed to, and in which version; null where there were none.</summary>
    public long? TermsPageId { get; set; }
    public int? TermsVersion { get; set; }
    /// <summary>Where the buyer lives, by <see cref="Countries"/>; null where nobody asked.</summary>
    public string? Country { get; set; }
    /// <summary>How it is paid.</summary>
    public PayWay Way { get; set; }
    /// <summary>What a transfer names: <see cref="Core.Billing.CreditorReference"/>. Null for a card.</summary>
    public string? Reference { get; set; }
    public Instant? PlacedAt { get; set; }
    /// <summary>Until when the money of a placed order is waited for.</summary>
    public Instant? OpenUntil { get; set; }
    public Instant? RemindedAt { get; set; }
    /// <summary>Said that they may be reminded by one letter, if they go away half-way.</summary>
    public bool MayRemind { get; init; }
    /// <summary>For a voucher: whom it is for; null where the buyer buys for themselves.</summary>
    public VoucherWish? Voucher { get; set; }
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

/// <summary>Whom a voucher is for.</summary>
/// <param name="Name">Their name; empty where the buyer writes it in by hand.</param>
/// <param name="Email">Where it is sent; null where the buyer hands it over.</param>
/// <param name="On">The day on which it is sent; null for at once.</param>
public sealed record VoucherWish(string Name, string Words, string? Email, LocalDate? On);

/// <summary>
/// A page of the payment service that was opened for a checkout. Several can stand open in several windows, each with the choice that was made when it was
/// opened; which of them is paid decides.
/// </summary>
public sealed class CheckoutSession
{
    public string Session { get; init; } = "";
    public long CheckoutId { get; init; }
    public Instant OpenedAt { get; set; }
    public long? AskedMinor { get; init; }
    public string? AskedCurrency { get; init; }
    public AppliedCoupon? Coupon { get; init; }
    public IReadOnlyList<PriceId> Extras { get; init; } = [];
}

/// <summary>The owner's terms of sale as they were when somebody agreed to them.</summary>
public sealed class TermsText
{
    public long PageId { get; init; }
    public int Version { get; init; }
    public string Title { get; init; } = "";
    public IReadOnlyList<Core.Content.Block> Sections { get; init; } = [];
    /// <summary>When they were written.</summary>
    public Instant From { get; init; }
}

/// <summary>A card kept by the payment service for renewals; the newest of a member counts.</summary>
public sealed class Card
{
    public long Id { get; init; }
    public MemberId MemberId { get; init; }
    public string Token { get; init; } = "";
    public string Label { get; init; } = "";
    public Instant AddedAt { get; init; }
    /// <summary>The last day it is good for, as the payment service says; null where it doesn't.</summary>
    public LocalDate? GoodUntil { get; init; }
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
    /// <summary>Until when it is kept, UTC.</summary>
    public Instant Until { get; set; }
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
