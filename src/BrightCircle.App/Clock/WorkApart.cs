using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace BrightCircle.App.Clock;

/// <summary>Work that goes on in real time, apart from all else, so that somebody outside who is slow holds nothing up. It rests while the house clock is being
/// moved; a round that goes wrong is tried again with the next.</summary>
public abstract partial class WorkApart(HouseClock clock, ILogger log) : BackgroundService
{
    static readonly TimeSpan EveryRound = TimeSpan.FromSeconds(5);

    protected abstract Task Round(CancellationToken ct);

    protected override async Task ExecuteAsync(CancellationToken stop)
    {
        using var timer = new PeriodicTimer(EveryRound);
        while (await timer.WaitForNextTickAsync(stop))
            try
            {
                if (!clock.IsStanding) await Round(stop);
            }
            catch (Exception e) when (e is not OperationCanceledException)
            {
                RoundFailed(log, e, GetType().Name);
            }
    }

    [LoggerMessage(EventName = "RoundApartFailed", Level = LogLevel.Error, Message = "A round of {Work} failed; the next one tries again")]
    static partial void RoundFailed(ILogger log, Exception e, string work);
}
