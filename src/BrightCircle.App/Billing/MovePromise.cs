using System.Text.Json;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>
/// Moves all who hold a plan to a version of its promise, as an act of its own that stands in each journal and can be taken back. Many are moved in batches,
/// away from the page.
/// </summary>
public sealed class MovePromise(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, RunDue due, IClock clock)
{
    /// <summary>So many batches are done before the page answers.</summary>
    const int AtOnce = 3;

    public async Task<Result> Do(TeamActor by, PlanId id, int to, CancellationToken ct)
    {
        by.NeedOwner();
        if (!catalogue.Now.PlanById.TryGetValue(id, out var plan) || to != plan.PromiseNumber && plan.Earlier.All(v => v.Number != to))
            return Result.Refused("There is no such promise any more.");
        var move = new PromiseMove { Id = ids.Next(), PlanId = id, To = to, At = clock.GetCurrentInstant(), By = by.Name };
        db.Add(move);
        deeds.Note(by, $"moved all who hold {plan.Name} to version {to} of what it promises", $"/desk/tiers/{id.Value}/promise");
        await Begin(move.Id, false, move.At, ct);
        return Result.Done;
    }

    /// <summary>Puts everybody whom a move moved back to where they were, if nothing moved them since.</summary>
    public async Task<Result> TakeBack(TeamActor by, long id, CancellationToken ct)
    {
        by.NeedOwner();
        var move = await db.PromiseMoves.FirstOrDefaultAsync(m => m.Id == id, ct);
        if (move is not { TakenBackAt: null }) return Result.Refused("This move was taken back already.");
        if (!move.Done) return Result.Refused("It is still going on. Try again in a minute.");
        deeds.Note(by, $"took back a move to version {move.To} of what {catalogue.Now.PlanName(move.PlanId)} promises",
            $"/desk/tiers/{move.PlanId.Value}/promise");
        move.TakenBackAt = clock.GetCurrentInstant();
        await Begin(id, true, move.TakenBackAt.Value, ct);
        return Result.Done;
    }

    async Task Begin(long move, bool back, Instant at, CancellationToken ct)
    {
        db.PutDue(ids, DueKind.MovePromise, move, at, PromiseMoving.Key(move, back, 1), JsonSerializer.Serialize(new PromiseMoving.Order(back, 1)));
        await db.SaveChangesAsync(ct);
        for (var batch = 1; batch <= AtOnce; batch++) await due.Row(PromiseMoving.Key(move, back, batch), ct);
    }
}

/// <summary>A batch of a move of many to another version of a promise.</summary>
public sealed class PromiseMoving(BrightContext db, Ids ids, Memberships door, Tell tell) : IDueHandler
{
    public const int Batch = 200;
    internal sealed record Order(bool Back, int Number);
    internal static string Key(long move, bool back, int batch) => $"promise-{move}-{(back ? "back" : "on")}-{batch}";

    public DueKind Kind => DueKind.MovePromise;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var order = JsonSerializer.Deserialize<Order>(item.Row.Payload!)!;
            var move = await db.PromiseMoves.SingleAsync(m => m.Id == item.Row.SubjectId, ct);
            var moved = await Some(move, order.Back, item.Moment, ct);
            happened.Add("holdings moved to another promise", moved);
            if (!order.Back) move.Moved += moved;
            if (moved < Batch) move.Done = true;
            else db.PutDue(ids, DueKind.MovePromise, move.Id, item.Moment, Key(move.Id, order.Back, order.Number + 1),
                JsonSerializer.Serialize(order with { Number = order.Number + 1 }));
            await db.SaveChangesAsync(ct);
        }
    }

    async Task<int> Some(PromiseMove move, bool back, Instant at, CancellationToken ct)
    {
        // By which version each lives, and for a way back: from which this very move took it.
        var wanted = await db.Database.SqlQuery<Wanted>($"""
            select h.id as holding, h.member_id as member, (j.event->>'from')::int as was
            from holdings h
            left join lateral (select f.promise from holding_facts f where f.holding_id = h.id and f.kind = 'Moved' order by f.seq desc limit 1) f on true
            left join lateral (select j.event from journal j where {back} and j.member_id = h.member_id and j.kind = 'promise-moved'
              and (j.event->>'holding')::bigint = h.id and (j.event->>'move')::bigint = {move.Id} limit 1) j on true
            where h.plan_id = {move.PlanId.Value}
              and case when {back} then j.event is not null and f.promise = {move.To}
                else not h.is_over and coalesce(f.promise, h.promise_number) <> {move.To} end
            order by h.id limit {Batch}
            """).ToListAsync(ct);
        if (wanted.Count == 0) return 0;
        await door.Lock([.. wanted.Select(w => new MemberId(w.Member)).Distinct()], ct);
        var numbers = wanted.Select(w => new HoldingId(w.Holding)).ToArray();
        var members = wanted.Select(w => new MemberId(w.Member)).Distinct().ToArray();
        var holdings = await db.Holdings.Where(h => numbers.Contains(h.Id)).Include(h => h.Facts.OrderBy(f => f.Seq)).ToDictionaryAsync(h => h.Id, ct);
        var people = await db.Members.Where(m => members.Contains(m.Id)).ToDictionaryAsync(m => m.Id, ct);
        foreach (var w in wanted)
        {
            var holding = holdings[new(w.Holding)];
            var (from, to) = (holding.LivesBy, back ? w.Was!.Value : move.To);
            if (from == to) continue;
            db.HoldingFacts.Add(holding.Moved(at, to));
            tell.Of(people[holding.MemberId], new Event.PromiseMoved(holding.Id, holding.PlanId, from, to, move.Id), at);
        }
        return wanted.Count;
    }

    sealed record Wanted(long Holding, long Member, int? Was);
}
