using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Billing;

/// <summary>
/// The one door to what members hold. Whoever changes a holding comes through here: the member's row is locked, a charge whose answer is unknown is settled
/// before anything else, and on the way out the standing is derived anew and what falls due is put right.
/// </summary>
public sealed class Memberships(BrightContext db, Ids ids, SettleAsks settle, Catalogue catalogue, IClock clock, Wake wake)
{
    const int Tries = 4;

    /// <summary>A charge of the member was begun meanwhile by somebody else.</summary>
    sealed class AskedMeanwhile : Exception;

    /// <summary>Changes what one member holds, in one transaction.</summary>
    /// <param name="change">Is given the membership and the moment; a refusal leaves everything as it was.</param>
    public Task<Result> Change(MemberId member, Func<Membership, Instant, Task<Result>> change, CancellationToken ct) =>
        Do([member], async () =>
        {
            if ((await Enter([member], ct)).GetValueOrDefault(member) is not { } m) return Result.Refused("This person isn’t here any more.");
            if (m.Member.IsForgotten) return Result.Refused("This person is deleted.");
            var at = clock.GetCurrentInstant();
            var done = await change(m, at);
            if (done.Ok) await Leave([m], at, ct);
            return done;
        }, ct);

    /// <summary>
    /// Runs something in a transaction of its own, after what is unsettled of these members was settled. When somebody came between, or two did the same at
    /// once, it is done again from the start.
    /// </summary>
    public async Task<Result> Do(IReadOnlyCollection<MemberId> members, Func<Task<Result>> work, CancellationToken ct)
    {
        for (var again = 1; ; again++)
        {
            foreach (var member in members)
                if (await settle.Of(member, ct) is { } unsettled) return Result.Refused(unsettled);
            await using var transaction = await db.Database.BeginTransactionAsync(ct);
            try
            {
                var done = await work();
                if (!done.Ok)
                {
                    await transaction.RollbackAsync(ct);
                    db.ChangeTracker.Clear();
                    return done;
                }
                await db.SaveChangesAsync(ct);
                await transaction.CommitAsync(ct);
                wake.Up();
                return done;
            }
            catch (Exception e) when (again < Tries && (e is AskedMeanwhile || Races.Lost(e)))
            {
                await transaction.RollbackAsync(ct);
                db.ChangeTracker.Clear();
            }
        }
    }

    /// <summary>Locks members, in one order for all, and reads what they hold. Within a transaction.</summary>
    public async Task<Dictionary<MemberId, Membership>> Enter(IReadOnlyCollection<MemberId> members, CancellationToken ct)
    {
        await Lock(members, ct);
        var wanted = members.ToArray();
        if (await db.ChargeAsks.AnyAsync(a => wanted.Contains(a.MemberId), ct)) throw new AskedMeanwhile();
        return await db.LoadMemberships(members, ct);
    }

    internal Task Lock(IReadOnlyCollection<MemberId> members, CancellationToken ct)
    {
        var numbers = members.Select(m => m.Value).ToArray();
        return db.Database.ExecuteSqlAsync($"select 1 from members where id = any({numbers}) order by id for no key update", ct);
    }

    /// <summary>Derives the standings anew, with their history, and puts right what falls due.</summary>
    /// <param name="retries">For holdings whose payment just failed: when the same card is asked again; null for not at all.</param>
    public async Task Leave(IReadOnlyCollection<Membership> memberships, Instant at, CancellationToken ct,
        IReadOnlyDictionary<HoldingId, Instant?>? retries = null)
    {
        foreach (var m in memberships) Restand(m, at);
        await PutDue([.. memberships.SelectMany(m => m.Holdings)], at, retries ?? new Dictionary<HoldingId, Instant?>(), ct);
    }

    void Restand(Membership m, Instant at)
    {
        foreach (var h in m.Holdings)
        {
            var over = h.StateAt(at) == HoldingState.Over;
            // With a group's holding its seats end.
            if (over && !h.IsOver && h.Seats is not null) db.PutDue(ids, DueKind.EndSeats, h.Id.Value, at, $"end-seats-{h.Id.Value}-{h.Facts.Count}");
            h.IsOver = over;
        }
        var fresh = m.Member.StandingSince == default;
        var before = m.Member.Standing;
        if (!m.Member.Stand(Standings.At(m.Holdings, catalogue.Now.Book.Plan, at), at)) return;
        db.StandingChanges.Add(new()
        {
            Id = ids.Next(),
            MemberId = m.Member.Id,
            At = at,
            From = fresh ? null : before,
            To = m.Member.Standing,
            PlanId = m.Member.StandingPlanId
        });
    }

    /// <summary>A lapse waits a moment longer than the last retry, which decides by itself.</summary>
    static readonly Duration AfterLastRetry = Duration.FromMinutes(1);

