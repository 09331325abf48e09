using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Releases;

/// <param name="Day">Any day in it.</param>
public sealed record EditionDraft(EditionSpan Span, LocalDate Day, string? Title, string? Opening, LocalDateTime? ReleaseAt, bool Announce)
{
    public static EditionDraft ForMonth(YearMonth month, string? title = null, string? opening = null, LocalDateTime? releaseAt = null, bool announce = true) =>
        new(EditionSpan.Month, month.OnDayOfMonth(1), title, opening, releaseAt, announce);
}

/// <summary>Editions are planned by the team and released by due work, never by hand on the day.</summary>
public sealed class SaveEdition(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, ReleaseContent release, Wake wake)
{
    public async Task<Result<EditionId>> Do(TeamActor by, EditionId? id, EditionDraft draft, CancellationToken ct)
    {
        by.NeedEditor();
        var now = catalogue.Now;
        if (draft.Day.Year is < 2000 or > 2100) return Result.Refused("Choose a day from 2000 to 2100.", "Day");
        var first = Edition.FirstDayOf(draft.Span, draft.Day);
        var name = Edition.NameFor(draft.Span, first, now.Culture);
        var title = string.IsNullOrWhiteSpace(draft.Title) ? name : draft.Title.Trim();
        if (title.Length > 160) return Result.Refused("The title is too long; 160 letters are the most.", "Title");
        if (now.Editions.Any(e => e.Id != id && e.Span == draft.Span && e.FirstDay == first)) return Result.Refused($"{name} has an edition already.", "Day");
        var edition = id is { } known ? await db.Editions.SingleAsync(e => e.Id == known, ct)
            : db.Add(new Edition { Id = ids.Next<EditionId>(), Span = draft.Span, FirstDay = first }).Entity;
        if (edition.State == EditionState.Draft)
            edition.ReleaseAt = now.Calendar.At(draft.ReleaseAt ?? edition.FirstDay + Edition.DefaultTime);
        (edition.Title, edition.Opening, edition.Announce) = (title, draft.Opening?.Trim() ?? "", draft.Announce);
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return edition.Id;
    }

