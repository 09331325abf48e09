using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>Personal links that sign in once.</summary>
public sealed class SignInByLink(BrightContext db, IClock clock, SignInTokens tokens, AccountLetters letters, Tell tell, Wake wake)
{
    /// <summary>Sends a link, if there is such an account. Whoever asks is not told whether there is.</summary>
    public async Task Request(string email, string returnPath, CancellationToken ct)
    {
        var normal = EmailAddress.Normalise(email);
        var at = clock.GetCurrentInstant();
        var account = await db.Users.AsNoTracking().FirstOrDefaultAsync(a => a.NormalizedEmail == normal, ct);
        if (!await letters.MayWriteTo(normal, at, ct) || account is null or { IsShut: true }) return;
        letters.SignIn(account, returnPath, at);
        await db.SaveChangesAsync(ct);
        wake.Up();
    }

    /// <summary>Uses a link up. Two browsers with the same link: one gets in. The address is proved by it.</summary>
    /// <returns>The account and where to go, or null where the link is not good (any more).</returns>
    public async Task<(Account Account, string ReturnPath)?> Use(string token, CancellationToken ct)
    {
        if (tokens.ReadSignIn(token) is not { } id) return null;
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var used = await db.SignInLinks.Where(l => l.Id == id && l.UsedAt == null && l.ExpiresAt > at)
            .ExecuteUpdateAsync(u => u.SetProperty(l => l.UsedAt, at), ct);
        if (used == 0) return null;
        var link = await db.SignInLinks.AsNoTracking().SingleAsync(l => l.Id == id, ct);
        var account = await db.Users.SingleAsync(a => a.Id == link.AccountId, ct);
        if (account.IsShut) return null;
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == new MemberId(account.Id), ct) is { } member)
        {
            if (!account.EmailConfirmed) tell.Of(member, new Event.AddressConfirmed(member.Email), at);
            tell.Of(member, new Event.SignedIn(), at);
        }
        account.EmailConfirmed = true;
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return (account, link.ReturnPath);
    }

    /// <summary>Whether a link would still work, for the page that asks to go on.</summary>
    public async Task<bool> IsGood(string token, CancellationToken ct)
    {
        if (tokens.ReadSignIn(token) is not { } id) return false;
        var at = clock.GetCurrentInstant();
        return await db.SignInLinks.AnyAsync(l => l.Id == id && l.UsedAt == null && l.ExpiresAt > at, ct);
    }
}
