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

    /// <summary>Whether letters come about what is said in spaces.</summary>
    public async Task SetWantsTalk(MemberId member, bool wants, CancellationToken ct) =>
        await db.Members.Where(m => m.Id == member).ExecuteUpdateAsync(u => u.SetProperty(m => m.WantsTalk, wants), ct);

    /// <summary>What stands with their name on receipts.</summary>
    public async Task<Result> SetBillingAddress(MemberId member, string? address, CancellationToken ct)
    {
        if (WrongWithLines(address, "Address") is { } wrong) return wrong;
        var text = Lines(address);
        await db.Members.Where(m => m.Id == member).ExecuteUpdateAsync(u => u.SetProperty(m => m.BillingAddress, text), ct);
        return Result.Done;
    }

    const int MostOfAddress = 400;

    /// <summary>An address in lines, as it is kept.</summary>
    internal static string Lines(string? typed) => typed?.Trim().ReplaceLineEndings("\n") ?? "";

    /// <summary>What is wrong with an address in lines; null where nothing is.</summary>
    internal static Result? WrongWithLines(string? typed, string field) =>
        Lines(typed).Length > MostOfAddress ? Result.Refused($"That is too long; {MostOfAddress} letters are the most.", field) : null;

    /// <summary>What is wrong with a zone; null where nothing is, and for the site's own.</summary>
    internal static Result? WrongWithZone(string? zoneId) => zoneId is not null && DateTimeZoneProviders.Tzdb.GetZoneOrNull(zoneId) is null
        ? Result.Refused("There is no such time zone. Choose one from the list.", "Zone") : null;

    /// <summary>Says in which zone the member's days are; null for the site's own.</summary>
    public async Task<Result> SetZone(MemberId member, string? zoneId, CancellationToken ct)
    {
        if (WrongWithZone(zoneId) is { } wrong) return wrong;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Members.Where(m => m.Id == member).ExecuteUpdateAsync(u => u.SetProperty(m => m.ZoneId, zoneId), ct);
        await TakeFirstSteps.Settle(db, member, Core.Members.FirstStep.Zone, clock.GetCurrentInstant(), false, ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }
}
