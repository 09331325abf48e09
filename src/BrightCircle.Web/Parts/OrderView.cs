using BrightCircle.App.Billing;
using BrightCircle.Data;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

/// <summary>An order as it is shown: to the buyer, to the team, and right after it was placed.</summary>
public sealed record OrderView(OrderFile File, BrightPage Page)
{
    /// <summary>How it stands, in a sentence.</summary>
    public string Stands
    {
        get
        {
            var c = File.Checkout;
            return c.State switch
            {
                CheckoutState.Open => $"Begun on {Page.FullDay(c.CreatedAt)}, and not gone through with.",
                CheckoutState.Placed => File.Price is null ? $"Asked for on {Page.FullDay(c.PlacedAt!.Value)}."
                    : $"Ordered on {Page.FullDay(c.PlacedAt!.Value)}; its money is on its way.",
                CheckoutState.Completed => c.RefusedBecause ?? $"Done on {Page.FullDay(c.CompletedAt!.Value)}.",
                CheckoutState.Expired => $"Given up on {Page.FullDay(c.OpenUntil!.Value)}: the money didn’t come.",
                CheckoutState.CalledOff => File.Price is null ? "Nothing is asked for it any more." : "Called off.",
                _ => throw new InvalidOperationException($"No such state: {c.State}"),
            };
        }
    }
}
