using System.Text.Json.Serialization;
using BrightCircle.Core.Time;
using NodaTime;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Offer;

/// <summary>How a plan is paid for at one price, and for how long that opens it. Terms never change: another amount is another price.</summary>
[JsonDerivedType(typeof(Free), "free")]
[JsonDerivedType(typeof(OnePayment), "once")]
[JsonDerivedType(typeof(Instalments), "instalments")]
[JsonDerivedType(typeof(Recurring), "recurring")]
public abstract record PriceTerms
{
    private PriceTerms() { }

    /// <summary>Nothing is ever charged; no card is asked for.</summary>
    public sealed record Free : PriceTerms;

    /// <summary>One payment.</summary>
    public sealed record OnePayment(Money Amount) : PriceTerms;

    /// <summary>The same amount a fixed number of times, from the start (or the end of the trial) on.</summary>
    /// <param name="Count">How many, from 2 to 60; a different first payment is one of them.</param>
    /// <param name="First">What the first of them costs instead; null for the same.</param>
    public sealed record Instalments(Money Amount, int Count, Period Every, Trial? Trial = null, Money? First = null) : PriceTerms;

    /// <summary>The amount at the start (or after the trial) and again every period, until the member leaves.</summary>
    /// <param name="First">What the first of them costs instead; null for the same.</param>
    public sealed record Recurring(Money Amount, Period Every, Trial? Trial = null, Money? First = null) : PriceTerms;

    /// <summary>Asked once, with the first charge; null for none.</summary>
    public Money? JoiningFee { get; init; }
    /// <summary>A lower amount for those who join in a window; null for none.</summary>
    public Sale? Sale { get; init; }
    /// <summary>How long it stays open; null for good, and with payments that recur for as long as they go on.</summary>
    public AccessLength? Access { get; init; }
    /// <summary>For how many others it is beside the buyer; null for one person.</summary>
    public int? Seats { get; init; }

    /// <summary>A card is asked for at the start: for a payment, or to be kept for one.</summary>
    [JsonIgnore] public bool NeedsCard => this is not Free;

    [JsonIgnore]
    public Trial? TrialOrNull => this switch
    {
        Free or OnePayment => null,
        Instalments i => i.Trial,
        Recurring r => r.Trial,
        _ => throw new InvalidOperationException($"No such terms: {this}"),
    };

    /// <summary>What the first normal payment costs instead; null for the same as the others.</summary>
    [JsonIgnore]
    public Money? FirstOrNull => this switch
    {
        Free or OnePayment => null,
        Instalments i => i.First,
        Recurring r => r.First,
        _ => throw new InvalidOperationException($"No such terms: {this}"),
    };

    /// <summary>The same without the trial, for those whom it isn't for.</summary>
    public PriceTerms WithoutTrial() => this switch
    {
        Free or OnePayment => this,
        Instalments i => i with { Trial = null },
        Recurring r => r with { Trial = null },
        _ => throw new InvalidOperationException($"No such terms: {this}"),
    };

    /// <summary>
    /// The same for somebody who changes to it from another: what is meant for a beginning (trial, joining fee, another first payment, a sale of the first
    /// payment) isn't for them.
    /// </summary>
    public PriceTerms ForAChange()
    {
        PriceTerms terms = WithoutTrial() switch
        {
            Instalments i => i with { First = null },
            Recurring r => r with { First = null },
            Free or OnePayment => this,
            _ => throw new InvalidOperationException($"No such terms: {this}"),
        };
        return terms with { JoiningFee = null, Sale = terms.Sale is { All: true } sale ? sale : null };
    }

    /// <summary>The amount of a normal payment; null for free.</summary>
    [JsonIgnore]
    public Money? Headline => this switch
    {
        Free => null,
        OnePayment p => p.Amount,
        Instalments i => i.Amount,
        Recurring r => r.Amount,
        _ => throw new InvalidOperationException($"No such terms: {this}"),
    };

    /// <summary>The amount of a normal payment for whoever joins at a moment: a sale's, while it lasts.</summary>
    public Money? HeadlineAt(Instant moment) => SaleAt(moment)?.Amount ?? Headline;

    /// <summary>The sale that runs at a moment; null where none does.</summary>
    public Sale? SaleAt(Instant moment) => Sale is { } sale && sale.From <= moment && moment < sale.Until ? sale : null;

    /// <summary>What it costs more than other terms each time, where both are paid in the same rhythm and currency; null where they can't be
    /// compared.</summary>
    public Money? MoreThan(PriceTerms other) => this is Recurring r && other is Recurring o && r.Every == o.Every && r.Amount.Currency == o.Amount.Currency
        ? r.Amount - o.Amount : null;

    /// <summary>How often the headline is paid; null where it is paid once or never.</summary>
    [JsonIgnore]
    public Period? Interval => this switch
    {
        Free or OnePayment => null,
        Instalments i => i.Every,
        Recurring r => r.Every,
        _ => throw new InvalidOperationException($"No such terms: {this}"),
    };

    /// <summary>How many normal payments there are; null where they go on until the member leaves.</summary>
    [JsonIgnore]
    public int? Times => this switch
    {
        Free => 0,
        OnePayment => 1,
        Instalments i => i.Count,
        Recurring => null,
        _ => throw new InvalidOperationException($"No such terms: {this}"),
    };

    /// <summary>Normal payment <paramref name="n"/>, from 0, for whoever agreed at a moment; without fee, coupon and credit.</summary>
    /// <exception cref="InvalidOperationException">Nothing is paid.</exception>
    internal Money Payment(int n, Instant agreed)
    {
        var normal = Headline ?? throw new InvalidOperationException("Nothing is paid for it.");
        var sale = SaleAt(agreed);
        if (n == 0) return sale is { All: false } ? sale.Amount : FirstOrNull ?? sale?.Amount ?? normal;
        return sale is { All: true } ? sale.Amount : normal;
    }
}

/// <summary>A first stretch at its own price (0 or more) before the normal payments begin.</summary>
public sealed record Trial(Period Length, Money Price);

/// <summary>A lower amount for whoever joins in a window.</summary>
/// <param name="From">The first moment, UTC.</param>
/// <param name="Until">The first moment after it, UTC.</param>
/// <param name="All">For every normal payment of whoever joins then; otherwise for their first one.</param>
public sealed record Sale(Money Amount, Instant From, Instant Until, bool All);

/// <summary>How long something stays open, counted apart from how long it is paid.</summary>
[JsonDerivedType(typeof(For), "for")]
[JsonDerivedType(typeof(UntilDay), "until")]
public abstract record AccessLength
{
    private AccessLength() { }
    /// <summary>For a calendar length from the start on.</summary>
    public sealed record For(Period Length) : AccessLength;
    /// <summary>To the end of a day, the same for everybody.</summary>
    public sealed record UntilDay(LocalDate Last) : AccessLength;

    /// <summary>The first moment at which it isn't open any more, UTC.</summary>
    public Instant EndFrom(Instant start, SiteCalendar calendar) => this switch
    {
        For f => calendar.Boundary(start, f.Length, 1),
        UntilDay u => calendar.At(u.Last.PlusDays(1).AtMidnight()),
        _ => throw new InvalidOperationException($"No such length: {this}"),
    };
}
