using System.Text.Json;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>What moving all who have a price would do.</summary>
/// <param name="People">How many have it and go on.</param>
/// <param name="Before">What they pay each time, all together.</param>
public sealed record PriceMoveLook(int People, Money Before, Money After);

/// <summary>
/// Moves all who have a price to another one of the same plan, with notice: they are written to at once, and from each one's first payment on or after a day
/// the
/// other counts. Until that day it can be taken back. Many are told and moved in batches, away from the page.
/// </summary>
public sealed class MovePrice(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, IClock clock, Wake wake)
{
    public const int MostDays = 730;
    CatalogueSnapshot Now => catalogue.Now;

    /// <summary>The prices somebody could be moved to from one.</summary>
    public IEnumerable<Price> WaysFrom(Price from) => Now.PricesOf(from.PlanId)
        .Where(p => p.Id != from.Id && from.Terms is PriceTerms.Recurring && p.Terms is PriceTerms.Recurring);

    /// <param name="to">Null where there is nothing to move them to.</param>
    /// <returns>What it would do, and the moves of the price there were, the newest first.</returns>
    public async Task<(PriceMoveLook? Look, IReadOnlyList<PriceMove> Moves)> Look(Price from, Price? to, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var people = trip.Count(db.Holdings.Where(h => h.PriceId == from.Id && !h.IsOver && h.Source == HoldingSource.Bought));
        var moves = trip.List(db.PriceMoves.AsNoTracking().Where(m => m.FromPriceId == from.Id).OrderByDescending(m => m.Id));
        await trip.Ask(ct);
        return (to is null ? null : new(people.Value, from.Terms.Headline!.Value * people.Value, to.Terms.ForAChange().Headline!.Value * people.Value),
            moves.Value);
    }

    public async Task<Result> Do(TeamActor by, PriceId id, PriceId toId, LocalDate on, CancellationToken ct)
    {
        by.NeedOwner();
        if (!Now.PriceById.TryGetValue(id, out var from) || WaysFrom(from).FirstOrDefault(p => p.Id == toId) is not { } to)
            return Result.Refused("Choose a price of the same plan that is paid again and again.", "To");
        var at = clock.GetCurrentInstant();
        var days = NodaTime.Period.DaysBetween(Now.Calendar.Date(at), on);
        if (days is < 1 or > MostDays) return Result.Refused("Choose a day from tomorrow on, within two years.", "On");
        if (await db.PriceMoves.AnyAsync(m => m.FromPriceId == id && m.TakenBackAt == null && m.DoneAt == null, ct))
            return Result.Refused("Those who have it are being moved already. Take that back first.");
        var move = db.Add(new PriceMove { Id = ids.Next(), FromPriceId = id, ToPriceId = toId, On = on, MadeAt = at, By = by.Name }).Entity;
        db.PutDue(ids, DueKind.MovePrice, move.Id, at, PriceMoving.Key(move.Id, "tell", 1), PriceMoving.Write(new(false, 1, 0)));
        db.PutDue(ids, DueKind.MovePrice, move.Id, Now.Calendar.At(on.AtMidnight()), PriceMoving.Key(move.Id, "move", 1), PriceMoving.Write(new(true, 1, 0)));
        deeds.Note(by, $"moves all who have “{from.Name}” of {Now.PlanName(from.PlanId)} to “{to.Name}” from {on.ToString("d MMMM uuuu", Now.Culture)} on",
            $"/desk/prices/{id.Value}/move");
        await db.SaveChangesAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>Takes it back before its day: nobody is moved. Whoever was told hears nothing more by itself.</summary>
    public async Task<Result> TakeBack(TeamActor by, long id, CancellationToken ct)
    {
        by.NeedOwner();
        if (await db.PriceMoves.FirstOrDefaultAsync(m => m.Id == id && m.TakenBackAt == null && m.DoneAt == null, ct) is not { } move)
            return Result.Refused("There is nothing to take back.");
        if (Now.Calendar.At(move.On.AtMidnight()) <= clock.GetCurrentInstant()) return Result.Refused("Its day has come: people are being moved.");
        move.TakenBackAt = clock.GetCurrentInstant();
        deeds.Note(by, $"took back a move of those who have a price of {Now.PlanName(Now.PriceById[move.FromPriceId].PlanId)}",
            $"/desk/prices/{move.FromPriceId.Value}/move");
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }
}

/// <summary>A batch of people told of another price, or moved to it.</summary>
public sealed class PriceMoving(BrightContext db, Ids ids, Memberships door, Books books, Catalogue catalogue, Tell tell) : IDueHandler
{
    public const int Batch = 200;
    /// <summary>Whoever can't be moved just then (a payment is open, a pause runs) is looked at again each day, so often.</summary>
    const int MostTries = 120;
    internal sealed record Order(bool Moves, int Number, long After);
    internal static string Key(long move, string what, int number) => $"price-{move}-{what}-{number}";
    internal static string Write(Order order) => JsonSerializer.Serialize(order);

