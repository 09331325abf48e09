namespace BrightCircle.App.Due;

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
