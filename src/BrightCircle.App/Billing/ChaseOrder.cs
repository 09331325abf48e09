using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>Reminds of orders whose money isn't there, and gives them up at their end.</summary>
public sealed class ChaseOrder(BrightContext db, Memberships door, Tell tell) : IDueHandler
{
    public DueKind Kind => DueKind.ChaseOrder;

    /// <summary>Half-way to its end it is reminded of; at its end it is given up.</summary>
    internal static void Put(BrightContext db, Ids ids, Checkout order, Instant at)
    {
        var end = order.OpenUntil!.Value;
        db.PutDue(ids, DueKind.ChaseOrder, order.Id, at + (end - at) / 2, $"chase-{order.Id}-remind");
        db.PutDue(ids, DueKind.ChaseOrder, order.Id, end, $"chase-{order.Id}-end");
    }

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var numbers = items.Select(i => i.Row.SubjectId).ToArray();
        var members = await db.Checkouts.Where(c => numbers.Contains(c.Id) && c.MemberId != null).Select(c => c.MemberId!.Value).Distinct().ToListAsync(ct);
        await door.Lock(members, ct);
        var orders = await db.Checkouts.FromSql($"select * from checkouts where id = any({numbers}) for update").ToDictionaryAsync(c => c.Id, ct);
        var people = await db.Members.Where(m => members.Contains(m.Id)).ToDictionaryAsync(m => m.Id, ct);
        foreach (var item in items)
        {
            // What was paid or called off meanwhile has nothing to be chased.
            if (!orders.TryGetValue(item.Row.SubjectId, out var order) || order is not { State: CheckoutState.Placed, OpenUntil: { } until, MemberId: { } id })
                continue;
            if (item.Moment < until)
            {
                if (order.RemindedAt is not null) continue;
                order.RemindedAt = item.Moment;
                tell.Of(people[id], new Event.OrderReminded(order.Id, await db.PlanOf(order, ct), order.Asked!.Value, order.Reference!, order.Way, until),
                    item.Moment);
                happened.Add("reminded");
                continue;
            }
            order.State = CheckoutState.Expired;
            // Of what is open already the end of grace tells.
            if (order.Purpose == CheckoutPurpose.Join && order.HoldingId is null)
                tell.Of(people[id], new Event.OrderOver(order.Id, await db.PlanOf(order, ct), order.Asked!.Value, CalledOff: false), item.Moment);
            // What wasn't paid used no coupon up.
            await db.CouponUses.Where(u => u.CheckoutId == order.Id).ExecuteDeleteAsync(ct);
            happened.Add("expired");
        }
    }
}
