using System.Text.Json;
using BrightCircle.App.Clock;
using BrightCircle.App.Files;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Content;

/// <summary>Runs imports in the background, one after the other over all nodes, and keeps their reports for a day.</summary>
public sealed class ImportJobs(IServiceScopeFactory scopes, NpgsqlDataSource source, UploadFolder folder, IWallClock wall, RichText rich, Ids ids)
{
    /// <summary>After so long without a sign its node is taken for gone.</summary>
    static readonly Duration Silence = Duration.FromSeconds(45);
    static readonly TimeSpan Beat = TimeSpan.FromSeconds(1);
    /// <summary>The number of the lock that lets one import run at a time.</summary>
    const long Lock = 7_309_114_521;

    async Task<T> Ask<T>(Func<BrightContext, Task<T>> query)
    {
        await using var scope = scopes.CreateAsyncScope();
        return await query(scope.ServiceProvider.GetRequiredService<BrightContext>());
    }

    /// <summary>An import as it stands now; one whose node went away is told as failed.</summary>
    public async Task<(ImportRun Run, ImportReport? Report)?> Find(long id, CancellationToken ct)
    {
        if (await Ask(db => db.ImportRuns.AsNoTracking().FirstOrDefaultAsync(i => i.Id == id, ct)) is not { } run) return null;
        if (run.Report is null && run.Failed is null && run.BeatAt < wall.Moment - Silence)
            run.Failed = "It stopped on the way: the machine it ran on went away. Begin it again; what came in stays, and nothing is doubled.";
        return (run, run.Report is null ? null : JsonSerializer.Deserialize<ImportReport>(run.Report, CoreJson.Options));
    }

    /// <param name="kind">zip, csv or videos.</param>
    public async Task<long> Start(TeamActor by, Stream content, string name, string kind, string piece, bool dry, CancellationToken ct)
    {
        by.NeedEditor();
        var id = ids.Next();
        var path = folder.PathOf(id) + "-import";
        await using (var file = File.Create(path)) await content.CopyToAsync(file, ct);
        return (await Go(by, new()
        {
            Id = id,
            Dry = dry,
            Name = name.Length > 260 ? name[^260..] : name,
            Path = Path.GetFileName(path),
            Kind = kind,
            Piece = piece.Length > 200 ? piece[..200] : piece,
            StartedAt = wall.Moment,
            BeatAt = wall.Moment
        }, ct)).Id;
    }

    /// <summary>After a dry run: the same for real, once. Asked twice, it is the one that runs already.</summary>
    public async Task<long?> Again(TeamActor by, long dry, CancellationToken ct)
    {
        by.NeedEditor();
        if (await Find(dry, ct) is not ({ Dry: true } run, not null)) return null;
        try
        {
            return (await Go(by, new()
            {
                Id = ids.Next(),
                DryId = run.Id,
                Name = run.Name,
                Path = run.Path,
                Kind = run.Kind,
                Piece = run.Piece,
                StartedAt = wall.Moment,
                BeatAt = wall.Moment
            }, ct)).Id;
        }
        catch (DbUpdateException e) when (e.InnerException is PostgresException { SqlState: PostgresErrorCodes.UniqueViolation })
        {
            return await Ask(db => db.ImportRuns.Where(i => i.DryId == dry).Select(i => i.Id).SingleAsync(ct));
        }
    }

    async Task<ImportRun> Go(TeamActor by, ImportRun run, CancellationToken ct)
    {
        var old = wall.Moment - Duration.FromDays(1);
        await Ask(async db =>
        {
            db.Add(run);
            await db.SaveChangesAsync(ct);
            foreach (var path in await db.ImportRuns.Where(i => i.StartedAt < old).Select(i => i.Path).Distinct().ToListAsync(ct))
                File.Delete(folder.Named(path));
            return await db.ImportRuns.Where(i => i.StartedAt < old).ExecuteDeleteAsync(ct);
        });
        _ = Task.Run(() => Run(by, run), CancellationToken.None);
        return run;
    }

    async Task Run(TeamActor by, ImportRun run)
    {
        var (done, of) = (0, 0);
        using var over = new CancellationTokenSource();
        var beating = Beats();
        ImportReport? report = null;
        string? failed = null;
        try
        {
            // The lock goes with the transaction: a connection that only goes back to its pool would keep it.
            await using var connection = await source.OpenConnectionAsync();
            await using var turn = await connection.BeginTransactionAsync();
            await using (var wait = new NpgsqlCommand(
                "select pg_advisory_xact_lock($1)", connection, turn)
            {
                CommandTimeout = 0,
                Parameters = { new() { Value = Lock } }
            }) await wait.ExecuteNonQueryAsync();
            await using var scope = scopes.CreateAsyncScope();
            var import = scope.ServiceProvider.GetRequiredService<ImportContent>();
            var read = new ReadImport(rich);
            await using var file = File.OpenRead(folder.Named(run.Path));
            IContentSource content = TextSource.Of();
            switch (run.Kind)
            {
                case "csv": read.Outline(run.Name, file); break;
                case "videos":
                    using (var reader = new StreamReader(file)) read.Videos(await reader.ReadToEndAsync(), run.Piece, null);
                    break;
                default:
                    content = new ZipSource(file);
                    read.Markdown(content);
                    break;
            }
            of = read.Lessons.Count;
            report = await import.Run(by, read, content, run.Dry, (d, o) => (done, of) = (d, o), CancellationToken.None);
        }
        catch (InvalidDataException)
        {
            failed = "This isn’t a zip archive that can be read.";
        }
        catch (ArchiveTooLargeException e)
        {
            failed = e.Message;
        }
        catch (Exception e)
        {
            failed = "It stopped on the way: " + e.Message;
        }
        await over.CancelAsync();
        await beating;
        var json = report is null ? null : JsonSerializer.Serialize(report, CoreJson.Options);
        await Ask(db => db.ImportRuns.Where(i => i.Id == run.Id)
            .ExecuteUpdateAsync(u => u.SetProperty(i => i.Done, done).SetProperty(i => i.Of, of).SetProperty(i => i.Report, json)
            .SetProperty(i => i.Failed, failed)));

        async Task Beats()
        {
            using var timer = new PeriodicTimer(Beat);
            try
            {
                while (await timer.WaitForNextTickAsync(over.Token))
                    await Ask(db => db.ImportRuns.Where(i => i.Id == run.Id)
                        .ExecuteUpdateAsync(u => u.SetProperty(i => i.BeatAt, wall.Moment).SetProperty(i => i.Done, done).SetProperty(i => i.Of, of),
                            over.Token));
            }
            catch (OperationCanceledException) { /* it is done */ }
            catch (NpgsqlException) { /* without a connection there is nothing to say; what comes of it is said at the end */ }
        }
    }
}
