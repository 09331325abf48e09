using BrightCircle.App.Billing;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;

namespace BrightCircle.Web.Parts;

/// <summary>A receipt as it is shown and printed.</summary>
public sealed record ReceiptView(Receipt Receipt, BrightPage Page)
{
    public Payment Payment => Receipt.Payment;
    public Agreement Agreement => Receipt.Agreement;
    /// <summary>The order it came with; null for what was charged later.</summary>
    public Checkout? Order => Receipt.Order;
    public string Name => Receipt.Name;
    public string Email => Receipt.Email;
    public IReadOnlyList<Refund> Refunds => Receipt.Refunds;
}
