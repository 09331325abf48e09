using System.Text.Json.Serialization;
using BrightCircle.Core.Time;

namespace BrightCircle.Core.Billing;

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

    /// <summary>What is charged at the very start: the trial's price, the first payment, or nothing.</summary>
    public Money? DueAtStart => this switch
    {
        Free => null,
        OnePayment p => p.Amount,
        Recurring { Trial: { } trial } => trial.Price,
        Recurring r => r.Amount,
        _ => throw new InvalidOperationException($"No such terms: {this}"),
    };
}

/// <summary>A first stretch at its own price (0 or more) before the normal payments begin.</summary>
public sealed record Trial(Period Length, Money Price);
