using System.Text.Json.Serialization;
using BrightCircle.Core.Time;

namespace BrightCircle.Core.Offer;

/// <summary>How a plan is paid for at one price.</summary>
[JsonDerivedType(typeof(Free), "free")]
[JsonDerivedType(typeof(OnePayment), "once")]
[JsonDerivedType(typeof(Recurring), "recurring")]
public abstract record PriceTerms
{
    private PriceTerms() { }

    /// <summary>Nothing is ever charged; no card is asked for.</summary>
    public sealed record Free : PriceTerms;

    /// <summary>One payment, access for ever.</summary>
    public sealed record OnePayment(Money Amount) : PriceTerms;

    /// <summary>The amount at the start (or after the trial) and again every period, until the member leaves.</summary>
    public sealed record Recurring(Money Amount, Period Every, Trial? Trial = null) : PriceTerms;

    /// <summary>A card is asked for at the start: for a payment, or to be kept for one.</summary>
    [JsonIgnore] public bool NeedsCard => this is not Free;

    /// <summary>The same without the trial, for those whom it isn't for.</summary>
    public PriceTerms WithoutTrial() => this is Recurring { Trial: not null } r ? r with { Trial = null } : this;

    [JsonIgnore] public Trial? TrialOrNull => (this as Recurring)?.Trial;

    /// <summary>The amount that stands on a price card: the one payment, or what each period costs; null for free.</summary>
    [JsonIgnore]
    public Money? Headline => this switch
    {
        Free => null,
        OnePayment p => p.Amount,
        Recurring r => r.Amount,
        _ => throw new InvalidOperationException($"No such terms: {this}"),
    };

    /// <summary>What it costs more than other terms each time, where both are paid in the same rhythm and currency; null where they can't be
    /// compared.</summary>
    public Money? MoreThan(PriceTerms other) => this is Recurring r && other is Recurring o && r.Every == o.Every && r.Amount.Currency == o.Amount.Currency
        ? r.Amount - o.Amount : null;

    /// <summary>How often the headline is paid; null where it is paid once or never.</summary>
    [JsonIgnore] public Period? Interval => (this as Recurring)?.Every;
}

/// <summary>A first stretch at its own price (0 or more) before the normal payments begin.</summary>
public sealed record Trial(Period Length, Money Price);
