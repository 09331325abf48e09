using System.Security.Cryptography;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>The secret of the browser that began a checkout.</summary>
public static class CheckoutSecret
{
    /// <summary>So long after its beginning a checkout can be gone on with, in the browser that began it.</summary>
    public static Duration Lasts { get; } = Duration.FromDays(30);

    /// <summary>So long after it was done that browser may be signed in.</summary>
    public static Duration SignsIn { get; } = Duration.FromHours(2);

    /// <summary>Whether a browser may be signed in by a checkout that is done: the one that began it, soon.</summary>
    public static bool MaySignIn(Checkout checkout, string? secret, Instant now) =>
        Fits(checkout, secret, now) && (checkout.PlacedAt ?? checkout.CompletedAt) is { } done && now < done + SignsIn;

    public static string Hash(string secret) => Convert.ToHexStringLower(SHA256.HashData(System.Text.Encoding.ASCII.GetBytes(secret)));

    public static bool Fits(Checkout checkout, string? secret, Instant now) =>
        secret is { Length: 64 } && checkout.BrowserHash is { } hash && now < checkout.CreatedAt + Lasts
        && CryptographicOperations.FixedTimeEquals(System.Text.Encoding.ASCII.GetBytes(hash), System.Text.Encoding.ASCII.GetBytes(Hash(secret)));
}
