using System.Globalization;
using System.Text.RegularExpressions;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using MimeKit;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>What a mail server reports of a letter.</summary>
/// <param name="Letter">The number of the letter; null where the report names none of ours.</param>
/// <param name="Recipient">To whom it was to go.</param>
public abstract record MailReport(long? Letter, string Recipient)
{
    /// <summary>It couldn’t be delivered, and won’t be (RFC 3464, action “failed”).</summary>
    /// <param name="Status">RFC 3463: “5.1.1”.</param>
    public sealed record Failed(long? Letter, string Recipient, string Status, string Why) : MailReport(Letter, Recipient);
    /// <summary>It is tried further, or it went on: nothing to do.</summary>
    public sealed record Passing(long? Letter, string Recipient) : MailReport(Letter, Recipient);
    /// <summary>Its reader called it unwanted (RFC 5965, “abuse”).</summary>
    public sealed record Complaint(long? Letter, string Recipient) : MailReport(Letter, Recipient);
}

/// <summary>Reads reports of mail servers: RFC 3464 in a multipart/report of RFC 6522, and RFC 5965. Nothing else is taken for one.</summary>
public static partial class MailReports
{
    /// <returns>One for each recipient; none where it is no report.</returns>
    public static IReadOnlyList<MailReport> Read(MimeMessage message)
    {
        if (message.Body is not MultipartReport report) return [];
        var letter = report.Select(LetterOf).FirstOrDefault(l => l is not null);
        if (report.OfType<MessageDeliveryStatus>().FirstOrDefault() is { } status)
            return
            [
                // The first group is about the message, each other about a recipient.
                .. status.StatusGroups.Skip(1).Select(g => Of(letter, g)).OfType<MailReport>(),
            ];
        if (report.OfType<MessageFeedbackReport>().FirstOrDefault() is { } feedback
            && string.Equals(feedback.Fields["Feedback-Type"]?.Trim(), "abuse", StringComparison.OrdinalIgnoreCase))
            return [new MailReport.Complaint(letter, Address(feedback.Fields["Original-Rcpt-To"]))];
        return [];
    }

    static MailReport? Of(long? letter, HeaderList group)
    {
        // Whom we wrote to, if the server says so; else whom it went to in the end.
        var recipient = Address(group["Original-Recipient"] ?? group["Final-Recipient"]);
        var status = group["Status"]?.Trim() ?? "";
        return group["Action"]?.Trim().ToLowerInvariant() switch
        {
            "failed" => new MailReport.Failed(letter, recipient, status,
                Spaces().Replace(TypeBefore().Replace(group["Diagnostic-Code"] ?? "", ""), " ").Trim()),
            "delayed" or "delivered" or "relayed" or "expanded" => new MailReport.Passing(letter, recipient),
            _ => null,
        };
    }

    /// <summary>The letter whose head or whole comes back with the report.</summary>
    static long? LetterOf(MimeEntity part) => part is MessagePart { Message.MessageId: { } id } && OwnId().Match(id) is { Success: true } m
        ? long.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture) : null;

    /// <summary>“rfc822; somebody@mail.example”.</summary>
    static string Address(string? field) => TypeBefore().Replace(field ?? "", "").Trim().Trim('<', '>');

    [GeneratedRegex(@"^letter-([0-9]{1,18})@")] private static partial Regex OwnId();
    [GeneratedRegex(@"^\s*[A-Za-z0-9-]+\s*;")] private static partial Regex TypeBefore();
    [GeneratedRegex(@"\s+")] private static partial Regex Spaces();
}

/// <summary>Takes reports of mail servers: a letter that came back is set among those that couldn’t be delivered; who calls letters unwanted gets no more of
/// those to many.</summary>
public sealed class ReturnedMail(BrightContext db, Ids ids, IClock clock)
{
    /// <returns>How many letters it was about; 0 where it tells nothing new; null where it is no report.</returns>
    public async Task<int?> Take(Stream raw, CancellationToken ct)
    {
        MimeMessage message;
        try
        {
            message = await MimeMessage.LoadAsync(raw, ct);
        }
        catch (FormatException)
        {
            return null;
        }
        var reports = MailReports.Read(message);
        if (reports.Count == 0) return null;
        var taken = 0;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        foreach (var report in reports)
        {
            if (report.Letter is not { } id) continue;
            var letter = (await db.Letters.FromSql($"select * from letters where id = {id} for update").ToListAsync(ct)).FirstOrDefault();
            // Anybody can write to where reports arrive: it has to be about whom the letter went to.
            if (letter is null || !string.Equals(letter.ToAddress, report.Recipient, StringComparison.OrdinalIgnoreCase)) continue;
            switch (report)
            {
                case MailReport.Failed f when letter.State == LetterState.Sent:
                    (letter.State, letter.LastError) = (LetterState.Refused, Bounded.To($"{f.Status} {f.Why}".Trim(), 500));
                    if (letter.MemberId is { } member)
                    {
                        var refused = new Event.LetterRefused(letter.Id, letter.Subject ?? letter.Kind.ToString(), $"{letter.ToAddress} sent it back");
                        db.Journal.Add(new() { Id = ids.Next(), MemberId = member, At = clock.GetCurrentInstant(), Kind = refused.Kind, Event = refused });
                    }
                    taken++;
                    break;
                case MailReport.Complaint when letter.MemberId is { } who:
                    taken += await db.Members.Where(m => m.Id == who && m.WantsNews).ExecuteUpdateAsync(u => u.SetProperty(m => m.WantsNews, false), ct);
                    break;
                // Told twice, or nothing to do.
                case MailReport.Failed or MailReport.Complaint or MailReport.Passing: break;
                default: throw new InvalidOperationException("No such report.");
            }
        }
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return taken;
    }
}
