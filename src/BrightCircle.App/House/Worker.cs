using BrightCircle.App.Letters;
using BrightCircle.Data;
using Microsoft.Extensions.Hosting;
using Microsoft.Extensions.Logging;

namespace BrightCircle.App.House;

/// <summary>Rouses the worker of this process, so that a letter doesn't wait for the next round.</summary>
public sealed class Wake
{
    readonly SemaphoreSlim signal = new(0, 1);

    public void Up()
    {
        try { signal.Release(); }
        catch (SemaphoreFullException) { /* it is already being woken */ }
    }

    internal Task<bool> Wait(TimeSpan most, CancellationToken ct) => signal.WaitAsync(most, ct);
}

/// <summary>In real time: every few seconds, or when woken, does what is due and sends what is queued.</summary>
public sealed partial class Worker(RunDue due, DeliverLetters letters, Wake wake, HouseClock clock, Catalogue catalogue, ILogger<Worker> log) : BackgroundService
{
    public static TimeSpan Round { get; } = TimeSpan.FromSeconds(5);

    protected override async Task ExecuteAsync(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
        {
            try
            {
                await wake.Wait(Round, stop);
                // While the house clock is being moved, the mover does what is due.
                if (clock.IsStanding || catalogue.Now.Site is null) continue;
                await due.Now(stop);
                await letters.Now(stop);
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
