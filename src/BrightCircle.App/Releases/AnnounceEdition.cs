using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Releases;

/// <summary>Writes to the current members for whom an edition opens something.</summary>
public sealed class AnnounceEdition(BrightContext db, Catalogue catalogue, EditionReaders readers) : IDueHandler
{
    const int BatchSize = 1000;
    public DueKind Kind => DueKind.Announce;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var id = new EditionId(item.Row.SubjectId);
            if (await db.Editions.FirstOrDefaultAsync(e => e.Id == id, ct) is { ReleasedAt: not null, AnnouncedAt: null } edition)
                await Write(edition, item.Moment, happened, ct);
        }
    }

    /// <summary>A letter goes to those for whom something opens, and names it.</summary>
    public async Task Write(Edition edition, Instant at, Happenings happened, CancellationToken ct)
    {
        edition.AnnouncedAt = at;
        var letters = new List<(long Member, string Email, string Name, string Fields)>();
        await foreach (var (holder, theirs) in readers.Of(edition.Id, at, ct))
        {
            if (!holder.WantsNews) continue;
            letters.Add((holder.Id.Value, holder.Email, holder.Name, $$"""{"things":"{{string.Join(' ', theirs)}}"}"""));
            if (letters.Count == BatchSize) await Queue(edition, letters, at, happened, ct);
        }
        await Queue(edition, letters, at, happened, ct);
    }

    async Task Queue(Edition edition, List<(long Member, string Email, string Name, string Fields)> letters, Instant at, Happenings happened,
        CancellationToken ct)
    {
        if (letters.Count == 0) return;
        var (members, emails, names, fields) = (letters.Select(l => l.Member).ToArray(), letters.Select(l => l.Email).ToArray(),
            letters.Select(l => l.Name).ToArray(), letters.Select(l => l.Fields).ToArray());
        happened.Add("announced to", await db.Database.ExecuteSqlAsync($"""
            insert into letters (id, kind, member_id, to_address, to_name, fields, edition_id, key, created_at, state, tries)
            select nextval('ids'), 'Edition', m, email, name, fields::jsonb, {edition.Id.Value}, 'edition-' || {edition.Id.Value}::text || '-' || m, {at},
                'Queued', 0
            from unnest({members}, {emails}, {names}, {fields}) as l(m, email, name, fields)
            on conflict (key) do nothing
            """, ct));
        letters.Clear();
    }

    public Task Committed(CancellationToken ct) => catalogue.Changed(ct);
}
