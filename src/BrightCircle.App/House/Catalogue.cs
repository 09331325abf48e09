using System.Globalization;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
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
    public Site? Site { get; }
    public IReadOnlyList<Plan> Plans { get; }
    public IReadOnlyList<Price> Prices { get; }
    public IReadOnlyList<Shelf> Shelves { get; }
    /// <summary>All pieces that aren't in the trash, with their outlines.</summary>
    public IReadOnlyList<Piece> Pieces { get; }
    /// <summary>By first day; of several that begin together, the month comes first.</summary>
    public IReadOnlyList<Edition> Editions { get; }
    /// <summary>All tallies, the archived ones too, by name.</summary>
    public IReadOnlyList<Tally> Tallies { get; }
    public IReadOnlyDictionary<TallyId, Tally> TallyById { get; }
    public AccessBook Book { get; }
    public SiteCalendar Calendar { get; }
    public IReadOnlyDictionary<PieceId, Piece> PieceById { get; }
    public IReadOnlyDictionary<LessonId, Lesson> LessonById { get; }
    public IReadOnlyDictionary<EditionId, Edition> EditionById { get; }
    public IReadOnlyDictionary<ShelfId, Shelf> ShelfById { get; }
    public IReadOnlyDictionary<PlanId, Plan> PlanById { get; }
    public IReadOnlyDictionary<PriceId, Price> PriceById { get; }
    public ILookup<EditionId, Piece> PartsOf { get; }
    /// <summary>Lessons that open with an edition of their own, other than their piece's.</summary>
    public ILookup<EditionId, Lesson> LessonPartsOf { get; }
    /// <summary>The pieces of a shelf, the newest edition first.</summary>
    public ILookup<ShelfId, Piece> OnShelf { get; }
    public ILookup<YearMonth, Edition> EditionsIn { get; }

    public CatalogueSnapshot(Site? site, IReadOnlyList<Plan> plans, IReadOnlyList<Price> prices, IReadOnlyList<Shelf> shelves, IReadOnlyList<Piece> pieces, IReadOnlyList<Edition> editions, IReadOnlyList<Tally> tallies)
    {
        (Site, Plans, Prices, Shelves, Pieces) = (site, plans, prices, shelves, pieces);
        Editions = [.. editions.OrderBy(e => e.FirstDay).ThenBy(e => e.Span)];
        Tallies = tallies;
        TallyById = tallies.ToDictionary(t => t.Id);
        Book = new(plans, pieces, editions);
        Calendar = SiteCalendar.For(site?.ZoneId ?? "Europe/London");
        PieceById = pieces.ToDictionary(p => p.Id);
        var lessons = new Dictionary<LessonId, Lesson>(pieces.Sum(p => p.Outline.Lessons.Count));
        foreach (var p in pieces)
            foreach (var l in p.Outline.Lessons) lessons[l.Id] = l;
        LessonById = lessons;
        EditionById = editions.ToDictionary(e => e.Id);
        ShelfById = shelves.ToDictionary(s => s.Id);
        PlanById = plans.ToDictionary(p => p.Id);
        PriceById = prices.ToDictionary(p => p.Id);
        var rank = shelves.Select((s, i) => (s.Id, i)).ToDictionary(x => x.Id, x => x.i);
        PartsOf = pieces.Where(p => p.EditionId is not null).OrderBy(p => rank.GetValueOrDefault(p.ShelfId)).ThenBy(p => p.Id.Value).ToLookup(p => p.EditionId!.Value);
        LessonPartsOf = pieces.SelectMany(p => p.Outline.Lessons.Where(l => l.EditionId is not null && l.EditionId != p.EditionId)).ToLookup(l => l.EditionId!.Value);
        OnShelf = pieces.OrderByDescending(p => p.EditionId is { } e ? EditionById.GetValueOrDefault(e)?.FirstDay : null).ThenByDescending(p => p.Id.Value).ToLookup(p => p.ShelfId);
        EditionsIn = Editions.ToLookup(e => e.Month);
        CurrentEdition = Editions.LastOrDefault(e => e.State == EditionState.Released);
        NextEdition = Editions.FirstOrDefault(e => e.State == EditionState.Scheduled);
    }

    /// <summary>The same with some pieces read anew, or gone.</summary>
    internal CatalogueSnapshot With(IReadOnlyCollection<PieceId> changed, IReadOnlyList<Piece> now) =>
        new(Site, Plans, Prices, Shelves, [.. Pieces.Where(p => !changed.Contains(p.Id)).Concat(now).OrderBy(p => p.Id.Value)], Editions, Tallies);

    readonly System.Collections.Concurrent.ConcurrentDictionary<YearMonth, YearRing> rings = new();

    /// <summary>The year ring from a month on, for the team with drafts; worked out once for each version of the catalogue.</summary>
    public YearRing RingFrom(YearMonth first) => rings.GetOrAdd(first, f => YearRing.For(f, Shelves, Editions, Pieces));

    /// <summary>The same for everybody else: drafts are left out.</summary>
    public YearRing PublicRingFrom(YearMonth first) => publicRings.GetOrAdd(first, f => YearRing.For(f, Shelves, Editions, Pieces.Where(p => p.State != PieceState.Draft)));
    readonly System.Collections.Concurrent.ConcurrentDictionary<YearMonth, YearRing> publicRings = new();

    public CultureInfo Culture { get; } = CultureInfo.GetCultureInfo("en-GB");
    public Currency Currency => Site?.Currency ?? new("GBP");

    public Edition? CurrentEdition { get; }
    public Edition? NextEdition { get; }
    public Edition? EditionOf(Piece piece) => piece.EditionId is { } id ? EditionById.GetValueOrDefault(id) : null;
    public Piece PieceOf(Lesson lesson) => PieceById[lesson.PieceId];
    public IEnumerable<Price> PricesOf(PlanId plan) => Prices.Where(p => p.PlanId == plan);
    public string PlanName(PlanId? id) => id is { } p && PlanById.TryGetValue(p, out var plan) ? plan.Name : "";

    /// <summary>What an inclusion covers, by name.</summary>
    public string NameOf(Coverage coverage) => coverage switch
    {
        Coverage.Everything => "everything",
        Coverage.OnShelf s => ShelfById.TryGetValue(s.Shelf, out var shelf) ? $"the shelf {shelf.Name}" : "a shelf that is gone",
        Coverage.OnePiece p => PieceById.TryGetValue(p.Piece, out var piece) ? $"“{piece.Title}”" : "a piece that is gone",
        Coverage.OneModule m => Pieces.FirstOrDefault(p => p.Outline.Modules.Any(x => x.Id == m.Module)) is { } whole ? $"“{whole.Outline.Modules.First(x => x.Id == m.Module).Title}” of “{whole.Title}”" : "a module that is gone",
        Coverage.OneLesson l => LessonById.TryGetValue(l.Lesson, out var lesson) ? $"the lesson “{lesson.Title}” of “{PieceOf(lesson).Title}”" : "a lesson that is gone",
        Coverage.OneTally t => TallyById.TryGetValue(t.Tally, out var tally) ? $"the tally {tally.Name}" : "a tally that is gone",
        _ => throw new InvalidOperationException($"No such coverage: {coverage}"),
    };
}

