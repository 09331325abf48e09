using BrightCircle.App.Access;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Learning;

/// <summary>Places in a piece that has only so many.</summary>
public sealed class PiecePlaces(BrightContext db, Tell tell, IClock clock, Wake wake)
{
    /// <summary>Who has one and who waits, whoever came first before, and how many of each there are in all.</summary>
    public async Task<(IReadOnlyList<(PiecePlace Place, string Name)> Rows, int Taken, int Waiting)> List(PieceId id, int most, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var all = db.PiecePlaces.AsNoTracking().Where(p => p.PieceId == id);
        var rows = trip.List(all.OrderBy(p => p.Waiting).ThenBy(p => p.At).Take(most)
            .Join(db.Members, p => p.MemberId, m => m.Id, (p, m) => new { Place = p, m.Name }));
        var (taken, waiting) = (trip.Count(all.Where(p => !p.Waiting)), trip.Count(all.Where(p => p.Waiting)));
        await trip.Ask(ct);
        return ([.. rows.Value.OrderBy(x => x.Place.Waiting).ThenBy(x => x.Place.At).Select(x => (x.Place, x.Name))], taken.Value, waiting.Value);
    }

    /// <summary>Takes a place, or one on the waiting list. Two who want the last one at once: one gets it, the other waits.</summary>
    /// <returns>Whether it was a place.</returns>
    public async Task<Result<bool>> Take(PlaceReader by, CancellationToken ct)
    {
        var (member, id) = (by.Member, by.Piece.Id);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(id, ct) is not { Places: { } most } piece) return Result.Refused("This piece needs no place.");
        if (await db.PiecePlaces.FirstOrDefaultAsync(p => p.PieceId == id && p.MemberId == member, ct) is { } known) return !known.Waiting;
        var taken = await db.PiecePlaces.CountAsync(p => p.PieceId == id && !p.Waiting, ct);
        var place = db.Add(new PiecePlace { PieceId = id, MemberId = member, At = clock.GetCurrentInstant(), Waiting = taken >= most }).Entity;
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return !place.Waiting;
    }

    async Task<Piece?> Locked(PieceId id, CancellationToken ct) =>
        await db.Pieces.FromSql($"select * from pieces where id = {id.Value} for update").AsNoTracking().FirstOrDefaultAsync(ct);

    /// <summary>Gives a place up: whoever has waited longest gets it, and a letter.</summary>
    public async Task GiveUp(MemberId member, PieceId id, CancellationToken ct)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(id, ct) is not { } piece) return;
        await db.PiecePlaces.Where(p => p.PieceId == id && p.MemberId == member).ExecuteDeleteAsync(ct);
        await MoveUp(piece, ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
    }

    /// <summary>After there are more places than before.</summary>
    public async Task MoveUp(PieceId id, CancellationToken ct)
    {
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Locked(id, ct) is { } piece) await MoveUp(piece, ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
    }

    async Task MoveUp(Piece piece, CancellationToken ct)
    {
        var free = piece.Places is { } most ? most - await db.PiecePlaces.CountAsync(p => p.PieceId == piece.Id && !p.Waiting, ct) : int.MaxValue;
        if (free <= 0) return;
        var at = clock.GetCurrentInstant();
        foreach (var next in await db.PiecePlaces.Where(p => p.PieceId == piece.Id && p.Waiting).OrderBy(p => p.At).ThenBy(p => p.MemberId).Take(free)
            .ToListAsync(ct))
        {
            next.Waiting = false;
            if (await db.Members.FirstOrDefaultAsync(m => m.Id == next.MemberId, ct) is { } member)
                tell.Of(member, new Event.GotPlace(piece.Id, piece.Title), at);
        }
    }
}
