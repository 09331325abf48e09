using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
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
/// Opens and closes pieces and lessons. Nothing is opened by a page: whatever is ready and whose moment has come is put into what falls due, and the worker
/// opens it.
/// </summary>
public sealed class ReleaseContent(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, Wake wake, MemberReader reader)
{
    CatalogueSnapshot Now => catalogue.Now;

    /// <summary>A ready piece whose edition is out already opens with the next round of due work.</summary>
    public void WhenLate(Piece piece, Instant at)
    {
        if (piece.Ready && (piece.ReleasedAt is not null || piece.EditionId is { } e && Now.EditionById.GetValueOrDefault(e)?.ReleasedAt is not null))
            Due(piece.Id, at);
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
        db.PutDue(ids, DueKind.ReleasePiece, piece.Value, at, key);
    }

    public void Wake() => wake.Up();

    /// <summary>Opens a ready piece that belongs to no edition, now or at a moment.</summary>
    /// <param name="dated">It counts for its date: whoever joins later doesn't get it with a reach from joining.</param>
    public async Task<Result> Open(TeamActor by, PieceId id, LocalDateTime? at, bool dated, CancellationToken ct)
    {
        by.NeedEditor();
        var piece = await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return Result.Refused("This piece isn’t here any more.");
        if (piece.ReleasedAt is not null) return Result.Refused("It is open already.");
        if (piece.EditionId is not null) return Result.Refused("It opens with its edition.");
        if (!piece.Ready) return Result.Refused("It is a draft. Make it ready first.");
        var moment = at is { } local ? Now.Calendar.At(local) : clock.GetCurrentInstant();
        if (at is not null && moment <= clock.GetCurrentInstant()) return Result.Refused("That moment has passed.", "At");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await Forget(id, ct);
        (piece.OpensAt, piece.Dated) = (moment, dated);
        piece.Version++;
        Due(id, moment);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed([id], ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>Takes back that a piece opens by itself.</summary>
    public async Task<Result> Cancel(TeamActor by, PieceId id, CancellationToken ct)
    {
        by.NeedEditor();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var piece = await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece?.OpensAt is null || piece.ReleasedAt is not null) return Result.Refused("No release is planned.");
        await Forget(id, ct);
        piece.OpensAt = null;
        piece.Version++;
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed([id], ct);
        return Result.Done;
    }

    async Task Forget(PieceId id, CancellationToken ct) =>
        await db.DueWork.Where(d => d.Kind == DueKind.ReleasePiece && d.SubjectId == id.Value).ExecuteDeleteAsync(ct);

    /// <summary>Closes a released piece again: it is a draft until it is published anew. What members did in it is kept.</summary>
    public async Task<Result> Withdraw(TeamActor by, PieceId id, CancellationToken ct)
    {
        by.NeedEditor();
        var piece = await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return Result.Refused("This piece isn’t here any more.");
        if (piece.ReleasedAt is null) return Result.Refused("It isn’t released.");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await Forget(id, ct);
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
            p.OpensAt = null;
            p.Ready &= stayReady;
            p.Version++;
        }
        foreach (var l in await db.Lessons.Where(l => list.Contains(l.PieceId) && l.ReleasedAt != null).ToListAsync(ct)) l.Withdraw();
    }

    /// <summary>For whom the pieces open or close if they were released (or withdrawn) now: decided for every member who holds anything, by the same rules as
    /// everywhere.</summary>
    public async Task<ReleaseEffect> Effect(IReadOnlyCollection<PieceId> pieces, bool withdraw, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var known = pieces.Where(Now.PieceById.ContainsKey).ToHashSet();
        var after = Changed(known, withdraw, at);
        int opens = 0, closes = 0;
        var names = new List<string>();
        var closed = new List<MemberId>();
        await foreach (var holder in reader.AllHolders(ct))
        {
            var facts = holder.FactsAt(at);
            var (more, less) = (false, false);
            foreach (var id in known)
            {
                var (was, willBe) = (Now.Book.OpensPartOf(facts, id, at), after.OpensPartOf(facts, id, at));
                more |= !was && willBe;
                less |= was && !willBe;
            }
            if (more) opens++;
            if (less) closes++;
            if (less) closed.Add(holder.Id);
            if ((more || less) && names.Count < 5) names.Add(holder.Name);
        }
        var lessons = known.SelectMany(id => Now.PieceById[id].Outline.Lessons).Select(l => l.Id).ToArray();
        var begun = closes == 0 ? 0 : await db.Openings.Where(o => lessons.Contains(o.LessonId) && closed.Contains(o.MemberId)).Select(o => o.MemberId)
            .Distinct().CountAsync(ct);
        return new(opens, closes, begun, names);
    }

    /// <summary>The book as it would be. What isn't ready stays closed.</summary>
    AccessBook Changed(HashSet<PieceId> pieces, bool withdraw, Instant at) =>
        new(Now.Plans, Now.Pieces.Select(p => !pieces.Contains(p.Id) || !withdraw && !p.Ready ? p : p.AsReleased(withdraw ? null : at)), Now.Editions,
            Now.Tallies.Select(t => t.Id));
}
