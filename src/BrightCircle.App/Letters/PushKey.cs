using System.Buffers.Text;
using System.Security.Cryptography;
using BrightCircle.Data;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace BrightCircle.App.Letters;

/// <summary>Settings under "Push".</summary>
/// <param name="Inside">Push services may also be on this machine or in its own network: for rehearsing.</param>
public sealed record PushSettings(bool Inside = false)
{
    public PushSettings() : this(false) { }
}

/// <summary>By which push services know this site: a key of P-256 (RFC 8292), made when it is first needed and kept protected by the data-protection
/// keys.</summary>
public sealed class PushKey(IServiceScopeFactory scopes, IDataProtectionProvider protection)
{
    readonly IDataProtector protector = protection.CreateProtector("push");
    volatile byte[]? known;

    /// <summary>The key; whoever asks disposes of it.</summary>
    public async Task<ECDsa> Get(CancellationToken ct)
    {
        if (known is not { } bytes)
        {
            await using var scope = scopes.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
            using var made = ECDsa.Create(ECCurve.NamedCurves.nistP256);
            var fresh = protector.Protect(Convert.ToHexString(made.ExportPkcs8PrivateKey()));
            // Of nodes that make one at once the first one's counts.
            await db.Sites.Where(s => s.PushKey == null).ExecuteUpdateAsync(u => u.SetProperty(s => s.PushKey, fresh), ct);
            var kept = await db.Sites.Select(s => s.PushKey).FirstOrDefaultAsync(ct) ?? throw new InvalidOperationException("There is no site yet.");
            known = bytes = Convert.FromHexString(protector.Unprotect(kept));
        }
        var key = ECDsa.Create();
        key.ImportPkcs8PrivateKey(bytes, out _);
        return key;
    }

    /// <summary>Its other half, as browsers are given it.</summary>
    public async Task<string> Public(CancellationToken ct)
    {
        using var key = await Get(ct);
        return Base64Url.EncodeToString(Core.Letters.PushSender.PointOf(key));
    }
}
