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

/// <summary>Orders something whose money comes by transfer or by hand: the buyer is told how, and the order waits for it.</summary>
public sealed class PlaceOrder(BrightContext db, Ids ids, Memberships door, FulfilOrder fulfil, UseCoupon coupons, Tell tell, Catalogue catalogue,
    IClock clock, Wake wake)
{
    CatalogueSnapshot Now => catalogue.Now;

    public async Task<Result> Do(long checkout, PayWay way, CancellationToken ct)
    {
        var c = await db.Checkouts.FirstAsync(x => x.Id == checkout, ct);
        var price = Now.PriceById[c.PriceId!.Value];
        var at = clock.GetCurrentInstant();
        if (ReviewJoin.WaysFor(price, ReviewJoin.OrderOf(c, price, at, Now), Now).FirstOrDefault(w => w.Way == way && w.Way != PayWay.Card) is not { } offered)
            return Result.Refused("This way to pay isn’t offered for it any more. Choose another.", "Way");
        var until = Now.Calendar.PlusDays(at, offered.Days);
        if (await coupons.Keep(c, price, until, ct) is { } refused) return Result.Refused(refused, "Coupon");
        var coupon = c.Coupon;
        // Read anew behind the lock: another window may have ordered it meanwhile.
        db.ChangeTracker.Clear();
        var member = await fulfil.MemberOf(checkout, ct);
        var done = await door.Do(member is { } known ? [known] : [], async () =>
        {
            var order = await fulfil.Lock(checkout, ct);
            if (order.State == CheckoutState.Placed) return Result.Done;
            if (order.State != CheckoutState.Open) return Result.Refused("This order isn’t open any more.");
            var now = clock.GetCurrentInstant();
            (order.Way, order.AgreedAt, order.Coupon) = (way, now, coupon);
            var asked = ReviewJoin.OrderOf(order, price, now, Now);
            if (asked.Due is not { } due)
            {
                // Nothing to pay yet: it begins, and what falls due later is asked for in this way.
                (order.State, order.CompletedAt) = (CheckoutState.Completed, now);
                await fulfil.Join(order, null, placed: false, now, ct);
                return Result.Done;
            }
            var m = await fulfil.FindOrAdd(order, price.PlanId, now, ct);
            order.MemberId = m.Member.Id;
            if ((order.Voucher is null && m.Held(price.PlanId, now) is not null ? $"You already hold {Now.PlanName(price.PlanId)}."
                : await fulfil.RefusedTo(order, price, m, asked, now, ct)) is { } no)
            {
                // Told only to the person themselves, when they sign in: the address could be anybody's.
                (order.State, order.CompletedAt, order.RefusedBecause) = (CheckoutState.Completed, now, no);
                await door.Leave([m], now, ct);
                return Result.Done;
            }
            (order.State, order.PlacedAt, order.OpenUntil) = (CheckoutState.Placed, now, until);
            (order.Reference, order.AskedMinor, order.AskedCurrency) = (CreditorReference.For(order.Id), due.Minor, due.Currency.Code);
            var opens = offered.OpensAtOnce && order.Voucher is null;
            if (opens)
                foreach (var part in asked.Parts)
                {
                    if (part.IsExtra && m.Held(part.Plan, now) is not null) continue;
                    var holding = await fulfil.Begin(order, m, part, now, ct);
                    if (part.Due is { Amount.IsZero: false })
                    {
                        db.HoldingFacts.Add(holding.Planned(now));
                        db.HoldingFacts.Add(holding.Grace(now, until));
                    }
                    else fulfil.Pay(order, m, holding, part.Agreement, null, null, now);
                }
            tell.Of(m.Member, new Event.OrderPlaced(order.Id, price.PlanId, due, order.Reference, way, until, opens), now);
            Chase(order, now);
            await door.Leave([m], now, ct);
            return Result.Done;
        }, ct);
        if (done.Ok) wake.Up();
        return done;
    }

    /// <summary>Half-way to its end it is reminded of; at its end it is given up.</summary>
    void Chase(Checkout order, Instant at) => Chasing.Put(db, ids, order, at);
}

