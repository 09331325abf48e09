using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Billing;

/// <param name="Payments">The newest first.</param>
/// <param name="CardLabel">The card that is asked; null for none.</param>
/// <param name="Waiting">What they ordered, or are asked for, by another way than the card.</param>
/// <param name="Vouchers">What they bought for others.</param>
/// <param name="BillingAddress">What stands with their name on receipts.</param>
public sealed record OwnMoney(IReadOnlyList<Payment> Payments, string? CardLabel, IReadOnlyList<Checkout> Waiting, IReadOnlyList<KeyLink> Vouchers,
    string BillingAddress);

/// <summary>A member’s payments, their card, and what waits to be paid.</summary>
public sealed class OwnAccount(BrightContext db)
{
    public async Task<OwnMoney> Do(MemberId member, int most, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var payments = trip.List(db.Payments.AsNoTracking().Where(p => p.MemberId == member).OrderByDescending(p => p.At).Take(most));
        var card = trip.First(db.Cards.AsNoTracking().AskedOf(member));
        var waiting = trip.List(db.Checkouts.AsNoTracking().Where(c => c.MemberId == member && c.State == CheckoutState.Placed).OrderBy(c => c.OpenUntil));
        var vouchers = trip.List(db.KeyLinks.AsNoTracking().Where(k => k.OrderId != null && db.Checkouts.Any(c => c.Id == k.OrderId && c.MemberId == member))
            .OrderByDescending(k => k.MadeAt).Take(most));
        var address = trip.First(db.Members.Where(m => m.Id == member).Select(m => m.BillingAddress));
        await trip.Ask(ct);
        return new(payments.Value, card.Value?.Label, waiting.Value, vouchers.Value, address.Value ?? "");
    }
}
