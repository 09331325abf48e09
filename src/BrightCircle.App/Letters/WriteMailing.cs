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
        // Two subjects are tried first; what the try has shown is read when its hours are over.
        var part = mailing is { OtherSubject: not null, TriedAt: null } ? mailing.TryPart : null;
        if (mailing is { OtherSubject: not null, TriedAt: { } tried, Tried: null })
        {
            if (tried + Duration.FromHours(mailing.TryHours!.Value) is var decides && decides > at)
            {
                Next(mailing, decides);
                return;
            }
            mailing.Tried = await WhatWasOpened(mailing, ct);
        }
        // A minute's share of an hour, one at least; the next ones come when as many may have gone.
        var share = mailing.PerHour is { } rate ? Math.Clamp(rate / 60, 1, AtOnce) : AtOnce;
        var most = part is { } of ? Math.Clamp(share * 100 / of, 1, AtOnce) : share;
        var after = mailing.After;
        var those = await readers.Of(mailing).Where(m => m.Id > after).OrderBy(m => m.Id).Take(most).ToListAsync(ct);
        var calendar = catalogue.Now.Calendar;
        // On each reader's own clock: whoever's time has come gets it at once.
        Instant? NotBefore(Member m) => mailing.WhereTheyLive && calendar.Of(m.ZoneId).At(mailing.SendAt!.Value) is var theirs && theirs > at ? theirs : null;
        if (those.Count > 0)
        {
            IReadOnlyList<Member> now = part is { } some ? [.. those.Where(m => TwoSubjects.TriedOn(mailing.Id, m.Id, some) is not null)] : those;
            happened.Add("letters to many", await copies.Write(mailing, now, m => $"mailing-{mailing.Id}-{m.Id.Value}", NotBefore, at, ct));
            mailing.After = those[^1].Id;
        }
        if (those.Count == most) Next(mailing, mailing.PerHour is { } hourly ? at + Duration.FromSeconds(share * 3600.0 / hourly) : at);
        else if (part is null) mailing.WrittenAt = at;
        else
        {
            // The rest is gone through from the beginning; whoever was tried on has theirs.
            (mailing.TriedAt, mailing.After) = (at, default);
            Next(mailing, at + Duration.FromHours(mailing.TryHours!.Value));
        }
    }

    void Next(Mailing mailing, Instant at) => db.PutDue(ids, DueKind.Mailing, mailing.Id, at, $"mailing-{mailing.Id}-{ids.Next()}");

    /// <summary>How many got each subject, and how many of them opened a link.</summary>
    async Task<SubjectsTried> WhatWasOpened(Mailing mailing, CancellationToken ct)
    {
        var sent = await db.Letters.Where(l => l.MailingId == mailing.Id && l.State == LetterState.Sent && l.MemberId != null)
            .Select(l => new { Member = l.MemberId!.Value, Opened = db.OpenedLinks.Any(o => o.LetterId == l.Id) }).ToListAsync(ct);
        int Count(bool other, bool opened) => sent.Count(l =>
            TwoSubjects.TriedOn(mailing.Id, l.Member, mailing.TryPart!.Value) == other && (!opened || l.Opened));
        return new(Count(false, false), Count(false, true), Count(true, false), Count(true, true));
    }
}
