namespace BrightCircle.Core.Offer;

/// <summary>A one-off plan offered with a tick box where a price is paid.</summary>
/// <param name="Price">One payment, of another plan.</param>
/// <param name="Words">Why it goes well with it; empty for nothing.</param>
public sealed record CheckoutExtra(PriceId Price, string Words = "")
{
    public const int LongestWords = 300;

    /// <summary>Why a price can't be offered beside another; null where it can.</summary>
    public static string? Refuses(Price extra, Plan plan, Price beside) =>
        extra.PlanId == beside.PlanId ? "An extra is something else than what it stands beside."
        : plan.IsTier ? "An extra is a pass: something bought once, beside what is joined."
        : extra.Terms is not PriceTerms.OnePayment ? "An extra is paid once."
        : extra.Terms.Seats is not null ? "A price for a group isn’t an extra."
        : beside.Terms.Headline is { } main && main.Currency != extra.Terms.Headline!.Value.Currency ? "Both are paid in one currency." : null;
}
