using System.Buffers.Binary;
using System.Globalization;
using System.Security.Cryptography;
using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>
/// Passwords that are good once and for half a minute, as an app on a phone shows them: RFC 4226 (HOTP) counted by the clock, RFC 6238 (TOTP). Six digits,
/// HMAC-SHA-1, steps of 30 seconds from 1970 on: what every such app takes for granted.
/// </summary>
public static class OneTimePassword
{
    public const int Digits = 6, StepSeconds = 30;
    /// <summary>160 bits: RFC 4226, section 4, R6.</summary>
    public const int KeyBytes = 20;
    /// <summary>The step before and the one after are taken too: for a clock that isn’t right, and for whoever types slowly (RFC 6238, section 5.2).</summary>
    public const int Drift = 1;

    /// <summary>The number of the half minute a moment lies in.</summary>
    public static long StepOf(Instant at) => (long)Math.Floor(at.ToUnixTimeMilliseconds() / 1000.0 / StepSeconds);

    /// <summary>What is shown in a half minute.</summary>
    /// <param name="step">RFC 4226’s counter.</param>
    public static string At(ReadOnlySpan<byte> key, long step, int digits = Digits)
    {
        Span<byte> counter = stackalloc byte[8], hash = stackalloc byte[HMACSHA1.HashSizeInBytes];
        BinaryPrimitives.WriteInt64BigEndian(counter, step);
        // SHA-1 is what the standard's apps use; nothing here rests on it being hard to collide.
#pragma warning disable CA5350
        HMACSHA1.HashData(key, counter, hash);
#pragma warning restore CA5350
        // RFC 4226, section 5.3: four bytes from where the last half byte points to, without the sign.
        var number = BinaryPrimitives.ReadInt32BigEndian(hash[(hash[^1] & 0xf)..]) & 0x7fffffff;
        var most = 1;
        for (var i = 0; i < digits; i++) most *= 10;
        return (number % most).ToString(CultureInfo.InvariantCulture).PadLeft(digits, '0');
    }

    /// <summary>Which half minute a typed code is of, if it is good now.</summary>
    /// <param name="after">The half minute of the last code that was taken: no code is taken twice, and none from before it.</param>
    /// <returns>Null where it isn’t good.</returns>
    public static long? Check(ReadOnlySpan<byte> key, string typed, Instant at, long after)
    {
        var code = string.Concat(typed.Where(c => !char.IsWhiteSpace(c)));
        if (code.Length != Digits || !code.All(char.IsAsciiDigit)) return null;
        var now = StepOf(at);
        long? found = null;
        // All are compared, in the same time whichever it is.
        for (var step = now - Drift; step <= now + Drift; step++)
            if (CryptographicOperations.FixedTimeEquals(System.Text.Encoding.ASCII.GetBytes(At(key, step)), System.Text.Encoding.ASCII.GetBytes(code))
                && step > after) found ??= step;
        return found;
    }

    const string Base32Letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZ234567";

    /// <summary>Bytes as letters that can be typed: base 32 of RFC 4648, without the signs at its end.</summary>
    public static string Base32(ReadOnlySpan<byte> bytes)
    {
        var text = new System.Text.StringBuilder((bytes.Length * 8 + 4) / 5);
        int held = 0, bits = 0;
        foreach (var b in bytes)
        {
            held = (held << 8) | b;
            bits += 8;
            while (bits >= 5)
            {
                text.Append(Base32Letters[(held >> (bits - 5)) & 31]);
                bits -= 5;
            }
            held &= (1 << bits) - 1;
        }
        if (bits > 0) text.Append(Base32Letters[(held << (5 - bits)) & 31]);
        return text.ToString();
    }

    /// <summary>The address such apps read from a picture: the key, and what it is called there.</summary>
    public static string Address(ReadOnlySpan<byte> key, string site, string account) =>
        $"otpauth://totp/{Uri.EscapeDataString(site)}:{Uri.EscapeDataString(account)}?secret={Base32(key)}&issuer={Uri.EscapeDataString(site)}";
}
