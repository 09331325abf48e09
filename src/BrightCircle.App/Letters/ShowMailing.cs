using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Letters;

/// <summary>A letter to many as a reader gets it: shown, or sent to whoever writes it.</summary>
public sealed class ShowMailing(BrightContext db, MailingReaders readers, MailingText text, SendTrial trial)
{
    /// <summary>A letter as a member gets it, or as somebody would of whom nothing is known.</summary>
    public async Task<(string Name, RenderedLetter Letter)> As(Mailing mailing, MemberId? member, CancellationToken ct)
    {
        var found = member is { } id ? await db.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, ct)
            : await readers.Of(mailing).OrderBy(m => m.Name).ThenBy(m => m.Id).FirstOrDefaultAsync(ct);
        if (found is null) return ("somebody", text.Render(mailing, "", new Dictionary<string, string>(), null));
        var fields = await readers.Fields(mailing, [found], ct);
        return (found.Name, text.Render(mailing, found.Name, fields[found.Id], mailing.MemberId is null ? "#" : null));
    }

    /// <summary>Sends whoever writes it one, at once, as a member would get it.</summary>
    public async Task<Result> Trial(TeamActor by, Mailing mailing, CancellationToken ct)
    {
        Mailings.NeedRoleFor(by, mailing);
        return await trial.Do(by, (await As(mailing, null, ct)).Letter, ct);
    }
}