static class Chasing
{
    public static void Put(BrightContext db, Ids ids, Checkout order, Instant at)
    {
        var end = order.OpenUntil!.Value;
        db.PutDue(ids, DueKind.ChaseOrder, order.Id, at + (end - at) / 2, $"chase-{order.Id}-remind");
        db.PutDue(ids, DueKind.ChaseOrder, order.Id, end, $"chase-{order.Id}-end");
    }
}

/// <summary>Reminds of orders whose money isn't there, and gives them up at their end.</summary>
public sealed class ChaseOrder(BrightContext db, Memberships door, Tell tell) : IDueHandler
{
    public DueKind Kind => DueKind.ChaseOrder;

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

static class OrderPlans
{
    /// <summary>The plan an order is about.</summary>
    public static async Task<PlanId> PlanOf(this BrightContext db, Checkout order, CancellationToken ct) => order.PriceId is { } price
        ? await db.Prices.Where(p => p.Id == price).Select(p => p.PlanId).SingleAsync(ct)
        : await db.Holdings.Where(h => h.Id == order.HoldingId).Select(h => h.PlanId).SingleAsync(ct);
}

/// <summary>Asks for what falls due where it is paid by transfer or by hand: a request with a reference, written down like an order.</summary>
public sealed class WantPayment(BrightContext db, Ids ids, Tell tell, Catalogue catalogue)
{
    /// <summary>So many days before it is due it is asked for.</summary>
    public const int AheadDays = 10;

    /// <summary>When a charge is asked for: before it is due, where there is time for that.</summary>
    public static Instant? AskAt(Charge charge, Instant from, Core.Time.SiteCalendar calendar) =>
        calendar.PlusDays(charge.DueAt, -AheadDays) is var ahead && ahead > from ? ahead : null;

    /// <summary>How long the money of what falls due is waited for, in days.</summary>
    public int DaysOf(PayWay way) => catalogue.Now.Site!.Ways.FirstOrDefault(w => w.Way == way)?.Days ?? 14;

    /// <summary>The request for a charge, made where it isn't there yet.</summary>
    public async Task<Checkout> For(Membership m, Holding holding, Charge charge, Instant at, CancellationToken ct)
    {
        if (await db.Checkouts.FirstOrDefaultAsync(c => c.HoldingId == holding.Id && c.Purpose == CheckoutPurpose.ConfirmPayment && c.Turn == charge.Turn
            && c.ChargePurpose == charge.Purpose && c.State == CheckoutState.Placed, ct) is { } known) return known;
        var until = catalogue.Now.Calendar.PlusDays(Instant.Max(at, charge.DueAt), DaysOf(holding.Way));
        var id = ids.Next();
        var order = db.Add(new Checkout
        {
            Id = id,
            Purpose = CheckoutPurpose.ConfirmPayment,
            MemberId = m.Member.Id,
            HoldingId = holding.Id,
            Turn = charge.Turn,
            ChargePurpose = charge.Purpose,
            Email = m.Member.Email,
            Name = m.Member.Name,
            CreatedAt = at,
            Way = holding.Way,
            State = CheckoutState.Placed,
            PlacedAt = at,
            OpenUntil = until,
            Reference = CreditorReference.For(id),
            AskedMinor = charge.Amount.Minor,
            AskedCurrency = charge.Amount.Currency.Code,
        }).Entity;
        tell.Of(m.Member, new Event.PaymentWanted(id, holding.Id, holding.PlanId, charge.Amount, order.Reference!, order.Way, charge.DueAt, until), at);
        Chasing.Put(db, ids, order, at);
        return order;
    }
}

/// <summary>What falls due by transfer or by hand is asked for ahead.</summary>
public sealed class AskTransfer(BrightContext db, Memberships door, WantPayment want) : IDueHandler
{
    public DueKind Kind => DueKind.AskTransfer;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var asks = new List<(Membership, Holding, Charge, Instant)>();
        await EndThose.When(db, door, items, (m, holding, at) =>
        {
            if (holding.Way == PayWay.Card || Obligations.Of(holding, at) is not { IsOverdue: false, Next: { Amount.IsZero: false } charge }) return false;
            asks.Add((m, holding, charge, at));
            return false;
        }, ct);
        foreach (var (m, holding, charge, at) in asks)
        {
            await want.For(m, holding, charge, at, ct);
            happened.Add("asked for");
        }
    }
}
