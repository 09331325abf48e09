using System.Security.Cryptography;
using System.Text.RegularExpressions;
using AngleSharp.Html.Parser;
using BrightCircle.App.Community;
using BrightCircle.App.Members;
using BrightCircle.Core.Letters;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using MimeKit;
using MimeKit.Text;

namespace BrightCircle.App.Letters;

/// <summary>
/// Takes answers to letters: what a member writes back comes into the team’s inbox. Each letter carries a sign that only who has it can name (in References,
/// RFC 5322, section 3.6.4, which an answer repeats), and the answer has to come from the address the letter went to.
/// </summary>
public sealed partial class AnsweredMail(BrightContext db, SignInTokens tokens, Correspond correspond)
{
    /// <returns>Null where it is no answer to a letter of this site; else whether it was taken, or why not. One that is handed in twice is taken
    /// once.</returns>
    public async Task<Result?> Take(byte[] raw, CancellationToken ct)
    {
        ArgumentNullException.ThrowIfNull(raw);
        MimeMessage message;
        try
        {
            using var stream = new MemoryStream(raw);
            message = await MimeMessage.LoadAsync(stream, ct);
        }
        catch (FormatException)
        {
            return null;
        }
        if (IsByItself(message) || Letter(message) is not { } id) return null;
        if (await db.Letters.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id, ct) is not { MemberId: { } member } letter) return null;
        if (message.From.Mailboxes.FirstOrDefault()?.Address is not { } from || !string.Equals(from, letter.ToAddress, StringComparison.OrdinalIgnoreCase))
            return null;
        var words = MailReply.Words(Text(message));
        if (message.Attachments.Any()) words = $"{words}\n\n(With a file, which isn’t taken by letter.)".Trim();
        var key = Bounded.To(message.MessageId is { Length: > 0 } own ? own : Convert.ToHexStringLower(SHA256.HashData(raw)), Data.Message.MostMailId);
        return await correspond.Write(member, true, words, ct, key);
    }

    /// <summary>Written by a machine (RFC 3834, section 5), or to many.</summary>
    static bool IsByItself(MimeMessage message) => message.Headers["Auto-Submitted"] is { } auto && !auto.Trim().StartsWith("no",
        StringComparison.OrdinalIgnoreCase)
        || message.Headers["List-Id"] is not null || message.Headers["Precedence"]?.Trim().ToLowerInvariant() is "bulk" or "junk" or "list";

    long? Letter(MimeMessage message) => message.References.Append(message.InReplyTo ?? "").Select(r => Sign().Match(r)).Where(m => m.Success)
        .Select(m => tokens.ReadReply(m.Groups[1].Value)).FirstOrDefault(l => l is not null);

    static string Text(MimeMessage message)
    {
        if (message.BodyParts.OfType<TextPart>().FirstOrDefault(p => p.IsPlain && !p.IsAttachment) is { } plain)
            return plain.IsFlowed ? new FlowedToText().Convert(plain.Text) : plain.Text;
        if (message.HtmlBody is not { } html) return "";
        var document = new HtmlParser().ParseDocument(html);
        foreach (var other in document.QuerySelectorAll("blockquote, style, script, head").ToArray()) other.Remove();
        foreach (var line in document.QuerySelectorAll("br").ToArray()) line.Replace(document.CreateTextNode("\n"));
        foreach (var block in document.QuerySelectorAll("p, div, li, h1, h2, h3, tr").ToArray()) block.Append(document.CreateTextNode("\n\n"));
        return document.Body?.TextContent ?? "";
    }

    /// <summary>The sign as it stands in a letter’s head.</summary>
    internal static string SignOf(SignInTokens tokens, long letter, string domain) => $"reply-{tokens.ForReply(letter)}@{domain}";

    [GeneratedRegex("^<?reply-([A-Za-z0-9_-]{1,400})@")] private static partial Regex Sign();
}
