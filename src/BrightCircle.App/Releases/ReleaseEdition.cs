using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Releases;

/// <summary>The moment of an edition: its ready parts open, and the current members who can open any of them get a letter.</summary>
public sealed class ReleaseEdition(BrightContext db, Ids ids, Catalogue catalogue, AnnounceEdition announce) : IDueHandler
{
    public DueKind Kind => DueKind.Release;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var id = new EditionId(item.Row.SubjectId);
            var edition = await db.Editions.FirstOrDefaultAsync(e => e.Id == id, ct);
            if (edition is null || edition.State != EditionState.Scheduled) continue;
            edition.Release(item.Moment);
            var parts = await db.Pieces.Where(p => p.EditionId == id && p.Ready && p.ReleasedAt == null && p.TrashedAt == null).ToListAsync(ct);
            foreach (var part in parts) part.Release(item.Moment);
            await ReleasePiece.Lessons(db, parts, id, item.Moment, ct);
            // Lessons of pieces that are out already, which open with this edition.
            var lessons = await db.Lessons.Where(l => l.EditionId == id && l.Ready && l.ReleasedAt == null && l.TrashedAt == null
                && db.Pieces.Any(p => p.Id == l.PieceId && p.ReleasedAt != null)).ToListAsync(ct);
            foreach (var lesson in lessons) lesson.Release(item.Moment);
            happened.Add("parts released", parts.Count + lessons.Count);
            happened.Add("editions released");
            if (edition.Announce && parts.Count + lessons.Count > 0) await announce.Write(edition, item.Moment, happened, ct);
            if (parts.Count + lessons.Count == 0) continue;
            db.PutDue(ids, DueKind.RoutineEdition, id.Value, item.Moment, $"routine-edition-{id.Value}");
            if (catalogue.Now.Spaces.Any(s => s.ByEdition)) db.PutDue(ids, DueKind.SpaceOfEdition, id.Value, item.Moment, $"space-of-{id.Value}");
        }
    }

    public Task Committed(CancellationToken ct) => catalogue.Changed(ct);
}
