using System.Collections.Concurrent;
using BrightCircle.App.House;
using BrightCircle.Data;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>An import on its way: long ones run in the background, and the page looks how far they are.</summary>
public sealed class ImportJob(long id, Instant startedAt)
{
    public long Id { get; } = id;
    public Instant StartedAt { get; } = startedAt;
    public bool Dry { get; init; }
    public string Name { get; init; } = "";
    /// <summary>What it reads again when it is done for real after the dry run.</summary>
    public string Path { get; init; } = "";
    public string Kind { get; init; } = "zip";
    public string Piece { get; init; } = "";
    public int Done { get; internal set; }
    public int Of { get; internal set; }
    public ImportReport? Report { get; internal set; }
    public string? Failed { get; internal set; }
}

/// <summary>Runs imports in the background, one after the other, and keeps their reports for a day.</summary>
public sealed class ImportJobs(IServiceScopeFactory scopes, UploadFolder folder, IWallClock wall, RichText rich, Ids ids)
{
    readonly ConcurrentDictionary<long, ImportJob> jobs = new();
    readonly SemaphoreSlim one = new(1);

    public ImportJob? Find(long id) => jobs.GetValueOrDefault(id);

    /// <param name="kind">zip, csv or videos.</param>
    public async Task<ImportJob> Start(TeamActor by, Stream content, string name, string kind, string piece, bool dry, CancellationToken ct)
    {
        var id = ids.Next();
        var path = folder.PathOf(id) + "-import";
        await using (var file = File.Create(path)) await content.CopyToAsync(file, ct);
        return Go(by, new(id, wall.Now) { Dry = dry, Name = name, Path = path, Kind = kind, Piece = piece });
    }

    /// <summary>After a dry run: the same for real.</summary>
    public ImportJob Again(TeamActor by, ImportJob dry) => Go(by, new(ids.Next(), wall.Now) { Dry = false, Name = dry.Name, Path = dry.Path, Kind = dry.Kind, Piece = dry.Piece });

    ImportJob Go(TeamActor by, ImportJob job)
    {
        foreach (var old in jobs.Values.Where(j => j.StartedAt < wall.Now - Duration.FromDays(1)).ToArray())
        {
            jobs.TryRemove(old.Id, out _);
            File.Delete(old.Path);
        }
        jobs[job.Id] = job;
        _ = Task.Run(() => Run(by, job), CancellationToken.None);
        return job;
    }

    async Task Run(TeamActor by, ImportJob job)
    {
        await one.WaitAsync();
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            var import = scope.ServiceProvider.GetRequiredService<ImportContent>();
            var read = new ReadImport(rich);
            await using var file = File.OpenRead(job.Path);
            IContentSource source = TextSource.Of();
            switch (job.Kind)
            {
                case "csv": read.Outline(job.Name, file); break;
                case "videos":
                    using (var reader = new StreamReader(file)) read.Videos(await reader.ReadToEndAsync(), job.Piece, null);
                    break;
                default:
                    source = new ZipSource(file);
                    read.Markdown(source);
                    break;
            }
            job.Of = read.Lessons.Count;
            job.Report = await import.Run(by, read, source, job.Dry, (done, of) => (job.Done, job.Of) = (done, of), CancellationToken.None);
        }
        catch (InvalidDataException)
        {
            job.Failed = "This isn’t a zip archive that can be read.";
        }
        catch (Exception e)
        {
            job.Failed = "It stopped on the way: " + e.Message;
        }
        finally
        {
            one.Release();
        }
    }
}
