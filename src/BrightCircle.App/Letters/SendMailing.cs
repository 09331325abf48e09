using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>Sends a letter to many, now or later; takes it back, holds it up, goes on, stops it.</summary>
public sealed class SendMailing(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, IClock clock, Wake wake)
{
    /// <summary>The earliest place on earth: whoever lives there has a time of day first.</summary>
    static readonly Offset FirstOnEarth = Offset.FromHours(14);

    /// <summary>Sends it: now, or at a time of the site's clock or of each reader's.</summary>
    /// <param name="at">Null for now.</param>
    public async Task<Result> Do(TeamActor by, long id, LocalDateTime? at, bool whereTheyLive, CancellationToken ct)
    {
        Mailings.NeedRoleToOne(by);
        var now = catalogue.Now;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(id, ct) is not { } m) return Result.Refused("This letter isn’t here any more.");
        Mailings.NeedRoleFor(by, m);
        if (m.State is not (MailingState.Draft or MailingState.Planned)) return Result.Refused("It is on its way already.");
        if (m.RoutineId is not null) return Result.Refused("This letter is a step of a routine, and goes to whoever comes to it.");
        if (m.Subject.Length == 0) return Result.Refused("A letter needs a subject.", "Subject");
        if (m.AudienceId is null && m.MemberId is null) return Result.Refused("Choose to whom it goes.", "Audience");
        if (Content.HtmlToMarkdown.Write(m.Body).Trim().Length == 0) return Result.Refused("The letter is empty.", "Body");
        if (m.OtherSubject is not null && TwoSubjects.CantTell(m.Body, now.Site!) is { } cant) return Result.Refused(cant, "OtherSubject");
        if (m.OtherSubject is not null && at is not null && whereTheyLive)
            return Result.Refused("Two subjects are tried on all at the same time. Send it at a time here.", "SendAt");
        var moment = clock.GetCurrentInstant();
        if (at is { } later && now.Calendar.At(later) <= moment) return Result.Refused("That moment has passed.", "SendAt");
        if (at is { Year: > 2200 }) return Result.Refused("Choose a day within reason.", "SendAt");
        var begins = at is not { } local ? moment : whereTheyLive ? Instant.Max(moment, local.WithOffset(FirstOnEarth).ToInstant()) : now.Calendar.At(local);
        (m.SendAt, m.WhereTheyLive) = (at ?? now.Calendar.Local(moment), at is not null && whereTheyLive);
        await db.DueWork.Where(d => d.Kind == DueKind.Mailing && d.SubjectId == id).ExecuteDeleteAsync(ct);
        db.PutDue(ids, DueKind.Mailing, id, begins, $"mailing-{id}-{ids.Next()}");
        var to = m.AudienceId is { } audience ? now.People.AudienceById[audience].Name
            : await db.Members.Where(x => x.Id == m.MemberId).Select(x => x.Name).FirstAsync(ct);
        deeds.Note(by, $"sends “{m.Subject}” to {to}" + (at is { } day ? day.ToString("' on 'd MMMM', 'HH:mm", now.Culture) : ""), $"/desk/mailings/{id}");
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>A planned one is a draft again.</summary>
    public Task<Result> Withdraw(TeamActor by, long id, CancellationToken ct) => Change(by, id, m => m.State != MailingState.Planned
        ? "It isn’t planned any more." : Then(() => (m.SendAt, m.WhereTheyLive) = (null, false)), dropDue: true, ct);

    /// <summary>Holds it up: what is in the outbox waits, and nothing more is written.</summary>
    public Task<Result> Pause(TeamActor by, long id, CancellationToken ct) =>
        Change(by, id, m => m is not { BegunAt: not null, PausedAt: null, StoppedAt: null }
        ? "It isn’t on its way." : Then(() => m.PausedAt = clock.GetCurrentInstant()), dropDue: true, ct);

    public async Task<Result> GoOn(TeamActor by, long id, CancellationToken ct)
    {
        var done = await Change(by, id, m => m is not { PausedAt: not null, StoppedAt: null } ? "It isn’t held up." : Then(() =>
        {
            m.PausedAt = null;
            if (m.WrittenAt is null) db.PutDue(ids, DueKind.Mailing, id, clock.GetCurrentInstant(), $"mailing-{id}-{ids.Next()}");
        }), dropDue: false, ct);
        wake.Up();
        return done;
    }

    /// <summary>Ends it: copies that haven't gone don't.</summary>
    public Task<Result> Stop(TeamActor by, long id, CancellationToken ct) => Change(by, id, m => m.StoppedAt is not null || m.BegunAt is null
        ? "It isn’t on its way." : Then(() => m.StoppedAt = clock.GetCurrentInstant()), dropDue: true, ct, async () =>
            await db.Letters.Where(l => l.MailingId == id && l.State == LetterState.Queued).ExecuteDeleteAsync(ct));

    static string? Then(Action act)
    {
        act();
        return null;
    }

    async Task<Result> Change(TeamActor by, long id, Func<Mailing, string?> change, bool dropDue, CancellationToken ct, Func<Task>? also = null)
    {
        Mailings.NeedRoleToOne(by);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(id, ct) is not { } m) return Result.Refused("This letter isn’t here any more.");
        Mailings.NeedRoleFor(by, m);
        if (change(m) is { } wrong) return Result.Refused(wrong);
        if (dropDue) await db.DueWork.Where(d => d.Kind == DueKind.Mailing && d.SubjectId == id).ExecuteDeleteAsync(ct);
        if (also is not null) await also();
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    async Task<Mailing?> Locked(long id, CancellationToken ct)
    {
        await db.Database.ExecuteSqlAsync($"select 1 from mailings where id = {id} for update", ct);
        return await db.Mailings.FirstOrDefaultAsync(m => m.Id == id, ct);
    }
}
