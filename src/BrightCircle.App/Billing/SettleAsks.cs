using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>Settles charges that were begun and whose answer nobody recorded: asked again under the same key, no more money moves.</summary>
public sealed class SettleAsks(IServiceScopeFactory scopes, IPaymentGateway gateway, IClock clock)
{
    /// <returns>Null where nothing is open any more, or a sentence for whoever has to wait.</returns>
    public async Task<string?> Of(MemberId member, CancellationToken ct)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        var asks = await db.ChargeAsks.AsNoTracking().Where(a => a.MemberId == member).OrderBy(a => a.At).ToListAsync(ct);
        foreach (var ask in asks)
        {
            var answer = await gateway.Ask(ask, ct);
            if (answer is ChargeResult.Unknown)
                return "A payment is being asked for just now, and the payment service hasn’t answered. Please try again in a few minutes.";
            db.ChangeTracker.Clear();
            await using var transaction = await db.Database.BeginTransactionAsync(ct);
            var recorder = scope.ServiceProvider.GetRequiredService<RecordCharge>();
            await recorder.Record([new(ask, answer)], clock.GetCurrentInstant(), new(), ct);
            await db.SaveChangesAsync(ct);
            await transaction.CommitAsync(ct);
        }
        return null;
    }
}
