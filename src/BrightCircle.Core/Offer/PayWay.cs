namespace BrightCircle.Core.Offer;

/// <summary>How money comes in.</summary>
public enum PayWay
{
    /// <summary>A card, at the payment service.</summary>
    Card,
    /// <summary>A transfer to the site's bank account, with a reference.</summary>
    Transfer,
    /// <summary>Cash, or something else that the team takes and notes.</summary>
    Elsewhere,
}

/// <summary>A way to pay as a site offers it.</summary>
/// <param name="Name">As buyers read it.</param>
/// <param name="Words">What to do, for a buyer who chose it: the account to transfer to, or where to pay.</param>
/// <param name="Days">How many calendar days the money may take before the order is given up; 1 to 60. Nothing for a card.</param>
/// <param name="OpensAtOnce">What was ordered is open while the money is on its way.</param>
public sealed record WayOffered(PayWay Way, string Name, string Words = "", int Days = 14, bool OpensAtOnce = false)
{
    /// <summary>Where it is offered, by <see cref="Offer.Countries"/>; empty for everywhere.</summary>
    public IReadOnlyList<string> Countries { get; init; } = [];

    /// <summary>Whether it is offered to somebody who lives there; of whom that isn't known yet, only what is offered everywhere.</summary>
    public bool IsFor(string? country) => Countries.Count == 0 || country is not null && Countries.Contains(country);

    public const int LongestName = 60, LongestWords = 600, MostDays = 60;

    /// <summary>What a site has that set nothing up: the card.</summary>
    public static IReadOnlyList<WayOffered> Usual { get; } = [new(PayWay.Card, "Card")];
}
