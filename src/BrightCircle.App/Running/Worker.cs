using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Due;
using BrightCircle.App.Letters;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace BrightCircle.App.Running;

/// <summary>In real time: every few seconds, or when woken, does what is due and sends what is queued.</summary>
public sealed partial class Worker(RunDue due, DeliverLetters letters, Wake wake, HouseClock clock, Catalogue catalogue, MoveClock mover, ILogger<Worker> log)
    : BackgroundService
{
    public static TimeSpan Round { get; } = TimeSpan.FromSeconds(5);

    protected override async Task ExecuteAsync(CancellationToken stop)
    {
        var resumed = false;
        while (!stop.IsCancellationRequested)
        {
            try
            {
                if (!resumed) await mover.Resume(stop);
                resumed = true;
                await wake.Wait(Round, stop);
                // While the house clock is being moved, the mover does what is due.
                if (clock.IsStanding || catalogue.Now.Site is null) continue;
                await due.Run(stop);
                await letters.Run(stop);
            }
            catch (OperationCanceledException) when (stop.IsCancellationRequested) { }
            catch (Exception e)
            {
                RoundFailed(log, e);
            }
        }
    }

    [LoggerMessage(EventName = "WorkerRoundFailed", Level = LogLevel.Error, Message = "A round of due work failed; the next one tries again")]
    static partial void RoundFailed(ILogger log, Exception e);
}
