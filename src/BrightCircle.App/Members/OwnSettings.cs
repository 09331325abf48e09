using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>What a member decides about letters and time.</summary>
public sealed class OwnSettings(BrightContext db, IClock clock)
{
    public async Task SetWantsNews(MemberId member, bool wants, CancellationToken ct) =>
        await db.Members.Where(m => m.Id == member).ExecuteUpdateAsync(u => u.SetProperty(m => m.WantsNews, wants), ct);

    /// <summary>What stands with their name on receipts.</summary>
    public async Task<Result> SetBillingAddress(MemberId member, string? address, CancellationToken ct)
    {
        var text = address?.Trim().ReplaceLineEndings("\n") ?? "";
        if (text.Length > 400) return Result.Refused("That is too long; 400 letters are the most.", "Address");
        await db.Members.Where(m => m.Id == member).ExecuteUpdateAsync(u => u.SetProperty(m => m.BillingAddress, text), ct);
        return Result.Done;
    }

    /// <summary>Says in which zone the member's days are; null for the site's own.</summary>
    public async Task<Result> SetZone(MemberId member, string? zoneId, CancellationToken ct)
    {
        if (zoneId is { } z && DateTimeZoneProviders.Tzdb.GetZoneOrNull(z) is null)
            return Result.Refused("There is no such time zone. Choose one from the list.", "Zone");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Members.Where(m => m.Id == member).ExecuteUpdateAsync(u => u.SetProperty(m => m.ZoneId, zoneId), ct);
        await TakeFirstSteps.Settle(db, member, Core.Members.FirstStep.Zone, clock.GetCurrentInstant(), false, ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }
}
