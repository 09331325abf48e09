using BrightCircle.App.Clock;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.Logging;
using NodaTime;

namespace BrightCircle.App.Due;

/// <summary>One due thing in the hands of a worker, with the moment at which it counts as done.</summary>
public sealed class DueItem(DueWork row, Instant moment)
{
    public DueWork Row { get; } = row;
    public Instant Moment { get; } = moment;
    internal string? PostponedWhy { get; private set; }

    /// <summary>It can't be settled now (the other side gave no answer); the same thing is tried again shortly.</summary>
    public void Postpone(string why) => PostponedWhy = why;
}

/// <summary>Does one kind of due work, a batch at a time. All it writes is committed together with the removal of the rows.</summary>
public interface IDueHandler
{
    DueKind Kind { get; }
    Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct);
    /// <summary>After the commit: what others must hear of.</summary>
    Task Committed(CancellationToken ct) => Task.CompletedTask;
}

/// <summary>Counts of what happened, by name.</summary>
public sealed class Happenings
{
    readonly Dictionary<string, long> counts = [];
    public IReadOnlyDictionary<string, long> Counts => counts;
    public void Add(string what, long n = 1) => counts[what] = counts.GetValueOrDefault(what) + n;
    public void Add(Happenings other)
    {
        foreach (var (what, n) in other.counts) Add(what, n);
    }
}

/// <summary>
/// Works through what is due, each subject's things strictly in their order: a thing is never claimed while an earlier one of the same subject stands in the
/// list, also where another worker has that one in its hands. Rows are claimed with FOR UPDATE SKIP LOCKED inside the transaction that does the work, so any
/// number of workers share one list, and a killed worker's claim is gone with its connection. Moving the house clock forward uses this same code.
/// </summary>
public sealed partial class RunDue(IServiceScopeFactory scopes, HouseClock clock, ILogger<RunDue> log)
{
    const int BatchSize = 200;
    // How far apart the first and the last thing of a batch may be. Their order is kept without it (by subject); it keeps what is written down over all
    // subjects in the order of days, and what new work a batch makes close to the moment it is made at.
    static readonly Duration Window = Duration.FromHours(20);
    static readonly Duration PostponedFor = Duration.FromMinutes(10);

    // While one batch is being written, the next is read and asked for.
    const int Hands = 2;

    /// <summary>Everything that is due now, with more than one pair of hands where it is much. In real time a thing counts as done when it is done.</summary>
    public async Task<Happenings> Run(CancellationToken ct = default)
    {
        var happened = new Happenings();
        while (await More(happened) is > 0 and var claimed)
            if (claimed == BatchSize)
                foreach (var done in await Task.WhenAll(Enumerable.Range(0, Hands).Select(_ => All()))) happened.Add(done);
        return happened;

        async Task<Happenings> All()
        {
            var done = new Happenings();
            while (await More(done) > 0) { }
            return done;
        }

        Task<int> More(Happenings done) => Batch(clock.Moment, _ => clock.Moment, null, done, ct);
    }

    /// <summary>
    /// Moves the standing clock to <paramref name="until"/>, doing on the way what falls due, each at its own moment.
    /// </summary>
    public async Task Forward(Instant until, Happenings happened, Func<Instant, Task> reached, CancellationToken ct = default)
    {
        while (await NextDue(until, ct) is { } next)
        {
            if (next > clock.Moment) clock.StandAt(next);
            await Batch(Instant.Min(Instant.Max(next, clock.Moment) + Window, until), row => row.ReadyAt, null, happened, ct);
            await reached(clock.Moment);
        }
        clock.StandAt(until);
    }

    /// <summary>Does one row at once, if it is still there and nobody else has it; otherwise a worker does it.</summary>
    public async Task Row(string key, CancellationToken ct = default) => await Batch(clock.Moment, _ => clock.Moment, key, new(), ct);

    async Task<Instant?> NextDue(Instant until, CancellationToken ct)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        return await db.DueWork.Where(d => d.ReadyAt <= until).OrderBy(d => d.ReadyAt).Select(d => (Instant?)d.ReadyAt).FirstOrDefaultAsync(ct);
    }

    /// <returns>How many rows it had in its hands.</returns>
    async Task<int> Batch(Instant until, Func<DueWork, Instant> momentOf, string? onlyKey, Happenings happened, CancellationToken ct, long? onlyId = null)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var limit = onlyKey is null && onlyId is null ? BatchSize : 1;
        var claimed = await db.DueWork.FromSql($"""
            select d.* from due_work d
            where d.ready_at <= {until}
              and ({onlyKey}::text is null or d.key = {onlyKey}) and ({onlyId}::bigint is null or d.id = {onlyId})
              and ({onlyId}::bigint is not null
                or not exists (select 1 from due_work e where e.subject_id = d.subject_id and (e.ready_at, e.id) < (d.ready_at, d.id)))
            order by d.ready_at, d.id limit {limit} for update of d skip locked
            """).AsTracking().ToListAsync(ct);
        if (claimed.Count == 0) return 0;

        var first = claimed[0];
        var rows = claimed.TakeWhile(d => d.Kind == first.Kind && d.ReadyAt <= first.ReadyAt + Window).ToList();
        var items = rows.Select(d => new DueItem(d, momentOf(d))).ToList();
        if (clock.IsStanding && items[0].Moment > clock.Moment) clock.StandAt(items[0].Moment);
        var handler = scope.ServiceProvider.GetServices<IDueHandler>().First(h => h.Kind == first.Kind);
        var done = new Happenings();
        try
        {
            await handler.Handle(items, done, ct);
            foreach (var item in items)
                if (item.PostponedWhy is { } why)
                    (item.Row.Tries, item.Row.LastError, item.Row.ReadyAt) = (item.Row.Tries + 1, why, item.Moment + PostponedFor);
                else
                    db.DueWork.Remove(item.Row);
            await db.SaveChangesAsync(ct);
            await transaction.CommitAsync(ct);
        }
        catch (Exception e) when (e is not OperationCanceledException && !IsDatabaseGone(e))
        {
            await transaction.RollbackAsync(CancellationToken.None);
            if (items.Count == 1)
            {
                WorkFailed(log, e, first.Kind, first.SubjectId, first.Tries + 1);
                await SetAside(first.Id, e.Message, items[0].Moment, ct);
            }
            else
            {
                // One of them spoils the batch: do them singly, so that only that one waits.
                foreach (var item in items) await Batch(until, momentOf, null, happened, ct, item.Row.Id);
            }
            return claimed.Count;
        }
        happened.Add(done);
        await handler.Committed(ct);
        return claimed.Count;
    }

    static bool IsDatabaseGone(Exception e) => e is Npgsql.NpgsqlException { IsTransient: true } || e.InnerException is { } inner && IsDatabaseGone(inner);

    async Task SetAside(long id, string why, Instant moment, CancellationToken ct)
    {
        await using var scope = scopes.CreateAsyncScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        var row = await db.DueWork.FirstOrDefaultAsync(d => d.Id == id, ct);
        if (row is null) return;
        row.Tries++;
        row.LastError = why.Length > 500 ? why[..500] : why;
        row.ReadyAt = moment + Duration.Min(Duration.FromMinutes(Math.Pow(2, Math.Min(row.Tries, 10))), Duration.FromHours(6));
        await db.SaveChangesAsync(ct);
    }

    [LoggerMessage(EventName = "DueWorkFailed", Level = LogLevel.Error, Message = "{Kind} of {Subject} went wrong (try {Try})")]
    static partial void WorkFailed(ILogger log, Exception e, DueKind kind, long subject, int @try);
}
