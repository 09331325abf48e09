using System.Collections.Concurrent;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Insight;

/// <param name="Met">How often the doorway was shown.</param>
/// <param name="Clicked">How often somebody went on from it.</param>
/// <param name="Joined">How many of those joined.</param>
public readonly record struct DoorwayFigures(int Met, int Clicked, int Joined);

/// <summary>
/// How often doorways are met. A page isn't held up by it: counts are kept here and written together, every few seconds and before they are read. What a
/// node had not written when it was killed is lost, and only counts are.
/// </summary>
public sealed class DoorwayCounts(NpgsqlDataSource source, Catalogue catalogue, IClock clock) : IWrittenLater
{
    readonly ConcurrentDictionary<(PieceId Piece, LocalDate Day), (int Met, int Clicked)> waiting = new();

    public void Met(PieceId piece) => Add(piece, (1, 0));
    public void Clicked(PieceId piece) => Add(piece, (0, 1));

    void Add(PieceId piece, (int Met, int Clicked) more) => waiting.AddOrUpdate((piece, catalogue.Now.Calendar.Date(clock.GetCurrentInstant())), more,
        (_, was) => (was.Met + more.Met, was.Clicked + more.Clicked));

    public async Task Write(CancellationToken ct)
    {
        var taken = new List<(long Piece, LocalDate Day, int Met, int Clicked)>();
        foreach (var key in waiting.Keys)
            if (waiting.TryRemove(key, out var n)) taken.Add((key.Piece.Value, key.Day, n.Met, n.Clicked));
        if (taken.Count == 0) return;
        try
        {
            // A piece that was taken away meanwhile isn't counted any more.
            await using var command = source.CreateCommand("""
                insert into doorway_days as d (piece_id, day, met, clicked)
                select t.* from unnest($1::bigint[], $2::date[], $3::int[], $4::int[]) t(piece_id, day, met, clicked) join pieces p on p.id = t.piece_id
                on conflict (piece_id, day) do update set met = d.met + excluded.met, clicked = d.clicked + excluded.clicked
                """);
            command.Parameters.Add(new() { Value = taken.Select(t => t.Piece).ToArray() });
            command.Parameters.Add(new() { Value = taken.Select(t => t.Day).ToArray() });
            command.Parameters.Add(new() { Value = taken.Select(t => t.Met).ToArray() });
            command.Parameters.Add(new() { Value = taken.Select(t => t.Clicked).ToArray() });
            await command.ExecuteNonQueryAsync(ct);
        }
        catch
        {
            foreach (var t in taken)
                waiting.AddOrUpdate((new(t.Piece), t.Day), (t.Met, t.Clicked), (_, was) => (was.Met + t.Met, was.Clicked + t.Clicked));
            throw;
        }
    }

    /// <summary>Of the last days: for each piece that was met.</summary>
    /// <param name="also">What else is asked on the same trip.</param>
    public async Task<IReadOnlyDictionary<PieceId, DoorwayFigures>> Of(BrightContext db, LocalDate from, PieceId? only, CancellationToken ct,
        Action<OneTrip>? also = null)
    {
        await Write(ct);
        var since = catalogue.Now.Calendar.At(from.AtMidnight());
        var trip = new OneTrip(db);
        var met = trip.List(db.DoorwayDays.Where(d => d.Day >= from && (only == null || d.PieceId == only)).GroupBy(d => d.PieceId)
            .Select(g => new { Piece = g.Key, Met = g.Sum(d => d.Met), Clicked = g.Sum(d => d.Clicked) }));
        var joins = trip.List(db.Checkouts.Where(c => c.FromPieceId != null && c.State == CheckoutState.Completed && c.RefusedBecause == null
            && c.CompletedAt >= since && (only == null || c.FromPieceId == only)).GroupBy(c => c.FromPieceId!.Value)
            .Select(g => new { Piece = g.Key, Count = g.Count() }));
        also?.Invoke(trip);
        await trip.Ask(ct);
        var joined = joins.Value.ToDictionary(j => j.Piece, j => j.Count);
        return met.Value.ToDictionary(m => m.Piece, m => new DoorwayFigures(m.Met, m.Clicked, joined.GetValueOrDefault(m.Piece)));
    }
}
