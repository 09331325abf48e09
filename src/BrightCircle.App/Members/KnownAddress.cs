using BrightCircle.App.Due;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>Tells by letter, and only by letter, that an address has an account here.</summary>
public sealed class KnownAddress(BrightContext db, AccountLetters letters, Wake wake)
{
    /// <summary>Where the address is known, a letter with a way in goes to it.</summary>
    /// <param name="then">Where the way in leads.</param>
    public async Task TellByLetter(string email, string then, Instant at, CancellationToken ct)
    {
        var normal = EmailAddress.Normalise(email);
        var account = await db.Users.AsNoTracking().FirstOrDefaultAsync(a => a.NormalizedEmail == normal, ct);
        // The same is asked for unknown addresses, so that the time it takes tells nothing.
        var mayWrite = await letters.MayWriteTo(normal, at, ct);
        if (account is null || !mayWrite) return;
        letters.HasAccount(account, then, at);
        wake.Up();
    }
}
