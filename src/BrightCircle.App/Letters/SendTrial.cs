using BrightCircle.App.Catalogues;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>Sends whoever writes a letter one of it, at once, beside the outbox.</summary>
public sealed class SendTrial(BrightContext db, Ids ids, Catalogue catalogue, IMailTransport mail, MailSettings settings,
    LetterPictures pictures, IClock clock)
{
    public async Task<Result> Do(TeamActor by, RenderedLetter letter, CancellationToken ct)
    {
        var to = await db.Users.Where(a => a.Id == by.AccountId).Select(a => a.Email).FirstAsync(ct);
        try
        {
            await using var session = await mail.Connect(ct);
            var message = OutgoingLetter.Message($"Trial: {letter.Subject}", letter, await pictures.Of(letter.Picture, ct),
                catalogue.Now.Site!.Name, settings.From, by.Name, to!,
                clock.GetCurrentInstant(), $"trial-{ids.Next()}");
            return await session.Send(message, ct) switch
            {
                MailOutcome.Accepted => Result.Done,
                MailOutcome.Refused r => Result.Refused($"{to} refused it: {r.Why}"),
                MailOutcome.Later l => Result.Refused($"The mail server asks to try later: {l.Why}"),
                _ => throw new InvalidOperationException("No such outcome."),
            };
        }
        catch (MailUnreachableException e)
        {
            return Result.Refused(e.Message);
        }
    }
}
