using System.Buffers.Binary;
using System.Buffers.Text;
using System.Security.Cryptography;
using BrightCircle.Core;
using Microsoft.AspNetCore.DataProtection;

namespace BrightCircle.App.Members;

/// <summary>The secrets in personal links: made from a row's number with the site's keys, so that no secret is stored.</summary>
public sealed class SignInTokens(IDataProtectionProvider protection)
{
    readonly IDataProtector signIn = protection.CreateProtector("sign-in-link");
    readonly IDataProtector letter = protection.CreateProtector("counted-links");
    readonly IDataProtector reply = protection.CreateProtector("letter-replies");
    readonly IDataProtector unsubscribe = protection.CreateProtector("no-more-letters");

    public string ForSignIn(long link) => Make(signIn, link);
    public long? ReadSignIn(string token) => Read(signIn, token);
    public string ForUnsubscribe(MemberId member) => Make(unsubscribe, member.Value);
    public MemberId? ReadUnsubscribe(string token) => Read(unsubscribe, token) is { } id ? new MemberId(id) : null;

    public string ForLetter(long id) => Make(letter, id);
    public long? ReadLetter(string token) => Read(letter, token);

    /// <summary>What an answer to a letter names.</summary>
    public string ForReply(long letter) => Make(reply, letter);
    public long? ReadReply(string token) => Read(reply, token);

    static string Make(IDataProtector protector, long number)
    {
        var bytes = new byte[8];
        BinaryPrimitives.WriteInt64BigEndian(bytes, number);
        return Base64Url.EncodeToString(protector.Protect(bytes));
    }

    static long? Read(IDataProtector protector, string token)
    {
        try
        {
            return token.Length is 0 or > 400 ? null : BinaryPrimitives.ReadInt64BigEndian(protector.Unprotect(Base64Url.DecodeFromChars(token)));
        }
        catch (Exception e) when (e is CryptographicException or FormatException or ArgumentException)
        {
            return null;
        }
    }
}
