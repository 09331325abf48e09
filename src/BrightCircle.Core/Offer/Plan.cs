using BrightCircle.Core.Billing;
using NodaTime;

namespace BrightCircle.Core.Offer;

/// <summary>A tier: a level of ongoing membership with its promise. Tiers are ranked; 1 is the lowest.</summary>
public sealed class Plan
{
    public PlanId Id { get; init; }
    public string Name { get; set; } = "";
    public int Rank { get; set; }
    public string Description { get; set; } = "";
    public IReadOnlyList<Inclusion> Promise { get; set; } = [];
    public Instant CreatedAt { get; init; }
}

/// <summary>One way to pay for a plan. Its terms never change once it exists: an archived price stays with those who have it.</summary>
public sealed class Price
{
    public PriceId Id { get; init; }
    public PlanId PlanId { get; init; }
    public string Name { get; set; } = "";
    /// <summary>The words on the button that leads to it.</summary>
    public string Button { get; set; } = "";
    public required PriceTerms Terms { get; init; }
    /// <summary>The last part of its join link: short, unique, in lower case.</summary>
    public string Code { get; init; } = "";
    public Instant CreatedAt { get; init; }
    /// <summary>From then on nobody can newly take it; null while it is on offer.</summary>
    public Instant? ArchivedAt { get; set; }
    public bool OnOffer => ArchivedAt is null;
}
