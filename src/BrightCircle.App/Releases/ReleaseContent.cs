using BrightCircle.App.House;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Releases;

/// <summary>What a release or its withdrawal means for members, worked out before it is done.</summary>
/// <param name="Opens">Members for whom something opens that was closed.</param>
/// <param name="Closes">Members for whom something closes that was open.</param>
/// <param name="Begun">Of those, who had opened it.</param>
public sealed record ReleaseEffect(int Opens, int Closes, int Begun, IReadOnlyList<string> SomeNames);

/// <summary>
/// Opens and closes pieces and lessons. Nothing is opened by a page: whatever is ready and whose moment has come is put into what falls due, and the worker opens it.
/// </summary>
public sealed class ReleaseContent(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, Wake wake, MemberReader reader)
{
    CatalogueSnapshot Now => catalogue.Now;

    /// <summary>A ready piece whose edition is out already opens with the next round of due work.</summary>
    public void WhenLate(Piece piece, Instant at)
    {
        if (piece.Ready && (piece.ReleasedAt is not null || piece.EditionId is { } e && Now.EditionById.GetValueOrDefault(e)?.ReleasedAt is not null)) Due(piece.Id, at);
    }

    /// <summary>A ready lesson of a released piece, unless it waits for an edition of its own.</summary>
    public void WhenLate(Lesson lesson, Piece piece, Instant at)
    {
        if (lesson.Ready && lesson.ReleasedAt is null && piece.ReleasedAt is not null && !WaitsFor(lesson, piece)) Due(piece.Id, at);
    }

    bool WaitsFor(Lesson lesson, Piece piece) => lesson.EditionId is { } e && e != piece.EditionId && Now.EditionById.GetValueOrDefault(e)?.ReleasedAt is null;

    void Due(PieceId piece, Instant at)
    {
        var key = $"release-piece-{piece.Value}-{ids.Next()}";
        db.DueWork.Add(new() { Id = ids.Next(), Kind = DueKind.ReleasePiece, SubjectId = piece.Value, DueAt = at, ReadyAt = at, Key = key });
    }

    public void Wake() => wake.Up();

    /// <summary>Opens a ready piece that belongs to no edition, now or at a moment.</summary>
    public async Task<Result> Open(TeamActor by, PieceId id, LocalDateTime? at, CancellationToken ct)
    {
        by.NeedEditor();
        var piece = await db.Pieces.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return Result.Refused("This piece isn’t here any more.");
        if (piece.ReleasedAt is not null) return Result.Refused("It is open already.");
        if (piece.EditionId is not null) return Result.Refused("It opens with its edition.");
        if (!piece.Ready) return Result.Refused("It is a draft. Publish it first.");
        var moment = at is { } local ? Now.Calendar.At(local) : clock.GetCurrentInstant();
        if (at is not null && moment <= clock.GetCurrentInstant()) return Result.Refused("That moment has passed.", "At");
        await Withdrawn(id, ct);
        Due(id, moment);
        await db.SaveChangesAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>When a piece without an edition opens, if that is planned.</summary>
    public async Task<Instant?> OpensAt(PieceId id, CancellationToken ct) =>
        await db.DueWork.Where(d => d.Kind == DueKind.ReleasePiece && d.SubjectId == id.Value).OrderBy(d => d.DueAt).Select(d => (Instant?)d.DueAt).FirstOrDefaultAsync(ct);

    /// <summary>Takes back that a piece opens by itself.</summary>
    public async Task Withdrawn(PieceId id, CancellationToken ct) =>
        await db.DueWork.Where(d => d.Kind == DueKind.ReleasePiece && d.SubjectId == id.Value).ExecuteDeleteAsync(ct);

    /// <summary>Closes a released piece again: it is a draft until it is published anew. What members did in it is kept.</summary>
    public async Task<Result> Withdraw(TeamActor by, PieceId id, CancellationToken ct)
    {
        by.NeedEditor();
        var piece = await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return Result.Refused("This piece isn’t here any more.");
        if (piece.ReleasedAt is null) return Result.Refused("It isn’t released.");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await Withdrawn(id, ct);
        await Close([piece], stayReady: false, ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed([id], ct);
        return Result.Done;
    }

    /// <summary>Closes pieces with their lessons.</summary>
    internal async Task Close(IReadOnlyList<Piece> pieces, bool stayReady, CancellationToken ct)
    {
        var list = pieces.Select(p => p.Id).ToArray();
        foreach (var p in pieces)
        {
            p.Withdraw();
            p.Ready &= stayReady;
            p.Version++;
        }
        foreach (var l in await db.Lessons.Where(l => list.Contains(l.PieceId) && l.ReleasedAt != null).ToListAsync(ct)) l.Withdraw();
    }

    /// <summary>For whom the pieces open or close if they were released (or withdrawn) now: decided for every member who holds anything, by the same rules as everywhere.</summary>
    public async Task<ReleaseEffect> Effect(IReadOnlyCollection<PieceId> pieces, bool withdraw, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var known = pieces.Where(Now.PieceById.ContainsKey).ToHashSet();
        var after = Changed(known, withdraw, at);
        int opens = 0, closes = 0;
        var names = new List<string>();
        var closed = new List<MemberId>();
        await foreach (var (member, name, holdings) in reader.AllHoldings(ct))
        {
            var facts = MemberFacts.From(holdings, at);
            var (more, less) = (false, false);
            foreach (var id in known)
            {
                var (was, willBe) = (Now.Book.Decide(facts, id, at).IsOpen, after.Decide(facts, id, at).IsOpen);
                more |= !was && willBe;
                less |= was && !willBe;
            }
            if (more) opens++;
            if (less) closes++;
            if (less) closed.Add(member);
            if ((more || less) && names.Count < 5) names.Add(name);
        }
        var lessons = known.SelectMany(id => Now.PieceById[id].Outline.Lessons).Select(l => l.Id).ToArray();
        var begun = closes == 0 ? 0 : await db.Openings.Where(o => lessons.Contains(o.LessonId) && closed.Contains(o.MemberId)).Select(o => o.MemberId).Distinct().CountAsync(ct);
        return new(opens, closes, begun, names);
    }

    /// <summary>The book as it would be.</summary>
    AccessBook Changed(HashSet<PieceId> pieces, bool withdraw, Instant at) => new(Now.Plans, Now.Pieces.Select(p =>
    {
        if (!pieces.Contains(p.Id)) return p;
        var copy = new Piece { Id = p.Id, ShelfId = p.ShelfId, EditionId = p.EditionId, Ready = p.Ready && !withdraw };
        if (!withdraw) copy.Release(p.ReleasedAt ?? at);
        return copy;
    }), Now.Editions);
}

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
            && (l.EditionId == null || l.EditionId == edition || db.Pieces.Any(p => p.Id == l.PieceId && p.EditionId == l.EditionId) || db.Editions.Any(e => e.Id == l.EditionId && e.ReleasedAt != null))).ToListAsync(ct);
        foreach (var l in lessons) l.Release(at);
        return lessons.Count;
    }

    public Task Committed(CancellationToken ct) => catalogue.Changed(changed, ct);
}
