using Microsoft.Extensions.Hosting;
using Npgsql;

namespace BrightCircle.App;

/// <summary>What pages only note, and what is written together a few seconds later, so that no page waits for it.</summary>
public interface IWrittenLater
{
    /// <summary>Writes what is noted. Where that goes wrong it stays noted.</summary>
    Task Write(CancellationToken ct);
}

/// <summary>Writes all of it every few seconds.</summary>
public sealed class LaterWriter(IEnumerable<IWrittenLater> noted) : BackgroundService
{
    protected override async Task ExecuteAsync(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
        {
            await Task.Delay(TimeSpan.FromSeconds(5), stop).ConfigureAwait(ConfigureAwaitOptions.SuppressThrowing);
            foreach (var n in noted)
                try
                {
                    await n.Write(CancellationToken.None);
                }
                catch (NpgsqlException)
                {
                    // It waits for the next time.
                }
        }
    }
}
