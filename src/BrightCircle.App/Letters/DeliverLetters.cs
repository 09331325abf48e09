using BrightCircle.App.Clock;
using BrightCircle.App.Due;
using BrightCircle.App.Members;
using BrightCircle.App.Releases;
using BrightCircle.Core;
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
public sealed partial class DeliverLetters(IServiceScopeFactory scopes, HouseClock clock, IMailTransport mail, MailSettings settings, LetterPictures pictures,
    Feeds feeds, Ids ids, SignInTokens tokens, ILogger<DeliverLetters> log)
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
                if (session is null && !await db.Letters.AnyAsync(l => l.State == LetterState.Queued && (l.NotBefore == null || l.NotBefore <= now)
                    && (l.MailingId == null || db.Mailings.Any(m => m.Id == l.MailingId && m.PausedAt == null && m.StoppedAt == null)), ct))
                    return;
                await using var transaction = await db.Database.BeginTransactionAsync(ct);
                var letters = await db.Letters.FromSql($"""
                    select * from letters l where state = 'Queued' and (not_before is null or not_before <= {now})
                      and (mailing_id is null or exists (select 1 from mailings m where m.id = l.mailing_id and m.paused_at is null and m.stopped_at is null))
                    order by id limit {BatchSize} for update skip locked
                    """).AsTracking().ToListAsync(ct);
                if (letters.Count == 0) return;
                session ??= await mail.Connect(ct);
                var devices = await PushDevices.For(db, letters, ct);
                var make = new Makes(scope.ServiceProvider.GetRequiredService<LetterModels>(), scope.ServiceProvider.GetRequiredService<MailingText>(),
                    await Mailings(db, letters, ct));
                try
                {
                    foreach (var letter in letters) await Send(session, db, make, letter, devices, now, happened, ct);
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

    /// <summary>What letters are made with.</summary>
    sealed record Makes(LetterModels Models, MailingText Text, IReadOnlyDictionary<long, Mailing> Mailings)
    {
        readonly Dictionary<FileId, LetterPicture?> known = [];

        /// <summary>Looked up once for all letters of a batch.</summary>
        public async Task<LetterPicture?> PictureOf(FileId? picture, LetterPictures pictures, CancellationToken ct)
        {
            if (picture is not { } id) return null;
            if (!known.TryGetValue(id, out var found)) known[id] = found = await pictures.Of(id, ct);
            return found;
        }

        public (RenderedLetter Letter, string? Unsubscribe) Render(Letter letter)
        {
            if (letter.MailingId is not { } id)
            {
                var own = Models.TextFor(letter);
                letter.TextId = own?.Id;
                return (Models.Render(letter, own), Models.UnsubscribeLink(letter));
            }
            var mailing = Mailings[id];
            var link = Text.UnsubscribeLink(letter.MemberId!.Value, mailing);
            return (Text.Render(mailing, letter.ToName, letter.Fields, link, letter.Id, TwoSubjects.GetsOther(mailing, letter.MemberId)), link);
        }
    }

    static async Task<IReadOnlyDictionary<long, Mailing>> Mailings(BrightContext db, IEnumerable<Letter> letters, CancellationToken ct)
    {
        var ids = letters.Where(l => l.MailingId is not null).Select(l => l.MailingId!.Value).Distinct().ToArray();
        return ids.Length == 0 ? new Dictionary<long, Mailing>()
            : await db.Mailings.AsNoTracking().Where(m => ids.Contains(m.Id)).ToDictionaryAsync(m => m.Id, ct);
    }

    async Task Send(IMailSession session, BrightContext db, Makes make, Letter letter, ILookup<MemberId, PushDevices.Shows> devices, Instant now,
        Happenings? happened, CancellationToken ct)
    {
        MimeMessage message;
        try
        {
            // While the clock is being moved, a letter goes out at the moment it was written.
            if (clock.IsStanding) now = Instant.Max(letter.CreatedAt, letter.NotBefore ?? letter.CreatedAt);
            message = await Message(make, letter, now, ct);
        }
        catch (Exception e) when (e is Fluid.ParseException or FormatException or InvalidOperationException or KeyNotFoundException or MimeKit.ParseException
            or ArgumentException || e.GetType().Name == "FluidException")
        {
            // One letter that can't be made never holds up the others.
            Unmakable(log, e, letter.Kind, letter.Id);
            (letter.State, letter.LastError) = (LetterState.Refused, "The letter couldn’t be made: " + e.Message);
            return;
        }
        if (PushDevices.Instead(letter, devices))
        {
            PushDevices.Show(db, ids, letter, devices, message.Subject ?? "", now, instead: true);
            (letter.ShownAt, letter.NotBefore, letter.Subject) = (now, now + PushDevices.LetterAfter, message.Subject);
            return;
        }
        switch (await session.Send(message, ct))
        {
            case MailOutcome.Accepted:
                (letter.State, letter.SentAt, letter.Subject) = (LetterState.Sent, now, message.Subject);
                if (letter.ShownAt is null) PushDevices.Show(db, ids, letter, devices, message.Subject ?? "", now, instead: false);
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

    /// <summary>The hour a letter is about; null where it is about none.</summary>
    static CalendarHour? HourOf(Letter letter)
    {
        long? Number(string name) => long.TryParse(letter.Fields.GetValueOrDefault(name), out var n) ? n : null;
        return Number("hour") is { } id && Number("hour_starts") is { } starts && Number("hour_minutes") is { } minutes
            ? new(id, letter.Fields.GetValueOrDefault("session", ""), Instant.FromUnixTimeSeconds(starts), (int)minutes, (int)(Number("hour_sequence") ?? 0),
                letter.Fields.GetValueOrDefault("hour_place", ""), letter.Fields.GetValueOrDefault("session_path", "/sessions"),
                letter.Fields.GetValueOrDefault("what") is nameof(HourNewsKind.Cancelled) or nameof(HourNewsKind.GaveBack)) : null;
    }

    async Task<MimeMessage> Message(Makes make, Letter letter, Instant now, CancellationToken ct)
    {
        var (rendered, unsubscribe) = make.Render(letter);
        var message = OutgoingLetter.Message(rendered.Subject, rendered, await make.PictureOf(rendered.Picture, pictures, ct), make.Models.SiteName,
            settings.From, letter.ToName, letter.ToAddress, now, $"letter-{letter.Id}",
            letter.Kind != LetterKind.Session ? null : long.TryParse(letter.Fields.GetValueOrDefault("session_number"), out var session)
                ? feeds.Session(new(session), now) : HourOf(letter) is { } hour ? feeds.Hour(hour, now) : null);
        // By which an answer is known to be one to this letter, wherever it is handed in.
        if (letter.MemberId is not null) message.References.Add(AnsweredMail.SignOf(tokens, letter.Id, settings.From.Split('@')[^1]));
        if (unsubscribe is { } link)
        {
            // RFC 2369 and RFC 8058: one click, without a page in between.
            message.Headers.Add(HeaderId.ListUnsubscribe, $"<{link}>");
            message.Headers.Add(HeaderId.ListUnsubscribePost, "List-Unsubscribe=One-Click");
            // RFC 2919: by which mail programs put letters of one kind together.
            if (letter.MailingId is { } many)
                message.Headers.Add(HeaderId.ListId, $"<{(make.Mailings[many].SeriesId is { } s ? $"series-{s}" : "letters")}.{settings.From.Split('@')[^1]}>");
        }
        else if (letter.MailingId is null)
        {
            // RFC 3834: nobody's absence answers it.
            message.Headers.Add("Auto-Submitted", "auto-generated");
        }
        // Whoever answers reaches a person.
        if (MailboxAddress.TryParse(make.Models.HelpAddress, out var help) && help.Address != settings.From) message.ReplyTo.Add(help);
        return message;
    }

    [LoggerMessage(EventName = "MailUnreachable", Level = LogLevel.Warning, Message = "{Why} Letters stay queued and are tried again")]
    static partial void Unreachable(ILogger log, string why);

    [LoggerMessage(EventName = "LetterUnmakable", Level = LogLevel.Error, Message = "The {Kind} letter {Id} couldn't be made")]
    static partial void Unmakable(ILogger log, Exception e, LetterKind kind, long id);
}
