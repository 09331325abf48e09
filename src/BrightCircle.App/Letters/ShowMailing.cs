using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>A letter to many as a reader gets it: shown, or sent to whoever writes it.</summary>
public sealed class ShowMailing(BrightContext db, Ids ids, Catalogue catalogue, MailingReaders readers, MailingText text, IMailTransport mail,
    MailSettings settings, IClock clock)
{
    /// <summary>A letter as a member gets it, or as somebody would of whom nothing is known.</summary>
    public async Task<(string Name, RenderedLetter Letter)> As(Mailing mailing, MemberId? member, CancellationToken ct)
    {
        var found = member is { } id ? await db.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, ct)
            : await readers.Of(mailing).OrderBy(m => m.Name).ThenBy(m => m.Id).FirstOrDefaultAsync(ct);
        if (found is null) return ("somebody", text.Render(mailing, "", new Dictionary<string, string>(), null));
        var fields = await readers.Fields(mailing, [found], ct);
        return (found.Name, text.Render(mailing, found.Name, fields[found.Id], "#"));
    }

    /// <summary>Sends whoever writes it one, at once, as a member would get it.</summary>
    public async Task<Result> Trial(TeamActor by, Mailing mailing, CancellationToken ct)
    {
        Mailings.NeedRole(by);
        var to = await db.Users.Where(a => a.Id == by.AccountId).Select(a => a.Email).FirstAsync(ct);
        var (_, letter) = await As(mailing, null, ct);
        try
        {
            await using var session = await mail.Connect(ct);
            var message = OutgoingLetter.Message($"Trial: {letter.Subject}", letter, catalogue.Now.Site!.Name, settings.From, by.Name, to!,
                clock.GetCurrentInstant(),
                $"trial-{ids.Next()}");
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
