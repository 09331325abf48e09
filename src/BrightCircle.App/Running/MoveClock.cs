using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Due;
using BrightCircle.App.Letters;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using NodaTime;

namespace BrightCircle.App.Running;

/// <summary>
/// Moves the house clock of a demo forward. What falls due on the way happens in time order through <see cref="RunDue"/>;
/// how far it got and what happened is in a row that the page reads.
/// </summary>
public sealed partial class MoveClock(IServiceScopeFactory scopes, HouseClock clock, RunDue due, DeliverLetters letters, Ids ids, Catalogue catalogue, ILogger<MoveClock> log)
{
    static readonly Duration Longest = Duration.FromDays(400);
    readonly SemaphoreSlim one = new(1);

    /// <summary>Starts a move in the background.</summary>
    public async Task<Result<long>> Start(Instant until, CancellationToken ct = default)
    {
        if (catalogue.Now.Site is not { IsDemo: true }) return Result.Refused("Only a demo’s clock can be moved.");
        var now = clock.Now;
        if (until <= now) return Result.Refused("The clock only moves forward.");
        if (until > now + Longest) return Result.Refused("That is too far: move it by 400 days at most.");
        if (!await one.WaitAsync(TimeSpan.Zero, ct)) return Result.Refused("The clock is already being moved.");
        var move = new ClockMove { Id = ids.Next(), FromMoment = now, ToMoment = until, Reached = now };
        try
        {
            await using var scope = scopes.CreateAsyncScope();
            var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
            db.Add(move);
            await db.SaveChangesAsync(ct);
        }
        catch
        {
            one.Release();
            throw;
        }
        clock.StandAt(now);
        _ = Task.Run(() => Run(move.Id, until), CancellationToken.None);
        return move.Id;
    }

    async Task Run(long id, Instant until)
    {
        var happened = new Happenings();
        string? error = null;
        try
        {
            await Through(until, happened, async at => await Save(id, at, happened, ClockMoveState.Running, null));
        }
        catch (Exception e)
        {
            MoveFailed(log, e);
            error = "It stopped on the way: " + e.Message;
        }
        finally
        {
            try
            {
                var reached = clock.Now;
                await LetGo();
                await Save(id, reached, happened, error is null ? ClockMoveState.Done : ClockMoveState.Failed, error);
            }
            catch (Exception e)
            {
                MoveFailed(log, e);
            }
            one.Release();
        }
    }

    /// <summary>Moves the standing clock, sending letters as it goes.</summary>
    /// <param name="withLetters">False where somebody else is sending them meanwhile.</param>
    public async Task Through(Instant until, Happenings happened, Func<Instant, Task>? reached = null, bool withLetters = true, CancellationToken ct = default)
    {
        await due.Forward(until, happened, async at =>
        {
            if (withLetters) await letters.Now(ct, happened);
            if (reached is not null) await reached(at);
        }, ct);
        if (withLetters) await letters.Now(ct, happened);
    }

    /// <summary>Lets the clock go on from where it stands, and remembers how far ahead it is.</summary>
    public async Task LetGo()
    {
        var ahead = (long)clock.LetGo().TotalMilliseconds;
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        await db.Sites.ExecuteUpdateAsync(s => s.SetProperty(x => x.ClockAheadMs, ahead));
        await catalogue.Changed();
    }

    async Task Save(long id, Instant reached, Happenings happened, ClockMoveState state, string? error)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        var move = await db.ClockMoves.SingleAsync(m => m.Id == id);
        (move.Reached, move.Counts, move.State, move.Error) = (reached, new(happened.Counts), state, error);
        await db.SaveChangesAsync();
    }

    [LoggerMessage(EventName = "ClockMoveFailed", Level = LogLevel.Error, Message = "Moving the house clock stopped")]
    static partial void MoveFailed(ILogger log, Exception e);
}
