using BrightCircle.App.Clock;
using BrightCircle.App.Due;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using MimeKit;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>
/// Sends what is in the outbox. A batch is claimed, sent and marked in one transaction; a worker killed between sending and marking sends the batch again
/// under the same Message-IDs, by which mail stores drop the second copy. A server that is down leaves the letters queued.
/// </summary>
public sealed partial class DeliverLetters(IServiceScopeFactory scopes, HouseClock clock, IMailTransport mail, MailSettings settings,
    LetterTemplates templates, Ids ids, ILogger<DeliverLetters> log)
{
    const int BatchSize = 100;
    const int MostTries = 12;

    public async Task Run(CancellationToken ct = default, Happenings? happened = null)
    {
        IMailSession? session = null;
        try
        {
            while (true)
            {
                await using var scope = scopes.CreateAsyncScope();
                var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
                var now = clock.Moment;
                if (session is null && !await db.Letters.AnyAsync(l => l.State == LetterState.Queued && (l.NotBefore == null || l.NotBefore <= now), ct))
                    return;
                await using var transaction = await db.Database.BeginTransactionAsync(ct);
                var letters = await db.Letters.FromSql($"""
                    select * from letters where state = 'Queued' and (not_before is null or not_before <= {now})
                    order by id limit {BatchSize} for update skip locked
                    """).AsTracking().ToListAsync(ct);
                if (letters.Count == 0) return;
                session ??= await mail.Connect(ct);
                var models = scope.ServiceProvider.GetRequiredService<LetterModels>();
                try
                {
                    foreach (var letter in letters) await Send(session, db, models, letter, now, happened, ct);
                }
                finally
                {
                    // What was sent before the server went away is marked as sent.
                    await db.SaveChangesAsync(CancellationToken.None);
                    await transaction.CommitAsync(CancellationToken.None);
                }
            }
        }
        catch (MailUnreachableException e)
        {
            Unreachable(log, e.Message);
        }
        finally
        {
            if (session is not null) await session.DisposeAsync();
        }
    }

    async Task Send(IMailSession session, BrightContext db, LetterModels models, Letter letter, Instant now, Happenings? happened, CancellationToken ct)
    {
        MimeMessage message;
        try
        {
            // While the clock is being moved, a letter goes out at the moment it was written.
            if (clock.IsStanding) now = Instant.Max(letter.CreatedAt, letter.NotBefore ?? letter.CreatedAt);
            message = Message(models, letter, now);
        }
        catch (Exception e) when (e is Fluid.ParseException or FormatException or InvalidOperationException or KeyNotFoundException or MimeKit.ParseException
            or ArgumentException || e.GetType().Name == "FluidException")
        {
            // One letter that can't be made never holds up the others.
            Unmakable(log, e, letter.Kind, letter.Id);
            (letter.State, letter.LastError) = (LetterState.Refused, "The letter couldn’t be made: " + e.Message);
            return;
        }
        switch (await session.Send(message, ct))
        {
            case MailOutcome.Accepted:
                (letter.State, letter.SentAt, letter.Subject) = (LetterState.Sent, now, message.Subject);
                happened?.Add("letters");
                break;
            case MailOutcome.Later later when letter.Tries + 1 < MostTries:
                letter.Tries++;
                (letter.LastError, letter.NotBefore) = (Bounded.To(later.Why, 500), now + Duration.FromMinutes(5 * Math.Pow(2, Math.Min(letter.Tries, 7))));
                break;
            case MailOutcome.Later later:
                Refuse(db, letter, later.Why, now);
                break;
            case MailOutcome.Refused refused:
                Refuse(db, letter, refused.Why, now);
                happened?.Add("refused letters");
                break;
        }
    }

    void Refuse(BrightContext db, Letter letter, string why, Instant now)
    {
        (letter.State, letter.LastError) = (LetterState.Refused, Bounded.To(why, 500));
        if (letter.MemberId is not { } member) return;
        var refused = new Event.LetterRefused(letter.Id, letter.Subject ?? letter.Kind.ToString(), $"{letter.ToAddress} was refused");
        db.Journal.Add(new() { Id = ids.Next(), MemberId = member, At = now, Kind = refused.Kind, Event = refused });
    }

    MimeMessage Message(LetterModels models, Letter letter, Instant now)
    {
        var model = models.For(letter);
        var rendered = templates.Render(letter.Kind.ToString(), model);
        var message = new MimeMessage
        {
            Subject = rendered.Subject,
            Date = now.ToDateTimeOffset(),
            MessageId = $"letter-{letter.Id}@{settings.From.Split('@')[^1]}",
            Body = new BodyBuilder { HtmlBody = rendered.Html, TextBody = rendered.Text }.ToMessageBody(),
        };
        message.From.Add(new MailboxAddress((string)model["site"], settings.From));
        message.To.Add(new MailboxAddress(letter.ToName, letter.ToAddress));
        if (models.UnsubscribeLink(letter) is { } link)
        {
            // RFC 2369 and RFC 8058: one click, without a page in between.
            message.Headers.Add(HeaderId.ListUnsubscribe, $"<{link}>");
            message.Headers.Add(HeaderId.ListUnsubscribePost, "List-Unsubscribe=One-Click");
        }
        else
        {
            message.Headers.Add("Auto-Submitted", "auto-generated");
        }
        return message;
    }

    [LoggerMessage(EventName = "MailUnreachable", Level = LogLevel.Warning, Message = "{Why} Letters stay queued and are tried again")]
    static partial void Unreachable(ILogger log, string why);

    [LoggerMessage(EventName = "LetterUnmakable", Level = LogLevel.Error, Message = "The {Kind} letter {Id} couldn't be made")]
    static partial void Unmakable(ILogger log, Exception e, LetterKind kind, long id);
}
