using BrightCircle.App.Billing;
using BrightCircle.App.House;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Releases;

public sealed record EditionDraft(YearMonth Month, string? Title, string? Opening, LocalDateTime? ReleaseAt, bool Announce);

/// <summary>Editions are planned by the team and released by due work, never by hand on the day.</summary>
public sealed class SaveEdition(BrightContext db, Ids ids, Books books, Catalogue catalogue, IClock clock)
{
    public async Task<Result<EditionId>> Do(TeamActor by, EditionId? id, EditionDraft draft, CancellationToken ct)
    {
        by.NeedEditor();
        var now = catalogue.Now;
        var title = string.IsNullOrWhiteSpace(draft.Title) ? draft.Month.ToString("MMMM uuuu", now.Culture) : draft.Title.Trim();
        if (title.Length > 160) return Result.Refused("The title is too long; 160 letters are the most.", "Title");
        if (draft.Month.Year is < 2000 or > 2100) return Result.Refused("Choose a month.", "Month");
        if (now.Editions.Any(e => e.Id != id && e.Month == draft.Month)) return Result.Refused($"{draft.Month.ToString("MMMM uuuu", now.Culture)} has an edition already.", "Month");
        var edition = id is { } known ? await db.Editions.SingleAsync(e => e.Id == known, ct)
            : db.Add(new Edition { Id = ids.Next<EditionId>(), MonthDate = draft.Month.OnDayOfMonth(1) }).Entity;
        if (edition.State == EditionState.Draft)
            edition.ReleaseAt = draft.ReleaseAt is { } local ? now.Calendar.At(local) : now.Calendar.FirstOf(edition.Month, Edition.DefaultTime);
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
        if (scheduled && edition.ReleaseAt <= clock.GetCurrentInstant()) return Result.Refused("Its moment has passed. Choose a later one, then schedule it.", "ReleaseAt");
        var key = $"release-{id.Value}";
        await db.DueWork.Where(d => d.Key == key).ExecuteDeleteAsync(ct);
        edition.Scheduled = scheduled;
        if (scheduled) books.Due(DueKind.Release, id.Value, edition.ReleaseAt, key);
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }
}

/// <summary>The moment of an edition: its ready parts open, and the current members who can open any of them get a letter.</summary>
public sealed class ReleaseEdition(BrightContext db, Catalogue catalogue) : IDueHandler
{
    public DueKind Kind => DueKind.Release;

    public async Task Handle(IReadOnlyList<DueItem> items, Tally tally, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var id = new EditionId(item.Row.SubjectId);
            var edition = await db.Editions.FirstOrDefaultAsync(e => e.Id == id, ct);
            if (edition is null || edition.State == EditionState.Draft) continue;
            var first = edition.ReleasedAt is null;
            edition.Release(item.Moment);
            var parts = await db.Pieces.Where(p => p.EditionId == id && p.Ready && p.ReleasedAt == null).ToListAsync(ct);
            foreach (var part in parts) part.Release(item.Moment);
            tally.Add("parts released", parts.Count);
            if (!first) continue;
            tally.Add("editions released");
            if (edition.Announce && parts.Count > 0) tally.Add("announced to", await Announce(id, parts, item.Moment, ct));
        }
    }

    async Task<int> Announce(EditionId edition, IReadOnlyList<Piece> parts, Instant at, CancellationToken ct)
    {
        var plans = catalogue.Now.Book.PlansThatCover(parts.Select(p => p.Id)).Select(p => p.Id.Value).ToArray();
        return await db.Database.ExecuteSqlAsync($"""
            insert into letters (id, kind, member_id, to_address, to_name, fields, edition_id, key, created_at, state, tries)
            select nextval('ids'), 'Edition', m.id, m.email, m.name, jsonb_build_object(), {edition.Value}, 'edition-' || {edition.Value}::text || '-' || m.id, {at}, 'Queued', 0
            from members m
            where m.wants_news and m.standing in ('Trial', 'Active', 'Grace', 'Ending')
              and exists (select 1 from holdings h where h.member_id = m.id and not h.is_over and h.plan_id = any({plans}))
            on conflict (key) do nothing
            """, ct);
    }

    public Task Committed(CancellationToken ct) => catalogue.Changed(ct);
}
