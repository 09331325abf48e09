using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;
using Npgsql;

namespace BrightCircle.App.Catalogues;

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
                    var what = new HashSet<string>();
                    while (heard.TryDequeue(out var one)) what.Add(one);
                    if (what.Count > 0) await catalogue.Heard(what, stop);
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

    [LoggerMessage(EventName = "CatalogueListenBroke", Level = LogLevel.Warning,
        Message = "Listening for catalogue changes broke and is tried again: {Reason}")]
    static partial void ListenBroke(ILogger log, string reason);
}
