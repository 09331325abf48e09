using MimeKit;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>A rendered letter as a message: always with a text part, with HTML beside it where there is any (RFC 2046, multipart/alternative).</summary>
static class OutgoingLetter
{
    /// <param name="key">Before the @ of its Message-ID: the same letter sent twice has the same one.</param>
    public static MimeMessage Message(string subject, RenderedLetter letter, string fromName, string from, string toName, string to, Instant at, string key)
    {
        var message = new MimeMessage
        {
            Subject = subject,
            Date = at.ToDateTimeOffset(),
            MessageId = $"{key}@{from.Split('@')[^1]}",
            Body = new BodyBuilder { HtmlBody = letter.Html.Length == 0 ? null : letter.Html, TextBody = letter.Text }.ToMessageBody(),
        };
        message.From.Add(new MailboxAddress(fromName, from));
        message.To.Add(new MailboxAddress(toName, to));
        return message;
    }
}
