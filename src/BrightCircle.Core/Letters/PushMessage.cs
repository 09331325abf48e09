using System.Buffers.Binary;
using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using NodaTime;

namespace BrightCircle.Core.Letters;

/// <summary>A message for one browser, which its push service carries without being able to read it: RFC 8291, in the coding of RFC 8188.</summary>
public static class PushMessage
{
    /// <summary>In bytes: what a browser gives as its key (an uncompressed point of P-256), and as its secret.</summary>
    public const int KeySize = 65, SecretSize = 16;
    /// <summary>In bytes: every push service carries 4096, of which 103 are the head, the sign at the end and the tag (RFC 8291, section 4).</summary>
    public const int MostText = 4096 - HeadSize - 1 - TagSize;
    const int SaltSize = 16, HeadSize = SaltSize + 4 + 1 + KeySize, TagSize = 16, RecordSize = 4096;

    /// <summary>The message as it is sent.</summary>
    /// <param name="key">The browser’s key.</param>
    /// <param name="secret">The browser’s secret.</param>
    /// <exception cref="ArgumentException">It is too long, or the key or the secret aren’t such.</exception>
    public static byte[] Encrypt(ReadOnlySpan<byte> text, ReadOnlySpan<byte> key, ReadOnlySpan<byte> secret)
    {
        using var own = ECDiffieHellman.Create(ECCurve.NamedCurves.nistP256);
        return Encrypt(text, key, secret, own, RandomNumberGenerator.GetBytes(SaltSize));
    }

    /// <param name="own">The sender’s key, made for this message only.</param>
    /// <param name="salt">16 bytes, drawn for this message only.</param>
    public static byte[] Encrypt(ReadOnlySpan<byte> text, ReadOnlySpan<byte> key, ReadOnlySpan<byte> secret, ECDiffieHellman own, ReadOnlySpan<byte> salt)
    {
        ArgumentNullException.ThrowIfNull(own);
        if (text.Length > MostText) throw new ArgumentException($"{MostText} bytes are the most.", nameof(text));
        if (secret.Length != SecretSize) throw new ArgumentException($"A secret is {SecretSize} bytes.", nameof(secret));
        if (salt.Length != SaltSize) throw new ArgumentException($"The salt is {SaltSize} bytes.", nameof(salt));
        using var theirs = PublicKey(key);
        var ownPoint = PointOf(own);
        // RFC 8291, section 3.3 and 3.4.
        var shared = own.DeriveRawSecretAgreement(theirs.PublicKey);
        var ikm = HKDF.DeriveKey(HashAlgorithmName.SHA256, shared, 32, secret.ToArray(), [.. "WebPush: info\0"u8, .. key, .. ownPoint]);
        // RFC 8188, section 2.2 and 2.3: one record, so its number is 0 and the nonce stands as it is.
        var contentKey = HKDF.DeriveKey(HashAlgorithmName.SHA256, ikm, 16, salt.ToArray(), "Content-Encoding: aes128gcm\0"u8.ToArray());
        var nonce = HKDF.DeriveKey(HashAlgorithmName.SHA256, ikm, 12, salt.ToArray(), "Content-Encoding: nonce\0"u8.ToArray());
        var sent = new byte[HeadSize + text.Length + 1 + TagSize];
        salt.CopyTo(sent);
        BinaryPrimitives.WriteUInt32BigEndian(sent.AsSpan(SaltSize), RecordSize);
        sent[SaltSize + 4] = KeySize;
        ownPoint.CopyTo(sent, SaltSize + 5);
        // The sign that this record is the last one.
        byte[] plain = [.. text, 2];
        using var aes = new AesGcm(contentKey, TagSize);
        aes.Encrypt(nonce, plain, sent.AsSpan(HeadSize, plain.Length), sent.AsSpan(HeadSize + plain.Length));
        return sent;
    }

