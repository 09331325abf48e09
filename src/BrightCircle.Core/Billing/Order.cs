using BrightCircle.Core.Offer;

namespace BrightCircle.Core.Billing;

/// <summary>A part of an order: a plan at a price, on the terms it is agreed to.</summary>
/// <param name="IsExtra">It was offered beside what the order is about.</param>
public sealed record OrderPart(PlanId Plan, PriceId Price, Agreement Agreement, bool IsExtra)
{
    /// <summary>What is charged with the order; null where nothing is.</summary>
    public Charge? Due => Agreement.First;
}

/// <summary>What one purchase asks for when it is made: the first charge of each thing in it, paid together.</summary>
public sealed record Order
{
    /// <exception cref="ArgumentException">No part, or parts in several currencies.</exception>
    public Order(IReadOnlyList<OrderPart> parts)
    {
        if (parts.Count == 0) throw new ArgumentException("An order is of something.", nameof(parts));
        if (parts.Where(p => p.Due is not null).Select(p => p.Due!.Amount.Currency).Distinct().Count() > 1)
            throw new ArgumentException("The parts of an order are in one currency.", nameof(parts));
        Parts = parts;
    }

    /// <summary>What it is about, then the extras.</summary>
    public IReadOnlyList<OrderPart> Parts { get; }

    /// <summary>What is charged with it; null where nothing is, because it is free or only a card is kept.</summary>
    public Money? Due
    {
        get
        {
            Money? sum = null;
            foreach (var p in Parts)
                if (p.Due?.Amount is { IsZero: false } amount) sum = sum is { } s ? s + amount : amount;
            return sum;
        }
    }

    /// <summary>A card has to be there: for a payment now, or to be kept for one.</summary>
    public bool NeedsCard => Due is not null || Parts.Any(p => p.Agreement.Terms.NeedsCard);

    /// <summary>
    /// What of one taking belongs to each part: what the part asked for. Where something else came in than was asked, the first part that asked carries the
    /// difference.
    /// </summary>
    /// <param name="taken">What came in; null where it isn't known.</param>
    /// <returns>In the order of the parts; null where it isn't known, or nothing was asked for the part.</returns>
    public IReadOnlyList<Money?> Split(Money? taken)
    {
        var parts = Parts.Select(p => p.Due?.Amount is { IsZero: false } a ? a : (Money?)null).ToArray();
        if (taken is not { } came || Due is not { } due) return new Money?[parts.Length];
        var first = Array.FindIndex(parts, p => p is not null);
        if (came == due) return parts;
        // Of another currency nothing can be shared out: all of it stands with the first.
        if (came.Currency != due.Currency) return [.. parts.Select((p, i) => i == first ? came : p)];
        return [.. parts.Select((p, i) => i == first ? p!.Value + came - due : p)];
    }
}
