using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Billing;

/// <summary>A member’s payments, the newest first, and the card that is asked.</summary>
public sealed class OwnAccount(BrightContext db)
{
    public async Task<(IReadOnlyList<Payment> Payments, string? CardLabel)> Do(MemberId member, int most, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var payments = trip.List(db.Payments.AsNoTracking().Where(p => p.MemberId == member).OrderByDescending(p => p.At).Take(most));
        var card = trip.First(db.Cards.Where(c => c.MemberId == member).OrderByDescending(c => c.AddedAt).ThenByDescending(c => c.Id).Select(c => c.Label));
        await trip.Ask(ct);
        return (payments.Value, card.Value);
    }
}