    /// <summary>
    /// What falls due for holdings follows from what they owe: rows that don't are taken away, missing ones put in. A row that a worker holds just now
    /// is left: it asks again what is owed when it gets its turn.
    /// </summary>
    async Task PutDue(IReadOnlyCollection<Holding> holdings, Instant at, IReadOnlyDictionary<HoldingId, Instant?> retries, CancellationToken ct)
    {
        var known = holdings.Where(h => db.StateOf(h) != EntityState.Added).Select(h => h.Id.Value).ToArray();
        var rows = known.Length == 0 ? [] : await db.DueWork.FromSql($"""
            select * from due_work where subject_id = any({known}) and kind in ('Renew', 'LapseHolding', 'EndHolding', 'BeginHolding',
                'EndPause', 'AskTransfer') for update skip locked
            """).ToListAsync(ct);
        await CallOffRequests(holdings, at, ct);
        var byHolding = rows.Where(r => db.StateOf(r) == EntityState.Unchanged).ToLookup(r => r.SubjectId);
        foreach (var h in holdings)
        {
            var owes = Obligations.Of(h, at);
            var has = byHolding[h.Id.Value].ToArray();
            var isNew = retries.TryGetValue(h.Id, out var retry);
            // What fell due while something else was open is asked for now: as of its own day nothing of what came since is known.
            Instant? renew = owes.IsOverdue ? retry : owes.Next is { } next ? Instant.Max(next.DueAt, at) : null;
            // In grace what was to be asked again stays so, unless an answer just said otherwise.
            if (!owes.IsOverdue || isNew) Put(DueKind.Renew, h, renew, owes.Next?.Turn ?? 0, has, owes.IsOverdue ? 2 : 1, owes.Next?.Amount.Minor);
            Put(DueKind.LapseHolding, h, owes.GraceUntil + AfterLastRetry, owes.Next?.Turn ?? 0, has);
            Put(DueKind.BeginHolding, h, owes.State == HoldingState.NotYet ? h.StartsAt : null, 0, has);
            Put(DueKind.EndPause, h, owes.PausedUntil, 0, has);
            Put(DueKind.AskTransfer, h, h.Way != PayWay.Card && owes is { IsOverdue: false, Next: { Amount.IsZero: false } comes }
                ? WantPayment.AskAt(comes, at, catalogue.Now.Calendar) : null, 0, has);
            // Grace ends by itself; what it is of may end before.
            Put(DueKind.EndHolding, h, owes.State == HoldingState.Over ? null : owes.State == HoldingState.Grace ? h.Agreement.AccessEnds
                : owes.AccessEnds, 0, has);
        }
    }

    /// <summary>Requests by transfer or by hand that nothing owed stands behind any more are called off; orders that were paid otherwise are done.</summary>
    async Task CallOffRequests(IReadOnlyCollection<Holding> holdings, Instant at, CancellationToken ct)
    {
        var asked = holdings.Where(h => db.StateOf(h) != EntityState.Added && (h.Way != PayWay.Card || db.Was<PayWay>(h, nameof(Holding.Way)) != PayWay.Card))
            .ToDictionary(h => h.Id);
        if (asked.Count == 0) return;
        var keys = asked.Keys.Select(k => (HoldingId?)k).ToArray();
        foreach (var request in await db.Checkouts.Where(c => keys.Contains(c.HoldingId) && c.State == CheckoutState.Placed).ToListAsync(ct))
        {
            // What was just confirmed stands in memory as done already.
            if (request.State != CheckoutState.Placed) continue;
            var h = asked[request.HoldingId!.Value];
            if (request.Purpose == CheckoutPurpose.Join)
            {
                // An order whose things are open already, and were paid otherwise: nothing is waited for any more.
                var waits = holdings.Any(x => x.MemberId == request.MemberId && FulfilOrder.IsOf(request, x) && Obligations.Of(x, at).IsOverdue);
                if (!waits && h.StateAt(at) != HoldingState.Over) (request.State, request.CompletedAt) = (CheckoutState.Completed, at);
            }
            else if (h.Way == PayWay.Card || Obligations.Of(h, at).Next is not { } next || next.Turn != request.Turn || next.Purpose != request.ChargePurpose
                || next.Amount != request.Asked) request.State = CheckoutState.CalledOff;
        }
    }

    void Put(DueKind kind, Holding holding, Instant? at, int turn, DueWork[] has, int attempt = 1, long? amount = null)
    {
        var there = false;
        foreach (var row in has)
            if (row.Kind == kind)
                if (row.DueAt == at && row.AmountMinor == amount) there = true;
                else db.DueWork.Remove(row);
        if (at is not { } due || there) return;
        db.DueWork.Add(new()
        {
            Id = ids.Next(),
            Kind = kind,
            SubjectId = holding.Id.Value,
            DueAt = due,
            ReadyAt = due,
            Turn = turn,
            Attempt = attempt,
            AmountMinor = amount,
            // Two that say the same in different moments of one holding's life are two rows: each fact makes its own.
            Key = $"{kind.ToString().ToLowerInvariant()}-{holding.Id.Value}-{holding.Facts.Count}-{due.ToUnixTimeSeconds()}",
        });
    }

    /// <summary>Asks the card on file for what is open, now: another card was put in.</summary>
    internal void AskNow(Holding holding, Instant at, int turn) => db.DueWork.Add(new()
    {
        Id = ids.Next(),
        Kind = DueKind.Renew,
        SubjectId = holding.Id.Value,
        DueAt = at,
        ReadyAt = at,
        Turn = turn,
        Attempt = 2,
        Key = $"renew-{holding.Id.Value}-card-{ids.Next()}",
    });
}

/// <summary>Two did the same thing at once, and this one came second.</summary>
public static class Races
{
    public static bool Lost(Exception e) => e switch
    {
        DbUpdateConcurrencyException => true,
        DbUpdateException { InnerException: PostgresException p } => Lost(p),
        PostgresException p => p.SqlState is PostgresErrorCodes.UniqueViolation or PostgresErrorCodes.ExclusionViolation or PostgresErrorCodes.DeadlockDetected
            or PostgresErrorCodes.SerializationFailure,
        _ => e.InnerException is { } inner && Lost(inner),
    };
}
