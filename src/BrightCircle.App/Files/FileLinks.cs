using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using BrightCircle.App.Clock;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace BrightCircle.App.Files;

/// <summary>
/// Short-lived signed addresses of members' files, given out only after an access decision: HMAC-SHA256 over the file's number, the size asked for and the
/// moment it ends.
/// The end is rounded up to the full hour, so that the address, and with it what browsers keep, stays the same for a while.
/// </summary>
public sealed class FileLinks(IServiceScopeFactory scopes, IDataProtectionProvider protection, IWallClock wall)
{
    public static readonly Duration Last = Duration.FromHours(6);
    byte[]? key;

    /// <summary>Makes the key ready; one is made for the site where it has none.</summary>
    public async Task Ready(CancellationToken ct = default)
    {
        if (key is not null) return;
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        var protector = protection.CreateProtector("file-links");
        var fresh = protector.Protect(Convert.ToHexString(RandomNumberGenerator.GetBytes(32)));
        // Of nodes that start together the first one's key counts.
        await db.Sites.Where(s => s.FileKey == null).ExecuteUpdateAsync(u => u.SetProperty(s => s.FileKey, fresh), ct);
        if (await db.Sites.Select(s => s.FileKey).FirstOrDefaultAsync(ct) is { } kept) key = Convert.FromHexString(protector.Unprotect(kept));
    }

    byte[] Key
    {
        get
        {
            if (key is null) Ready().GetAwaiter().GetResult();
            return key ?? throw new InvalidOperationException("There is no site yet.");
        }
    }

    /// <summary>"/files/123/w480/1795568400/signature/name.webp"</summary>
    public string For(FileState file, int? width = null) => For(file.Id, file.Name, width);

    public string For(FileId id, string name, int? width = null)
    {
        var ends = Ends;
        var size = width is { } w ? "w" + w.ToString(CultureInfo.InvariantCulture) : "full";
        return string.Create(CultureInfo.InvariantCulture, $"/files/{id.Value}/{size}/{ends}/{Sign($"{id.Value}/{size}/{ends}")}/{Uri.EscapeDataString(name)}");
    }

    /// <summary>"/spaces/pictures/123/small/1795568400/signature.webp": a picture in what was said in a space.</summary>
    public string ForTalk(long picture, bool small)
    {
        var (ends, size) = (Ends, small ? "small" : "full");
        return string.Create(CultureInfo.InvariantCulture, $"/spaces/pictures/{picture}/{size}/{ends}/{Sign($"talk/{picture}/{size}/{ends}")}.webp");
    }

    public bool IsGoodForTalk(long picture, string size, long ends, string signature) => IsSigned("talk/", picture, size, ends, signature);

    public bool IsGood(long id, string size, long ends, string signature) => IsSigned("", id, size, ends, signature);

    long Ends => (wall.Moment + Last).ToUnixTimeSeconds() / 3600 * 3600 + 3600;

    bool IsSigned(string what, long id, string size, long ends, string signature) =>
        ends >= wall.Moment.ToUnixTimeSeconds()
        && CryptographicOperations.FixedTimeEquals(
            Encoding.ASCII.GetBytes(Sign(string.Create(CultureInfo.InvariantCulture, $"{what}{id}/{size}/{ends}"))), Encoding.ASCII.GetBytes(signature));

    /// <summary>A lasting token for a private feed: whose it is, in words only this site can have made.</summary>
    /// <param name="version">Counts up when they sign out everywhere: tokens from before open nothing.</param>
    public string TokenFor(string what, long account, int version = 0) => version == 0
        ? string.Create(CultureInfo.InvariantCulture, $"{account}-{Sign($"{what}/{account}")}")
        : string.Create(CultureInfo.InvariantCulture, $"{account}-{version}-{Sign($"{what}/{account}/{version}")}");

    /// <returns>Whose it is, and of which version; null where the token isn't good.</returns>
    public (long Account, int Version)? ReadToken(string what, string token)
    {
        var parts = token.Split('-');
        if (parts.Length is < 2 or > 3 || !long.TryParse(parts[0], NumberStyles.None, CultureInfo.InvariantCulture, out var account)) return null;
        var version = 0;
        if (parts.Length == 3 && (!int.TryParse(parts[1], NumberStyles.None, CultureInfo.InvariantCulture, out version) || version == 0)) return null;
        return CryptographicOperations.FixedTimeEquals(Encoding.ASCII.GetBytes(TokenFor(what, account, version)), Encoding.ASCII.GetBytes(token))
            ? (account, version) : null;
    }

    string Sign(string text) => Convert.ToHexStringLower(HMACSHA256.HashData(Key, Encoding.UTF8.GetBytes(text)))[..32];
}
