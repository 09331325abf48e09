using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using BrightCircle.Core.Letters;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>Messages to browsers, against the worked example of RFC 8291 (section 5 and appendix A) and what RFC 8188 and 8292 say.</summary>
public class PushMessageTests
{
    static byte[] Of(string base64Url) => Base64Url.DecodeFromChars(base64Url);

    static ECDiffieHellman Key(string d, string point)
    {
        var q = Of(point);
        return ECDiffieHellman.Create(new ECParameters { Curve = ECCurve.NamedCurves.nistP256, D = Of(d), Q = new() { X = q[1..33], Y = q[33..] } });
    }

    const string ReaderPoint = "BCVxsr7N_eNgVRqvHtD0zTZsEc6-VV-JvLexhqUzORcxaOzi6-AYWXvTBHm4bjyPjs7Vd8pZGH6SRpkNtoIAiw4", Secret = "BTBZMqHH6r4Tts7J_aSIgg",
        Sent = "DGv6ra1nlYgDCS1FRnbzlwAAEABBBP4z9KsN6nGRTbVYI_c7VJSPQTBtkgcy27mlmlMoZIIgDll6e3vCYLocInmYWAmS6TlzAC8wEqKK6PBru3jl7A_yl95bQpu6cVPTpK4Mqgkf1C"
            + "XztLVBSt2Ks3oZwbuwXPXLWyouBWLVWGNWQexSgSxsj_Qulcy4a-fN";

    static ECDiffieHellman Reader() => Key("q1dXpw3UpT5VOmu_cf_v6ih07Aems3njxI-JWgLcM94", ReaderPoint);
    static ECDiffieHellman Sender() => Key("yfWPiYE-n46HLnH0KqZOF1fJJU3MYrct3AELtAQ-oRw",
        "BP4z9KsN6nGRTbVYI_c7VJSPQTBtkgcy27mlmlMoZIIgDll6e3vCYLocInmYWAmS6TlzAC8wEqKK6PBru3jl7A8");

    [Fact]
    public void It_is_the_message_of_the_standards_example()
    {
        using var sender = Sender();
        var sent = PushMessage.Encrypt("When I grow up, I want to be a watermelon"u8, Of(ReaderPoint), Of(Secret), sender, Of("DGv6ra1nlYgDCS1FRnbzlw"));
        Assert.Equal(Sent, Base64Url.EncodeToString(sent));
        using var reader = Reader();
        Assert.Equal("When I grow up, I want to be a watermelon", Encoding.UTF8.GetString(PushMessage.Decrypt(Of(Sent), reader, Of(Secret))));
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(17)]
    [InlineData(900)]
    [InlineData(PushMessage.MostText)]
    public void Whatever_is_sent_is_read_by_the_one_it_is_for_and_by_nobody_else(int length)
    {
        var text = RandomNumberGenerator.GetBytes(length);
        using ECDiffieHellman reader = ECDiffieHellman.Create(ECCurve.NamedCurves.nistP256), other = ECDiffieHellman.Create(ECCurve.NamedCurves.nistP256);
        var secret = RandomNumberGenerator.GetBytes(PushMessage.SecretSize);
        var sent = PushMessage.Encrypt(text, PushMessage.PointOf(reader), secret);
        Assert.Equal(text, PushMessage.Decrypt(sent, reader, secret));
        Assert.ThrowsAny<CryptographicException>(() => PushMessage.Decrypt(sent, other, secret));
        Assert.ThrowsAny<CryptographicException>(() => PushMessage.Decrypt(sent, reader, RandomNumberGenerator.GetBytes(PushMessage.SecretSize)));
        // Nothing is sent twice in the same way: the key and the salt are drawn anew.
        Assert.NotEqual(sent, PushMessage.Encrypt(text, PushMessage.PointOf(reader), secret));
        sent[^1] ^= 1;
        Assert.ThrowsAny<CryptographicException>(() => PushMessage.Decrypt(sent, reader, secret));
    }

    [Fact]
    public void The_longest_fits_into_what_every_push_service_carries_and_one_byte_more_does_not()
    {
        var (point, secret) = (Of(ReaderPoint), Of(Secret));
        // RFC 8291, section 4: 4096 bytes in all, 86 of head, 17 of padding sign and tag.
        Assert.Equal(4096 - 103, PushMessage.MostText);
        Assert.Equal(4096, PushMessage.Encrypt(new byte[PushMessage.MostText], point, secret).Length);
        Assert.Throws<ArgumentException>(() => PushMessage.Encrypt(new byte[PushMessage.MostText + 1], point, secret));
    }

    [Fact]
    public void What_is_no_key_or_no_secret_is_refused()
    {
        var (point, secret) = (Of(ReaderPoint), Of(Secret));
        Assert.True(PushMessage.IsKey(point));
        Assert.False(PushMessage.IsKey(point.AsSpan(1)));
        Assert.False(PushMessage.IsKey([.. point, 0]));
        Assert.False(PushMessage.IsKey([3, .. point[1..]]));
        // A number that isn't on the curve.
        Assert.False(PushMessage.IsKey([.. point[..^1], (byte)(point[^1] ^ 1)]));
        Assert.Throws<ArgumentException>(() => PushMessage.Encrypt([], [.. point[..^1], (byte)(point[^1] ^ 1)], secret));
        Assert.Throws<ArgumentException>(() => PushMessage.Encrypt([], point, secret.AsSpan(1)));
        Assert.Throws<ArgumentException>(() => PushMessage.Encrypt([], point, [.. secret, 0]));
        using var sender = Sender();
        Assert.Throws<ArgumentException>(() => PushMessage.Encrypt([], point, secret, sender, new byte[15]));
        using var reader = Reader();
        Assert.Throws<CryptographicException>(() => PushMessage.Decrypt(new byte[86 + 16], reader, secret));
    }

    [Fact]
    public void The_sender_says_who_it_is_to_one_push_service_and_for_half_a_day()
    {
        using var key = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var at = Instant.FromUtc(2026, 11, 24, 10, 0);
        var header = PushSender.Authorization(key, new("https://push.example:8443/to/one?x=1"), "help@site.example", at);
        Assert.StartsWith("vapid t=", header, StringComparison.Ordinal);
        var parts = header["vapid t=".Length..].Split(", k=");
        Assert.Equal(Base64Url.EncodeToString(PushSender.PointOf(key)), parts[1]);
        var token = parts[0].Split('.');
        Assert.Equal("""{"typ":"JWT","alg":"ES256"}""", Encoding.UTF8.GetString(Of(token[0])));
        var claims = JsonDocument.Parse(Of(token[1])).RootElement;
        // RFC 8292, section 2: the origin of the push service, an end within a day, and whom to ask.
        Assert.Equal("https://push.example:8443", claims.GetProperty("aud").GetString());
        Assert.Equal(at.ToUnixTimeSeconds() + 12 * 3600, claims.GetProperty("exp").GetInt64());
        Assert.Equal("mailto:help@site.example", claims.GetProperty("sub").GetString());
        // RFC 7518, section 3.4: R and S, 32 bytes each.
        var signature = Of(token[2]);
        Assert.Equal(64, signature.Length);
        Assert.True(key.VerifyData(Encoding.ASCII.GetBytes($"{token[0]}.{token[1]}"), signature, HashAlgorithmName.SHA256));
        Assert.False(key.VerifyData(Encoding.ASCII.GetBytes($"{token[0]}.{token[1]}x"), signature, HashAlgorithmName.SHA256));
    }
}