    /// <summary>Puts the release into what falls due, or takes it out again.</summary>
    public async Task<Result> Schedule(TeamActor by, EditionId id, bool scheduled, CancellationToken ct)
    {
        by.NeedEditor();
        var edition = await db.Editions.FirstOrDefaultAsync(e => e.Id == id, ct);
        if (edition is null) return Result.Refused("This edition isn’t here any more.");
        if (edition.State == EditionState.Released) return Result.Refused("It has been released already.");
        if (scheduled && edition.ReleaseAt <= clock.GetCurrentInstant())
            return Result.Refused("Its moment has passed. Choose a later one, then schedule it.", "ReleaseAt");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await Put(edition, scheduled, ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    async Task Put(Edition edition, bool scheduled, CancellationToken ct)
    {
        var key = $"release-{edition.Id.Value}";
        await db.DueWork.Where(d => d.Key == key).ExecuteDeleteAsync(ct);
        edition.Scheduled = scheduled;
        if (scheduled) db.PutDue(ids, DueKind.Release, edition.Id.Value, edition.ReleaseAt, key);
    }

    /// <summary>Another moment for an edition that isn't out; a scheduled one stays scheduled.</summary>
    public async Task<Result> Reschedule(TeamActor by, EditionId id, LocalDateTime at, CancellationToken ct)
    {
        by.NeedEditor();
        var edition = await db.Editions.FirstOrDefaultAsync(e => e.Id == id, ct);
        if (edition is null) return Result.Refused("This edition isn’t here any more.");
        if (edition.State == EditionState.Released) return Result.Refused("It has been released already. Withdraw it first.");
        var moment = catalogue.Now.Calendar.At(at);
        if (moment <= clock.GetCurrentInstant()) return Result.Refused("That moment has passed. Choose a later one.", "ReleaseAt");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        edition.ReleaseAt = moment;
        await Put(edition, edition.Scheduled, ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>Takes a released edition back: its parts close, and it is a draft again. What members did in it is kept.</summary>
    public async Task<Result> Withdraw(TeamActor by, EditionId id, CancellationToken ct)
    {
        by.NeedEditor();
        var edition = await db.Editions.FirstOrDefaultAsync(e => e.Id == id, ct);
        if (edition?.ReleasedAt is null) return Result.Refused("It isn’t released.");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        edition.Withdraw();
        await release.Close(await db.Pieces.Where(p => p.EditionId == id && p.ReleasedAt != null).ToListAsync(ct), stayReady: true, ct);
        foreach (var l in await db.Lessons.Where(l => l.EditionId == id && l.ReleasedAt != null).ToListAsync(ct)) l.Withdraw();
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>Takes away an edition that isn't out; its parts are to come.</summary>
    public async Task<Result> Remove(TeamActor by, EditionId id, CancellationToken ct)
    {
        by.NeedEditor();
        var edition = await db.Editions.FirstOrDefaultAsync(e => e.Id == id, ct);
        if (edition is null) return Result.Refused("This edition isn’t here any more.");
        if (edition.ReleasedAt is not null) return Result.Refused("It is out. Withdraw it first.");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await Put(edition, false, ct);
        await db.Pieces.Where(p => p.EditionId == id).ExecuteUpdateAsync(u => u.SetProperty(p => p.EditionId, (EditionId?)null), ct);
        await db.Lessons.Where(l => l.EditionId == id).ExecuteUpdateAsync(u => u.SetProperty(l => l.EditionId, (EditionId?)null), ct);
        db.Remove(edition);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>Writes to the members about an edition that is out and wasn't announced: now, or at a moment.</summary>
    public async Task<Result> AnnounceLater(TeamActor by, EditionId id, LocalDateTime? at, CancellationToken ct)
    {
        by.NeedEditor();
        var edition = await db.Editions.AsNoTracking().FirstOrDefaultAsync(e => e.Id == id, ct);
        if (edition?.ReleasedAt is null) return Result.Refused("It isn’t out yet.");
        if (edition.AnnouncedAt is not null) return Result.Refused("The members have been written to already.");
        var moment = at is { } local ? catalogue.Now.Calendar.At(local) : clock.GetCurrentInstant();
        if (at is not null && moment <= clock.GetCurrentInstant()) return Result.Refused("That moment has passed.", "AnnounceAt");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var key = $"announce-{id.Value}";
        await db.DueWork.Where(d => d.Key == key).ExecuteDeleteAsync(ct);
        db.PutDue(ids, DueKind.Announce, id.Value, moment, key);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>
    /// An edition's parts again, as drafts, in another edition: last year's November in this one. Names that carry a month keep it; years count on.
    /// </summary>
    public async Task<Result<EditionId>> CopyInto(TeamActor by, EditionId from, YearMonth month, Content.DuplicatePiece duplicate, CancellationToken ct)
    {
        by.NeedEditor();
        var now = catalogue.Now;
        if (!now.EditionById.TryGetValue(from, out var source)) return Result.Refused("This edition isn’t here any more.");
        var target = now.EditionsIn[month].FirstOrDefault(e => e.Span == EditionSpan.Month);
        if (target?.ReleasedAt is not null) return Result.Refused($"{target.Title} is out already. Choose a month to come.");
        EditionId id;
        if (target is not null) id = target.Id;
        else
        {
            var title = source.Title.Replace(source.FirstDay.Year.ToString(now.Culture), month.Year.ToString(now.Culture), StringComparison.Ordinal);
            var made =
                await Do(by, null, EditionDraft.ForMonth(month, source.Month.Month == month.Month ? title : null, source.Opening, announce: source.Announce),
                ct);
            if (!made.Ok) return made;
            id = made.Value;
        }
        foreach (var piece in now.PartsOf[from])
        {
            var copy = await duplicate.Do(by, piece.Id, ct, intoEdition: id,
                title: piece.Title.Replace(source.FirstDay.Year.ToString(now.Culture), month.Year.ToString(now.Culture), StringComparison.Ordinal));
            if (!copy.Ok) return Result.Refused(copy.Refusal!);
        }
        return id;
    }
}
