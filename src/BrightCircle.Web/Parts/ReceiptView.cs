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
    /// <summary>All its words.</summary>
    public ReceiptWords Words
    {
        get
        {
            var (p, site, now) = (Payment, Page.Now.Site!, Page.Now);
            var plan = now.PlanName(now.PriceById[p.PriceId].PlanId);
            var what = plan + (p.PeriodTo is { } to && to > p.PeriodFrom ? $", {Page.FullDay(p.PeriodFrom)} to {Page.FullDay(to)}" : "");
            var facts = new List<(string, string)>
            {
                ("For", string.Join(", ", [Name, Email, .. Receipt.BillingAddress.Split('\n', StringSplitOptions.RemoveEmptyEntries)])),
                 ("Paid on", Page.FullDay(p.At)), (p.Way == PayWay.Card ? "From the card" : "Came by", p.CardLabel),
            };
            if (Order is { } order)
                facts.Add(("Agreed", Page.FullDay(order.AgreedAt ?? order.CreatedAt)
                    + (order.TermsVersion is { } v ? $", with version {v} of the terms" : "")));
            var lines = (p.Lines.Count > 0 ? p.Lines : [new ChargeLine(ChargeLineKind.Plan, p.Amount)])
                .Select(l => (l.Words(Receipt.Order?.Voucher is null ? what : $"Voucher for {plan}", Agreement), Page.Money(l.Amount)))
                .Concat(Refunds.Select(r => ($"{(r.IsChargeback ? "Charged back" : "Given back")} on {Page.FullDay(r.At)}", Page.Money(-r.Amount)))).ToList();
            if (!p.Credited.IsZero) lines.Add(("Put to your credit, for the next payments", Page.Money(-p.Credited)));
            return new(p.Receipt, site.BusinessName.Length > 0 ? site.BusinessName : site.Name, site.BusinessAddress, site.HelpAddress, facts, lines,
                (Refunds.Count == 0 && p.Credited.IsZero ? "Paid" : "Left", Page.Money(p.Refundable)), now.Culture.Name);
        }
    }

    public string Name => Receipt.Name;
    public string Email => Receipt.Email;
    public IReadOnlyList<Refund> Refunds => Receipt.Refunds;
}
