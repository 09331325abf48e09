using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Releases;

/// <summary>Writes to the current members for whom an edition opens something.</summary>
public sealed class AnnounceEdition(BrightContext db, Catalogue catalogue, MemberReader reader) : IDueHandler
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

    /// <summary>Decides for every member who holds anything, by the same rules as everywhere; a letter goes to those for whom something opens, and names
    /// it.</summary>
    public async Task Write(Edition edition, Instant at, Happenings happened, CancellationToken ct)
    {
        var now = catalogue.Now;
        (string Name, Core.Access.Thing Thing)[] parts = [
            .. now.PartsOf[edition.Id].Where(p => p.Ready).Select(p => ($"p{p.Id.Value}", (Core.Access.Thing)p.Id)),
            .. now.LessonPartsOf[edition.Id].Where(l => l.Ready).Select(l => ($"l{l.Id.Value}", (Core.Access.Thing)l.Id))];
        edition.AnnouncedAt = at;
        var letters = new List<(long Member, string Email, string Name, string Fields)>();
        await foreach (var holder in reader.AllHolders(ct))
        {
            if (!holder.WantsNews) continue;
            var facts = holder.FactsAt(at);
            var theirs = parts.Where(p => now.Book.Decide(facts, p.Thing, at) is { IsOpen: true, Rule: not Core.Access.AccessRule.Teaser }).Select(p => p.Name)
                .ToArray();
            if (theirs.Length == 0) continue;
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
