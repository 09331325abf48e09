using BrightCircle.Core.Billing;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>Somebody of the team has looked at a payment that stood on Today.</summary>
public sealed class LookAtPayment(BrightContext db, IClock clock)
{
    /// <summary>What stands open, the newest first.</summary>
    public Task<List<PaymentToLookAt>> Open(CancellationToken ct) =>
        db.PaymentsToLookAt.AsNoTracking().Where(p => p.SettledAt == null).OrderByDescending(p => p.Id).Take(200).ToListAsync(ct);

    public async Task<Result> Settle(TeamActor by, long id, CancellationToken ct)
    {
        by.NeedSupport();
        var at = clock.GetCurrentInstant();
        var name = by.Name;
        var done = await db.PaymentsToLookAt.Where(p => p.Id == id && p.SettledAt == null)
            .ExecuteUpdateAsync(u => u.SetProperty(p => p.SettledAt, at).SetProperty(p => p.SettledBy, name), ct);
        return done > 0 ? Result.Done : Result.Refused("It has been seen to already.");
    }
}
