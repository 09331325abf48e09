using System.Globalization;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.House;

/// <summary>The site, its plans, promises, prices and the content outline, as of one version. It is read by every page and never changed.</summary>
public sealed class CatalogueSnapshot
{
    public required Site? Site { get; init; }
    public required IReadOnlyList<Plan> Plans { get; init; }
    public required IReadOnlyList<Price> Prices { get; init; }
    public required IReadOnlyList<Shelf> Shelves { get; init; }
    public required IReadOnlyList<Piece> Pieces { get; init; }
    public required IReadOnlyList<Edition> Editions { get; init; }
    public required AccessBook Book { get; init; }
    public required SiteCalendar Calendar { get; init; }
    public required IReadOnlyDictionary<PieceId, Piece> PieceById { get; init; }
    public required IReadOnlyDictionary<EditionId, Edition> EditionById { get; init; }
    public required IReadOnlyDictionary<ShelfId, Shelf> ShelfById { get; init; }
    public required IReadOnlyDictionary<PlanId, Plan> PlanById { get; init; }
    public required IReadOnlyDictionary<PriceId, Price> PriceById { get; init; }
    public required ILookup<EditionId, Piece> PartsOf { get; init; }

    readonly System.Collections.Concurrent.ConcurrentDictionary<YearMonth, YearRing> rings = new();

    /// <summary>The year ring from a month on, for the team with drafts; worked out once for each version of the catalogue.</summary>
    public YearRing RingFrom(YearMonth first) => rings.GetOrAdd(first, f => YearRing.For(f, Shelves, Editions, Pieces));

    /// <summary>The same for everybody else: drafts are left out.</summary>
    public YearRing PublicRingFrom(YearMonth first) => publicRings.GetOrAdd(first, f => YearRing.For(f, Shelves, Editions, Pieces.Where(p => p.State != PieceState.Draft)));
    readonly System.Collections.Concurrent.ConcurrentDictionary<YearMonth, YearRing> publicRings = new();

    public CultureInfo Culture { get; } = CultureInfo.GetCultureInfo("en-GB");
    public Currency Currency => Site?.Currency ?? new("GBP");

    public Edition? CurrentEdition => Editions.LastOrDefault(e => e.State == EditionState.Released);
    public Edition? NextEdition => Editions.FirstOrDefault(e => e.State == EditionState.Scheduled);
    public Edition? EditionOf(Piece piece) => piece.EditionId is { } id ? EditionById.GetValueOrDefault(id) : null;
    public IEnumerable<Price> PricesOf(PlanId plan) => Prices.Where(p => p.PlanId == plan);
    public string PlanName(PlanId? id) => id is { } p && PlanById.TryGetValue(p, out var plan) ? plan.Name : "";

    /// <summary>What an inclusion covers, by name.</summary>
    public string NameOf(Coverage coverage) => coverage switch
    {
        Coverage.Everything => "everything",
        Coverage.OnShelf s => ShelfById.TryGetValue(s.Shelf, out var shelf) ? $"the shelf {shelf.Name}" : "a shelf that is gone",
        Coverage.OnePiece p => PieceById.TryGetValue(p.Piece, out var piece) ? $"“{piece.Title}”" : "a piece that is gone",
        _ => throw new InvalidOperationException($"No such coverage: {coverage}"),
    };
}

/// <summary>Keeps the catalogue in memory; every node hears of a change through PostgreSQL's NOTIFY and reads it again.</summary>
public sealed class Catalogue(IServiceScopeFactory scopes, NpgsqlDataSource source, HouseClock clock)
{
    public const string Channel = "catalogue";
    readonly SemaphoreSlim gate = new(1);
    volatile CatalogueSnapshot? current;

    /// <exception cref="InvalidOperationException">Read before the first load.</exception>
    public CatalogueSnapshot Now => current ?? throw new InvalidOperationException("The catalogue is not loaded yet.");

    public async Task Load(CancellationToken ct = default)
    {
        await gate.WaitAsync(ct);
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
            var site = await db.Sites.AsNoTracking().FirstOrDefaultAsync(ct);
            var plans = await db.Plans.AsNoTracking().OrderBy(p => p.Rank).ThenBy(p => p.Id).ToListAsync(ct);
            var prices = await db.Prices.AsNoTracking().OrderBy(p => p.Id).ToListAsync(ct);
            var shelves = await db.Shelves.AsNoTracking().OrderBy(s => s.Order).ThenBy(s => s.Id).ToListAsync(ct);
            var pieces = await db.Pieces.AsNoTracking().OrderBy(p => p.Id).ToListAsync(ct);
            var editions = await db.Editions.AsNoTracking().OrderBy(e => e.MonthDate).ToListAsync(ct);
            current = new()
            {
                Site = site,
                Plans = plans,
                Prices = prices,
                Shelves = shelves,
                Pieces = pieces,
                Editions = editions,
                Book = new(plans, pieces, editions),
                Calendar = SiteCalendar.For(site?.ZoneId ?? "Europe/London"),
                PieceById = pieces.ToDictionary(p => p.Id),
                EditionById = editions.ToDictionary(e => e.Id),
                ShelfById = shelves.ToDictionary(s => s.Id),
                PlanById = plans.ToDictionary(p => p.Id),
                PriceById = prices.ToDictionary(p => p.Id),
                PartsOf = pieces.Where(p => p.EditionId is not null).OrderBy(p => shelves.FindIndex(s => s.Id == p.ShelfId)).ThenBy(p => p.Id.Value).ToLookup(p => p.EditionId!.Value),
            };
            if (site is not null) clock.SetAhead(Duration.FromMilliseconds(site.ClockAheadMs));
        }
        finally
        {
            gate.Release();
        }
    }

    /// <summary>After a committed change: reads it here and tells the other nodes.</summary>
    public async Task Changed(CancellationToken ct = default)
    {
        await using (var command = source.CreateCommand($"notify {Channel}"))
            await command.ExecuteNonQueryAsync(ct);
        await Load(ct);
    }
}

/// <summary>Listens for catalogue changes made by other nodes, over a connection of its own that is made again when it breaks.</summary>
public sealed partial class CatalogueListener(Catalogue catalogue, NpgsqlDataSource source, ILogger<CatalogueListener> log) : BackgroundService
{
    protected override async Task ExecuteAsync(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
        {
            try
            {
                await using var connection = await source.OpenConnectionAsync(stop);
                await using (var listen = new NpgsqlCommand($"listen {Catalogue.Channel}", connection)) await listen.ExecuteNonQueryAsync(stop);
                await catalogue.Load(stop);
                while (true)
                {
                    await connection.WaitAsync(stop);
                    await catalogue.Load(stop);
                }
            }
            catch (OperationCanceledException) when (stop.IsCancellationRequested) { }
            catch (Exception e) when (e is NpgsqlException or System.Net.Sockets.SocketException or IOException or InvalidOperationException)
            {
                ListenBroke(log, e.Message);
                await Task.Delay(TimeSpan.FromSeconds(1), stop).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            }
        }
    }

    [LoggerMessage(EventName = "CatalogueListenBroke", Level = LogLevel.Warning, Message = "Listening for catalogue changes broke and is tried again: {Reason}")]
    static partial void ListenBroke(ILogger log, string reason);
}