    /// <summary>What a browser with a key and a secret reads of it.</summary>
    /// <exception cref="CryptographicException">It isn’t for them, or was changed on the way.</exception>
    public static byte[] Decrypt(ReadOnlySpan<byte> sent, ECDiffieHellman key, ReadOnlySpan<byte> secret)
    {
        ArgumentNullException.ThrowIfNull(key);
        if (sent.Length < HeadSize + 1 + TagSize || sent[SaltSize + 4] != KeySize) throw new CryptographicException("That is no such message.");
        var (salt, theirPoint) = (sent[..SaltSize].ToArray(), sent.Slice(SaltSize + 5, KeySize).ToArray());
        var coded = sent[HeadSize..];
        using var theirs = PublicKey(theirPoint);
        var ikm = HKDF.DeriveKey(HashAlgorithmName.SHA256, key.DeriveRawSecretAgreement(theirs.PublicKey), 32, secret.ToArray(),
            [.. "WebPush: info\0"u8, .. PointOf(key), .. theirPoint]);
        var plain = new byte[coded.Length - TagSize];
        using var aes = new AesGcm(HKDF.DeriveKey(HashAlgorithmName.SHA256, ikm, 16, salt, "Content-Encoding: aes128gcm\0"u8.ToArray()), TagSize);
        aes.Decrypt(HKDF.DeriveKey(HashAlgorithmName.SHA256, ikm, 12, salt, "Content-Encoding: nonce\0"u8.ToArray()), coded[..^TagSize], coded[^TagSize..],
            plain);
        var end = plain.AsSpan().TrimEnd((byte)0);
        return end is [.., 2] ? end[..^1].ToArray() : throw new CryptographicException("It doesn’t end as a last record does.");
    }

    /// <summary>A key as it is sent around: the point, uncompressed (SEC 1, section 2.3.3).</summary>
    public static byte[] PointOf(ECDiffieHellman key)
    {
        ArgumentNullException.ThrowIfNull(key);
        var q = key.ExportParameters(false).Q;
        return [4, .. q.X!, .. q.Y!];
    }

    /// <exception cref="ArgumentException">It isn’t a point of the curve.</exception>
    static ECDiffieHellman PublicKey(ReadOnlySpan<byte> point)
    {
        if (!IsKey(point)) throw new ArgumentException("That is no key of a browser.", nameof(point));
        return ECDiffieHellman.Create(Parameters(point));
    }

    static ECParameters Parameters(ReadOnlySpan<byte> point) =>
        new() { Curve = ECCurve.NamedCurves.nistP256, Q = new() { X = point[1..33].ToArray(), Y = point[33..].ToArray() } };

    /// <summary>Whether something is the key of a browser: a point of P-256, uncompressed.</summary>
    public static bool IsKey(ReadOnlySpan<byte> point)
    {
        if (point.Length != KeySize || point[0] != 4) return false;
        try
        {
            using var key = ECDiffieHellman.Create(Parameters(point));
            return true;
        }
        catch (CryptographicException)
        {
            return false;
        }
    }
}

/// <summary>By which a push service knows who sends: RFC 8292 (VAPID), a JSON Web Token signed with ES256 (RFC 7515, 7518).</summary>
public static class PushSender
{
    /// <summary>So long a token holds; a day is the most (RFC 8292, section 2).</summary>
    public static readonly Duration Lasts = Duration.FromHours(12);

    /// <summary>The value of the Authorization header.</summary>
    /// <param name="key">The sender’s lasting key, of P-256.</param>
    /// <param name="endpoint">Where the message goes.</param>
    /// <param name="contact">The address of somebody who can be asked about it.</param>
    /// <param name="at">UTC.</param>
    public static string Authorization(ECDsa key, Uri endpoint, string contact, Instant at)
    {
        ArgumentNullException.ThrowIfNull(key);
        ArgumentNullException.ThrowIfNull(endpoint);
        var claims = JsonSerializer.Serialize(new
        {
            aud = endpoint.GetLeftPart(UriPartial.Authority),
            exp = (at + Lasts).ToUnixTimeSeconds(),
            sub =
            $"mailto:{contact}"
        });
        var signed = $"{Base64Url.EncodeToString("""{"typ":"JWT","alg":"ES256"}"""u8)}.{Base64Url.EncodeToString(Encoding.UTF8.GetBytes(claims))}";
        var signature = key.SignData(Encoding.ASCII.GetBytes(signed), HashAlgorithmName.SHA256, DSASignatureFormat.IeeeP1363FixedFieldConcatenation);
        return $"vapid t={signed}.{Base64Url.EncodeToString(signature)}, k={Base64Url.EncodeToString(PointOf(key))}";
    }

    /// <summary>The key as browsers are given it.</summary>
    public static byte[] PointOf(ECDsa key)
    {
        ArgumentNullException.ThrowIfNull(key);
        var q = key.ExportParameters(false).Q;
        return [4, .. q.X!, .. q.Y!];
    }
}
