using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Letters;

/// <summary>A letter of the outbox as it reads, for the team: what is the member's alone is left out.</summary>
public sealed class LetterAsSent(BrightContext db, LetterModels models, MailingText text)
{
    public async Task<RenderedLetter> Of(Letter letter, CancellationToken ct) => letter.MailingId is { } id
        && await db.Mailings.AsNoTracking().FirstAsync(m => m.Id == id, ct) is var mailing
        ? text.Render(mailing, letter.ToName, letter.Fields, null, other: TwoSubjects.GetsOther(mailing, letter.MemberId))
        : models.Render(letter, letter.State != LetterState.Sent ? models.TextFor(letter)
            : letter.TextId is { } own ? await db.LetterTexts.AsNoTracking().FirstAsync(t => t.Id == own, ct) : null, showLink: false);
}
