using System.Globalization;
using BrightCircle.App.Clock;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace BrightCircle.App.Catalogues;

/// <summary>
/// Keeps the catalogue in memory; every node hears of a change through PostgreSQL's NOTIFY and reads it again: only the changed pieces where it is told which.
/// </summary>
public sealed class Catalogue(IServiceScopeFactory scopes, HouseClock clock, MemberReader members)
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
            var site = await db.Sites.AsNoTracking().SingleOrDefaultAsync(ct);
            var plans = await db.Plans.AsNoTracking().OrderBy(p => p.Rank).ThenBy(p => p.Id).ToListAsync(ct);
            var versions = (await db.PromiseVersions.AsNoTracking().OrderBy(v => v.Number).ToListAsync(ct)).ToLookup(v => v.Plan);
            foreach (var p in plans) p.Earlier = [.. versions[p.Id]];
            var prices = await db.Prices.AsNoTracking().OrderBy(p => p.Order).ThenBy(p => p.Id).ToListAsync(ct);
            var shelves = await db.Shelves.AsNoTracking().OrderBy(s => s.Order).ThenBy(s => s.Id).ToListAsync(ct);
            var editions = await db.Editions.AsNoTracking().ToListAsync(ct);
            var pieces = await Pieces(db, db.Pieces, db.Modules, db.Lessons, ct);
            var tallies = await db.Tallies.AsNoTracking().OrderBy(t => t.Name).ToListAsync(ct);
            var paces = new PacesPart([.. (await db.PiecePaces.AsNoTracking().OrderBy(p => p.Id).ToListAsync(ct)).Select(p => p.Timeline)],
                await db.Cohorts.AsNoTracking().OrderBy(c => c.StartsAt).ThenBy(c => c.Id).ToListAsync(ct));
            var pages = await db.SitePages.AsNoTracking().OrderBy(p => p.Kind).ThenBy(p => p.Title).ThenBy(p => p.Id).ToListAsync(ct);
            var people = new PeoplePart(await db.Tags.AsNoTracking().ToListAsync(ct), await db.OwnFields.AsNoTracking().ToListAsync(ct),
                await db.Audiences.AsNoTracking().ToListAsync(ct), await db.LetterSeries.AsNoTracking().ToListAsync(ct),
                await db.Routines.AsNoTracking().ToListAsync(ct),
                await db.LetterTexts.AsNoTracking().Where(t => !db.LetterTexts.Any(o => o.Kind == t.Kind && o.PlanId == t.PlanId && o.Version > t.Version))
                    .ToListAsync(ct));
            var community = new CommunityPart(await db.Spaces.AsNoTracking().OrderBy(s => s.Order).ThenBy(s => s.Id).ToListAsync(ct),
                await db.LiveSeries.AsNoTracking().OrderBy(s => s.Name).ToListAsync(ct),
                await db.LiveSessions.AsNoTracking().OrderBy(s => s.StartsAt).ThenBy(s => s.Id).ToListAsync(ct),
                await db.Challenges.AsNoTracking().OrderByDescending(c => c.StartsOn).ThenBy(c => c.Id).ToListAsync(ct));
            Set(new(site, new(plans, prices), new(shelves, pieces), editions, tallies, paces, pages, people, community));
            if (site is not null) clock.SetAhead(Duration.FromMilliseconds(site.ClockAheadMs));
        }
        finally
        {
            gate.Release();
        }
    }

    void Set(CatalogueSnapshot now)
    {
        (members.WithDone, members.WithCohorts) = (now.Book.AsksForDone, now.Paces.Cohorts.Count > 0);
        current = now;
    }

    static async Task<List<Piece>> Pieces(BrightContext db, IQueryable<Piece> pieces, IQueryable<Module> modules, IQueryable<Lesson> lessons,
        CancellationToken ct)
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
            var pieces = await Pieces(db, db.Pieces.Where(p => wanted.Contains(p.Id)), db.Modules.Where(m => wanted.Contains(m.PieceId)),
                db.Lessons.Where(l => wanted.Contains(l.PieceId)), ct);
            Set(Now.With(wanted, pieces));
        }
        finally
        {
            gate.Release();
        }
    }

    /// <summary>After a committed change: reads it here. The other nodes are told by the database, in the transaction that changed it.</summary>
    public Task Changed(CancellationToken ct = default) => Load(ct);

    /// <summary>After a committed change to some pieces, their modules or lessons: reads only those, here and on the other nodes.</summary>
    public async Task Changed(IReadOnlyCollection<PieceId> pieces, CancellationToken ct = default)
    {
        if (pieces.Count == 0) return;
        if (pieces.Count > FewPieces) await Load(ct);
        else await Load(pieces, ct);
    }

    /// <summary>What notices of a committed change name: a piece each, or (empty) everything.</summary>
    public Task Heard(IReadOnlyCollection<string> what, CancellationToken ct)
    {
        var ids = what.Select(w => long.TryParse(w, CultureInfo.InvariantCulture, out var n) ? new PieceId(n) : default).ToHashSet();
        return ids.Contains(default) || ids.Count > FewPieces || current is null ? Load(ct) : Load(ids, ct);
    }
}
