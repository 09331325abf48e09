using BrightCircle.App.Billing;
using BrightCircle.Data;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

/// <summary>An order as it is shown: to the buyer, to the team, and right after it was placed.</summary>
public sealed record OrderView(OrderFile File, BrightPage Page)
{
    /// <summary>What is open until the money is here.</summary>
    public string Meanwhile(bool toTeam) => File.Checkout switch
    {
        { HoldingId: null, Voucher: null } => toTeam ? "It opens when you note the money." : "It opens as soon as the money is here; we write to you then.",
        { HoldingId: null } => toTeam ? "The voucher is made when you note the money."
            : "Your voucher is made as soon as the money is here; we write to you then.",
        { Purpose: CheckoutPurpose.Join } => toTeam ? "It is open already, until then." : "It is open for you already, until then.",
        { Purpose: CheckoutPurpose.ConfirmPayment } => toTeam ? "What they hold goes on meanwhile." : "What you hold goes on meanwhile.",
        var other => throw new InvalidOperationException($"Nothing waits for the money of {other.Purpose}."),
    };

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