/// <summary>
/// Keeps the catalogue in memory; every node hears of a change through PostgreSQL's NOTIFY and reads it again: only the changed pieces where it is told which.
/// </summary>
public sealed class Catalogue(IServiceScopeFactory scopes, NpgsqlDataSource source, HouseClock clock)
{
    public const string Channel = "catalogue";
    /// <summary>With more pieces than this changed at once, all is read again.</summary>
    const int FewPieces = 40;
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
            var editions = await db.Editions.AsNoTracking().ToListAsync(ct);
            var pieces = await Pieces(db, db.Pieces, db.Modules, db.Lessons, ct);
            var tallies = await db.Tallies.AsNoTracking().OrderBy(t => t.Name).ToListAsync(ct);
            current = new(site, plans, prices, shelves, pieces, editions, tallies);
            if (site is not null) clock.SetAhead(Duration.FromMilliseconds(site.ClockAheadMs));
        }
        finally
        {
            gate.Release();
        }
    }

    static async Task<List<Piece>> Pieces(BrightContext db, IQueryable<Piece> pieces, IQueryable<Module> modules, IQueryable<Lesson> lessons, CancellationToken ct)
    {
        var list = await pieces.AsNoTracking().Where(p => p.TrashedAt == null).OrderBy(p => p.Id).ToListAsync(ct);
        var byPiece = (await modules.AsNoTracking().Where(m => m.TrashedAt == null).ToListAsync(ct)).ToLookup(m => m.PieceId);
        var lessonsBy = (await lessons.AsNoTracking().Where(l => l.TrashedAt == null).ToListAsync(ct)).ToLookup(l => l.PieceId);
        foreach (var p in list) p.Attach(Outline.Of(byPiece[p.Id], lessonsBy[p.Id]));
        return list;
    }

    /// <summary>Reads some pieces again.</summary>
    internal async Task Load(IReadOnlyCollection<PieceId> changed, CancellationToken ct)
    {
        await gate.WaitAsync(ct);
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
            var wanted = changed.ToArray();
            var pieces = await Pieces(db, db.Pieces.Where(p => wanted.Contains(p.Id)), db.Modules.Where(m => wanted.Contains(m.PieceId)), db.Lessons.Where(l => wanted.Contains(l.PieceId)), ct);
            current = Now.With(wanted, pieces);
        }
        finally
        {
            gate.Release();
        }
    }

    /// <summary>After a committed change: reads it here and tells the other nodes.</summary>
    public async Task Changed(CancellationToken ct = default)
    {
        await Tell("", ct);
        await Load(ct);
    }

    /// <summary>After a committed change to some pieces, their modules or lessons: reads only those, here and on the other nodes.</summary>
    public async Task Changed(IReadOnlyCollection<PieceId> pieces, CancellationToken ct = default)
    {
        if (pieces.Count == 0) return;
        if (pieces.Count > FewPieces)
        {
            await Changed(ct);
            return;
        }
        await Tell(string.Join(',', pieces.Select(p => p.Value.ToString(CultureInfo.InvariantCulture))), ct);
        await Load(pieces, ct);
    }

    async Task Tell(string what, CancellationToken ct)
    {
        await using var command = source.CreateCommand("select pg_notify($1, $2)");
        command.Parameters.Add(new() { Value = Channel });
        command.Parameters.Add(new() { Value = what });
        await command.ExecuteNonQueryAsync(ct);
    }

    /// <summary>What a notice from another node names: some pieces, or (empty) everything.</summary>
    public Task Heard(string what, CancellationToken ct)
    {
        var ids = what.Split(',', StringSplitOptions.RemoveEmptyEntries).Select(w => long.TryParse(w, CultureInfo.InvariantCulture, out var n) ? new PieceId(n) : default).ToArray();
        return ids.Length == 0 || ids.Contains(default) || current is null ? Load(ct) : Load(ids, ct);
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
                var heard = new Queue<string>();
                connection.Notification += (_, e) => heard.Enqueue(e.Payload);
                await using (var listen = new NpgsqlCommand($"listen {Catalogue.Channel}", connection)) await listen.ExecuteNonQueryAsync(stop);
                await catalogue.Load(stop);
                while (true)
                {
                    await connection.WaitAsync(stop);
                    while (heard.TryDequeue(out var what)) await catalogue.Heard(what, stop);
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
