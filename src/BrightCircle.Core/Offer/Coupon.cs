using System.Text.Json.Serialization;
using NodaTime;

namespace BrightCircle.Core.Offer;

/// <summary>What a coupon takes off a payment.</summary>
[JsonDerivedType(typeof(Percent), "percent")]
[JsonDerivedType(typeof(Amount), "amount")]
public abstract record CouponOff
{
    private CouponOff() { }
    /// <param name="Of100">Whole percent, from 1 to 100.</param>
    public sealed record Percent(int Of100) : CouponOff;
    public sealed record Amount(Money Off) : CouponOff;

    /// <summary>What goes off an amount: rounded once, half away from zero, and never more than the amount.</summary>
    /// <exception cref="InvalidOperationException">Another currency.</exception>
    public Money From(Money amount) => this switch
    {
        Percent p => amount.Times(p.Of100, 100),
        Amount a => a.Off < amount ? a.Off : amount,
        _ => throw new InvalidOperationException($"No such kind: {this}"),
    };
}

/// <summary>A coupon as it was agreed to with a price: it stays so, whatever becomes of the coupon.</summary>
/// <param name="Payments">For how many normal payments, from the first on; null for all. A trial and a joining fee aren't lowered.</param>
public sealed record AppliedCoupon(long Coupon, string Code, CouponOff Off, int? Payments)
{
    /// <summary>What goes off normal payment <paramref name="n"/>, from 0.</summary>
    public Money OffPayment(int n, Money amount) => Payments is null || n < Payments ? Off.From(amount) : Money.Zero(amount.Currency);
}

/// <summary>Why a coupon can't be used.</summary>
public enum CouponRefusal { NotYet, Over, UsedUp, UsedByThem, OnlyNewcomers, NotForThem, NotForThisPrice, OtherCurrency, NothingToLower }

/// <summary>A coupon: what it takes off, of what, for whom, when and how often.</summary>
public sealed class Coupon
{
    public long Id { get; init; }
    /// <summary>As it is typed in, in capitals without spaces; unique.</summary>
    public string Code { get; init; } = "";
    /// <summary>For the team: what it is for.</summary>
    public string Note { get; set; } = "";
    public required CouponOff Off { get; init; }
    /// <summary>For how many normal payments; null for all.</summary>
    public int? Payments { get; init; }
    /// <summary>The plans it is for; none for all.</summary>
    public IReadOnlyList<PlanId> Plans { get; set; } = [];
    /// <summary>The prices it is for; none for all of its plans.</summary>
    public IReadOnlyList<PriceId> Prices { get; set; } = [];
    /// <summary>The first moment, UTC; null for at once.</summary>
    public Instant? From { get; set; }
    /// <summary>The first moment after it, UTC; null for without end.</summary>
    public Instant? Until { get; set; }
    /// <summary>How often in all; null for without limit.</summary>
    public int? Limit { get; set; }
    /// <summary>How often by one person; null for without limit.</summary>
    public int? LimitEach { get; set; }
    /// <summary>Only for those who never bought anything.</summary>
    public bool OnlyNewcomers { get; set; }
    /// <summary>Only for those who belong to this audience when they use it; null for anybody.</summary>
    public AudienceId? AudienceId { get; set; }
    public bool IsClosed { get; set; }
    public Instant CreatedAt { get; init; }

    /// <summary>A code as it is compared: capitals, without any spaces or dashes of a line's end.</summary>
    public static string Normalise(string? typed) =>
        new([.. (typed ?? "").Normalize(System.Text.NormalizationForm.FormKC).Where(c => !char.IsWhiteSpace(c) && !char.IsControl(c))
            .Select(char.ToUpperInvariant)]);

    public AppliedCoupon Applied => new(Id, Code, Off, Payments);

    /// <summary>Whether anybody at all could use it for a price now, whoever they are.</summary>
    public bool Fits(Price price, Instant moment) => Refuses(price, moment, used: 0, usedByThem: 0, boughtBefore: false, belongs: true) is null;

    /// <summary>Whether somebody can use it for a price now; null if so.</summary>
    /// <param name="used">How often it was used or is being used, in all.</param>
    /// <param name="usedByThem">How often by them.</param>
    /// <param name="boughtBefore">Whether they ever bought anything.</param>
    /// <param name="belongs">Whether they belong to its audience; where it has none that isn't asked.</param>
    public CouponRefusal? Refuses(Price price, Instant moment, int used, int usedByThem, bool boughtBefore, bool belongs)
    {
        if (price.Terms.Headline is not { } amount) return CouponRefusal.NothingToLower;
        if (IsClosed || Until is { } until && moment >= until) return CouponRefusal.Over;
        if (From is { } from && moment < from) return CouponRefusal.NotYet;
        if (Plans.Count > 0 && !Plans.Contains(price.PlanId) || Prices.Count > 0 && !Prices.Contains(price.Id)) return CouponRefusal.NotForThisPrice;
        if (Off is CouponOff.Amount off && off.Off.Currency != amount.Currency) return CouponRefusal.OtherCurrency;
        if (OnlyNewcomers && boughtBefore) return CouponRefusal.OnlyNewcomers;
        if (AudienceId is not null && !belongs) return CouponRefusal.NotForThem;
        if (LimitEach is { } each && usedByThem >= each) return CouponRefusal.UsedByThem;
        return Limit is { } limit && used >= limit ? CouponRefusal.UsedUp : null;
    }
}

public static class CouponRefusals
{
    /// <summary>As whoever typed it in reads it.</summary>
    public static string Words(this CouponRefusal refusal) => refusal switch
    {
        CouponRefusal.NotYet => "This coupon isn’t valid yet.",
        CouponRefusal.Over => "This coupon isn’t valid any more.",
        CouponRefusal.UsedUp => "This coupon has been used up.",
        CouponRefusal.UsedByThem => "You’ve used this coupon already.",
        CouponRefusal.OnlyNewcomers => "This coupon is for people who buy here for the first time.",
        CouponRefusal.NotForThem => "This coupon is for some of the members here. If you are one of them, sign in first.",
        CouponRefusal.NotForThisPrice => "This coupon is for something else.",
        CouponRefusal.OtherCurrency => "This coupon is in another currency.",
        CouponRefusal.NothingToLower => "There is nothing to pay that a coupon could lower.",
    };
}
