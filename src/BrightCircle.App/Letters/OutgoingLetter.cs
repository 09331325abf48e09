using BrightCircle.App.Releases;
using MimeKit;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>
/// A rendered letter as a message: always with a text part, with HTML beside it where there is any (RFC 2046, multipart/alternative), and its picture within
/// (RFC 2387, multipart/related; RFC 2392, cid:), so that nothing is loaded when it is read.
/// </summary>
static class OutgoingLetter
{
    /// <param name="key">Before the @ of its Message-ID: the same letter sent twice has the same one.</param>
    /// <param name="picture">The letter’s, if it has one.</param>
    /// <param name="calendar">An entry for calendars that goes with it (RFC 5545; RFC 6047 for how it is carried); null for none.</param>
    public static MimeMessage Message(string subject, RenderedLetter letter, LetterPicture? picture, string fromName, string from, string toName, string to,
        Instant at, string key, CalendarFile? calendar = null)
    {
        var domain = from.Split('@')[^1];
        var body = new BodyBuilder
        {
            HtmlBody = letter.Html.Length == 0 ? null : LetterPictures.Put(letter.Html, picture, $"cid:picture@{domain}"),
            TextBody = letter.Text
        };
        if (picture is not null && letter.Html.Length > 0)
            body.LinkedResources.Add("picture.jpg", picture.Jpeg, new ContentType("image", "jpeg")).ContentId = $"picture@{domain}";
        if (calendar is not null)
        {
            var type = new ContentType("text", "calendar") { Charset = "utf-8" };
            type.Parameters.Add("method", calendar.Method);
            body.Attachments.Add("session.ics", System.Text.Encoding.UTF8.GetBytes(calendar.Text), type);
        }
        var message = new MimeMessage
        {
            Subject = subject,
            Date = at.ToDateTimeOffset(),
            MessageId = $"{key}@{domain}",
            Body = body.ToMessageBody(),
        };
        message.From.Add(new MailboxAddress(fromName, from));
        message.To.Add(new MailboxAddress(toName, to));
        return message;
    }
}
