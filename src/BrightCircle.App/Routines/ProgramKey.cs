using System.Security.Cryptography;
using System.Text;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Data;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Routines;

/// <summary>
/// What the house and other programs know of each other: a key that is part of the address they report to, and that what they are told is signed with.
/// </summary>
public sealed class ProgramKey(Catalogue catalogue, IDataProtectionProvider protection)
{
    readonly IDataProtector protector = protection.CreateProtector("programs");

    /// <summary>Null while none is made.</summary>
    public string? Key => catalogue.Now.Site?.ProgramKey is { } kept ? protector.Unprotect(kept) : null;

    public bool Is(string? key) => key is not null && Key is { } known
        && CryptographicOperations.FixedTimeEquals(Encoding.UTF8.GetBytes(known), Encoding.UTF8.GetBytes(key));

    /// <summary>HMAC with SHA-256 (RFC 2104) over what is posted, in hexadecimal; null while there is no key.</summary>
    public string? Sign(string body) => Key is { } key
        ? Convert.ToHexStringLower(HMACSHA256.HashData(Encoding.UTF8.GetBytes(key), Encoding.UTF8.GetBytes(body))) : null;

    internal string Protect(string key) => protector.Protect(key);
}

/// <summary>Makes that key.</summary>
public sealed class MakeProgramKey(BrightContext db, Catalogue catalogue, ProgramKey keys, Deeds deeds)
{
    /// <summary>A new one. What knows only the old one is heard no more from then on.</summary>
    public async Task Do(TeamActor by, CancellationToken ct)
    {
        by.NeedOwner();
        var site = await db.Sites.SingleAsync(ct);
        deeds.Note(by, site.ProgramKey is null ? "made a key for other programs" : "made another key for other programs", "/desk/routines/programs");
        site.ProgramKey = keys.Protect(Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24)));
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
    }
}
