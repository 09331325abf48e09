using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>Ends everything that could act for an account: signed-in browsers, links that weren't used, and the private addresses of feeds.</summary>
public sealed class SignOutEverywhere(BrightContext db, IClock clock)
{
    public async Task Do(long account, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var stamp = PeopleData.NewStamp();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Users.Where(a => a.Id == account).ExecuteUpdateAsync(
            u => u.SetProperty(a => a.SecurityStamp, stamp).SetProperty(a => a.FeedsVersion, a => a.FeedsVersion + 1), ct);
        await db.SignIns.Where(s => s.AccountId == account && s.EndedAt == null).ExecuteUpdateAsync(u => u.SetProperty(s => s.EndedAt, at), ct);
        await db.SignInLinks.Where(l => l.AccountId == account && l.UsedAt == null && l.ExpiresAt > at)
            .ExecuteUpdateAsync(u => u.SetProperty(l => l.ExpiresAt, at), ct);
        await db.Checkouts.Where(c => c.MemberId == new Core.MemberId(account)).ExecuteUpdateAsync(u => u.SetProperty(c => c.BrowserHash, (string?)null), ct);
        await transaction.CommitAsync(ct);
    }
}
