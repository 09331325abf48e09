using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Releases;

/// <summary>The moment of a piece that opens outside its edition's own moment: it, and whatever in it is ready.</summary>
public sealed class ReleasePiece(BrightContext db, Catalogue catalogue) : IDueHandler
{
    readonly List<PieceId> changed = [];
    public DueKind Kind => DueKind.ReleasePiece;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var id = new PieceId(item.Row.SubjectId);
            var piece = await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
            if (piece is null || !piece.Ready) continue;
            // Its edition may have been taken back meanwhile.
            if (piece.ReleasedAt is null && piece.EditionId is { } e && !await db.Editions.AnyAsync(x => x.Id == e && x.ReleasedAt != null, ct)) continue;
            if (piece.ReleasedAt is null)
            {
                piece.Release(item.Moment);
                piece.OpensAt = null;
                happened.Add("parts released");
            }
            happened.Add("lessons released", await Lessons(db, [piece], null, item.Moment, ct));
            changed.Add(id);
        }
    }

    /// <summary>Opens the ready lessons of released pieces, as far as they don't wait for another edition.</summary>
    internal static async Task<int> Lessons(BrightContext db, IReadOnlyList<Piece> pieces, EditionId? edition, Instant at, CancellationToken ct)
    {
        var list = pieces.Where(p => p.ReleasedAt is not null).Select(p => p.Id).ToArray();
        var lessons = await db.Lessons.Where(l => list.Contains(l.PieceId) && l.Ready && l.ReleasedAt == null && l.TrashedAt == null
            && (l.EditionId == null || l.EditionId == edition || db.Pieces.Any(p => p.Id == l.PieceId && p.EditionId == l.EditionId)
                || db.Editions.Any(e => e.Id == l.EditionId && e.ReleasedAt != null))).ToListAsync(ct);
        foreach (var l in lessons) l.Release(at);
        return lessons.Count;
    }

    public Task Committed(CancellationToken ct) => catalogue.Changed(changed, ct);
}
