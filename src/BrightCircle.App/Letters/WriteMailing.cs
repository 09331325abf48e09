using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>
/// Writes the copies of a letter to many into the outbox, so many at a time, in the order of members' numbers. Where it stopped is written with the copies, and
/// a copy's key names letter and member: killed, held up or done twice, nobody gets two and nobody is left out.
/// </summary>
public sealed class WriteMailing(BrightContext db, Ids ids, Catalogue catalogue, MailingReaders readers, MailingCopies copies) : IDueHandler
{
    const int AtOnce = 1000;
    public DueKind Kind => DueKind.Mailing;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var id = item.Row.SubjectId;
            await db.Database.ExecuteSqlAsync($"select 1 from mailings where id = {id} for update", ct);
            if (await db.Mailings.FirstOrDefaultAsync(m => m.Id == id, ct) is { SendAt: not null, PausedAt: null, StoppedAt: null, WrittenAt: null } mailing)
                await Some(mailing, item.Moment, happened, ct);
        }
    }

    async Task Some(Mailing mailing, Instant at, Happenings happened, CancellationToken ct)
    {
        mailing.BegunAt ??= at;
        // A minute's share of an hour, one at least; the next ones come when as many may have gone.
        var most = mailing.PerHour is { } rate ? Math.Clamp(rate / 60, 1, AtOnce) : AtOnce;
        var after = mailing.After;
        var those = await readers.Of(mailing).Where(m => m.Id > after).OrderBy(m => m.Id).Take(most).ToListAsync(ct);
        var calendar = catalogue.Now.Calendar;
        // On each reader's own clock: whoever's time has come gets it at once.
        Instant? NotBefore(Member m) => mailing.WhereTheyLive && calendar.Of(m.ZoneId).At(mailing.SendAt!.Value) is var theirs && theirs > at ? theirs : null;
        if (those.Count > 0)
        {
            happened.Add("letters to many", await copies.Write(mailing, those, m => $"mailing-{mailing.Id}-{m.Id.Value}", NotBefore, at, ct));
            mailing.After = those[^1].Id;
        }
        if (those.Count < most) mailing.WrittenAt = at;
        else
        {
            var next = mailing.PerHour is { } hourly ? at + Duration.FromSeconds(most * 3600.0 / hourly) : at;
            db.PutDue(ids, DueKind.Mailing, mailing.Id, next, $"mailing-{mailing.Id}-{ids.Next()}");
        }
    }
}