    public DueKind Kind => DueKind.MovePrice;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var move = await db.PriceMoves.SingleAsync(m => m.Id == item.Row.SubjectId, ct);
            if (move.TakenBackAt is not null || move.DoneAt is not null) continue;
            var order = JsonSerializer.Deserialize<Order>(item.Row.Payload!)!;
            var (last, count, left) = order.Moves ? await Move(move, order.After, item.Moment, ct) : await TellSome(move, order.After, item.Moment, ct);
            happened.Add(order.Moves ? "moved to another price" : "told of another price", count);
            if (last is { } after) Put(order with { Number = order.Number + 1, After = after }, item.Moment);
            else if (order.Moves && left && order.Number < MostTries) Put(new(true, order.Number + 1, 0), item.Moment + Duration.FromDays(1));
            else if (order.Moves) move.DoneAt = item.Moment;
            await db.SaveChangesAsync(ct);

            void Put(Order next, Instant at) =>
                db.PutDue(ids, DueKind.MovePrice, move.Id, at, Key(move.Id, next.Moves ? "move" : "tell", next.Number), Write(next));
        }
    }

    IQueryable<Holding> Of(PriceMove move, long after) => db.Holdings.FromSql($"""
        select * from holdings where price_id = {move.FromPriceId.Value} and not is_over and source = 'Bought' and id > {after} order by id limit {Batch}
        """).OrderBy(h => h.Id);

    /// <returns>Where the next batch begins; null where this was the last.</returns>
    async Task<(long? Last, int Count, bool Left)> TellSome(PriceMove move, long after, Instant at, CancellationToken ct)
    {
        var holdings = await Of(move, after).AsNoTracking().Include(h => h.Facts.OrderBy(f => f.Seq)).ToListAsync(ct);
        var numbers = holdings.Select(h => h.MemberId).Distinct().ToArray();
        var people = await db.Members.Where(m => numbers.Contains(m.Id)).ToDictionaryAsync(m => m.Id, ct);
        var told = 0;
        foreach (var h in holdings.Where(h => h.Timeline.Leaving is null))
        {
            tell.Of(people[h.MemberId], new Event.PriceTold(h.Id, h.PlanId, move.FromPriceId, move.ToPriceId, move.On), at);
            told++;
        }
        move.Told += told;
        return (holdings.Count == Batch ? holdings[^1].Id.Value : null, told, false);
    }

    async Task<(long? Last, int Count, bool Left)> Move(PriceMove move, long after, Instant at, CancellationToken ct)
    {
        var now = catalogue.Now;
        var to = now.PriceById[move.ToPriceId];
        var plan = now.PlanById[to.PlanId];
        var some = await Of(move, after).AsNoTracking().Select(h => new { h.Id, h.MemberId }).ToListAsync(ct);
        var entered = await door.Enter([.. some.Select(s => s.MemberId).Distinct()], ct);
        var (moved, left) = (0, false);
        foreach (var one in some)
        {
            var m = entered[one.MemberId];
            var holding = m.Find(one.Id)!;
            // Whoever leaves or changes already isn't moved, and won't be.
            if (holding.Timeline.Leaving is not null || holding.StateAt(at) == HoldingState.Over) continue;
            if (PlanChange.Refuses(holding, plan, plan, to, at) is not null)
            {
                left = true;
                continue;
            }
            var change = PlanChange.Of(holding, plan, plan, to.Terms, ChangeWhen.AtPeriodEnd, at);
            books.Change(m, holding, change, to, ids.Next<HoldingId>(), at, move.Id);
            moved++;
        }
        await door.Leave([.. entered.Values], at, ct);
        move.Moved += moved;
        return (some.Count == Batch ? some[^1].Id.Value : null, moved, left);
    }
}
