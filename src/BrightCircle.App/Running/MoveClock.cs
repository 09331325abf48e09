using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Due;
using BrightCircle.App.Letters;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Running;

/// <summary>
/// Moves the house clock of a demo or of a site in trial forward. What falls due on the way happens in time order through <see cref="RunDue"/>;
/// how far it got and what happened is in a row that the page reads. One node at a time moves it, holding a lock in the database; a move that was cut short
/// goes on when the next node starts.
/// </summary>
public sealed partial class MoveClock(IServiceScopeFactory scopes, NpgsqlDataSource source, HouseClock clock, RunDue due, DeliverLetters letters, Ids ids,
    Catalogue catalogue, IWallClock wall, ILogger<MoveClock> log)
{
    static readonly Duration Longest = Duration.FromDays(400);

    /// <summary>A move, under way or done; null where there is none of that number.</summary>
    public async Task<ClockMove?> Find(long id, CancellationToken ct)
    {
        await using var scope = scopes.CreateAsyncScope();
        return await scope.ServiceProvider.GetRequiredService<BrightContext>().ClockMoves.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, ct);
    }

    /// <summary>Starts a move in the background.</summary>
    public async Task<Result<long>> Start(Instant until, CancellationToken ct = default)
    {
        if (catalogue.Now.Site is not { ClockCanMove: true }) return Result.Refused("The clock of a site that is live isn’t moved.");
        var now = clock.Moment;
        if (until <= now) return Result.Refused("The clock only moves forward.");
        if (until > now + Longest) return Result.Refused("That is too far: move it by 400 days at most.");
        if (await TakeLock(ct) is not { } held) return Result.Refused("The clock is already being moved.");
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
            await LetLockGo(held);
            throw;
        }
        clock.StandAt(now);
        _ = Task.Run(() => Run(move.Id, until, new(), held), CancellationToken.None);
        return move.Id;
    }

    /// <summary>Goes on with a move that was cut short, from where it had got: at the start of a node.</summary>
    /// <returns>Whether there was one.</returns>
    public async Task<bool> Resume(CancellationToken ct = default)
    {
        if (await TakeLock(ct) is not { } held) return false;
        ClockMove? move;
        await using (var scope = scopes.CreateAsyncScope())
            move = await scope.ServiceProvider.GetRequiredService<BrightContext>().ClockMoves.AsNoTracking().Where(m => m.State == ClockMoveState.Running)
                .OrderByDescending(m => m.Id).FirstOrDefaultAsync(ct);
        if (move is null || catalogue.Now.Site is not { ClockCanMove: true })
        {
            await LetLockGo(held);
            return false;
        }
        var happened = new Happenings();
        foreach (var (what, n) in move.Counts) happened.Add(what, n);
        clock.StandAt(Instant.Max(move.Reached, clock.Moment));
        _ = Task.Run(() => Run(move.Id, move.ToMoment, happened, held), CancellationToken.None);
        return true;
    }

    /// <summary>
    /// Held by a connection of its own for as long as the clock is being moved: it goes with the node that held it. Whoever takes it lets it go, since a
    /// connection that goes back to the pool keeps what it holds.
    /// </summary>
    async Task<NpgsqlConnection?> TakeLock(CancellationToken ct)
    {
        var connection = await source.OpenConnectionAsync(ct);
        try
        {
            await using var command = new NpgsqlCommand("select pg_try_advisory_lock(815003)", connection);
            if (await command.ExecuteScalarAsync(ct) is true) return connection;
        }
        catch
        {
            await connection.DisposeAsync();
            throw;
        }
        await connection.DisposeAsync();
        return null;
    }

    static async Task LetLockGo(NpgsqlConnection held)
    {
        try
        {
            await using var command = new NpgsqlCommand("select pg_advisory_unlock(815003)", held);
            await command.ExecuteScalarAsync();
        }
        finally
        {
            await held.DisposeAsync();
        }
    }

    async Task Run(long id, Instant until, Happenings happened, NpgsqlConnection held)
    {
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
                var reached = clock.Moment;
                await LetGo();
                await Save(id, reached, happened, error is null ? ClockMoveState.Done : ClockMoveState.Failed, error);
            }
            catch (Exception e)
            {
                MoveFailed(log, e);
            }
            await LetLockGo(held);
        }
    }

    /// <summary>Moves the standing clock, sending letters as it goes.</summary>
    /// <param name="withLetters">False where somebody else is sending them meanwhile.</param>
    public async Task Through(Instant until, Happenings happened, Func<Instant, Task>? reached = null, bool withLetters = true, CancellationToken ct = default)
    {
        await due.Forward(until, happened, async at =>
        {
            if (withLetters) await letters.Run(ct, happened);
            if (reached is not null) await reached(at);
        }, ct);
        if (withLetters) await letters.Run(ct, happened);
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
        // Whoever starts meanwhile, or after a cut, doesn't begin before what has happened already.
        if (state == ClockMoveState.Running) await db.Sites.ExecuteUpdateAsync(
            s => s.SetProperty(x => x.ClockAheadMs, (long)(reached - wall.Moment).TotalMilliseconds));
        await db.SaveChangesAsync();
    }

    [LoggerMessage(EventName = "ClockMoveFailed", Level = LogLevel.Error, Message = "Moving the house clock stopped")]
    static partial void MoveFailed(ILogger log, Exception e);
}
