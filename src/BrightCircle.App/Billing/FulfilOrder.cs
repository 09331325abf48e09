using System.Security.Cryptography;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>How the money of an order came in.</summary>
/// <param name="Ref">The payment service's or the transfer's reference; empty where no money came and only a card was kept.</param>
/// <param name="Label">The card, or how it came, for people.</param>
/// <param name="Taken">What came in; null where that isn't known.</param>
/// <param name="Card">What the payment service kept; null for other ways.</param>
public sealed record CameIn(PayWay Way, string Ref, string Label, Money? Taken, SessionResult? Card)
{
    public static CameIn? By(SessionResult? result) =>
        result is null ? null : new(PayWay.Card, result.ChargeRef, result.CardLabel, result.Taken, result);

    public bool IsMoney => Ref.Length > 0;
}

/// <summary>Turns an order into what it is of: account, holdings, payments, letters. Within the door's transaction, with the checkout's row locked.</summary>
public sealed class FulfilOrder(BrightContext db, Ids ids, Books books, Memberships door, Grants grants, Tell tell, UseCoupon coupons, Catalogue catalogue)
{
    CatalogueSnapshot Now => catalogue.Now;

    public Task<Checkout> Lock(long checkout, CancellationToken ct) =>
        db.Checkouts.FromSql($"select * from checkouts where id = {checkout} for update").SingleAsync(ct);

    /// <summary>Whose order it is, where that person is known already.</summary>
    public async Task<MemberId?> MemberOf(long checkout, CancellationToken ct)
    {
        var whose = await db.Checkouts.AsNoTracking().Where(c => c.Id == checkout).Select(c => new { c.MemberId, c.Email }).FirstAsync(ct);
        return whose.MemberId ?? await MemberBehind(whose.Email, ct);
    }

    async Task<MemberId?> MemberBehind(string email, CancellationToken ct)
    {
        var normal = EmailAddress.Normalise(email);
        return await db.Members.FromSql($"select m.* from members m join accounts a on a.id = m.id where a.normalized_email = {normal}")
            .Select(m => (MemberId?)m.Id).FirstOrDefaultAsync(ct);
    }

    public async Task<Membership> FindOrAdd(Checkout c, PlanId joins, Instant at, CancellationToken ct)
    {
        var id = c.MemberId ?? await MemberBehind(c.Email, ct);
        if (id is { } known) return (await door.Enter([known], ct))[known];
        var normal = EmailAddress.Normalise(c.Email);
        if (await db.Users.FirstOrDefaultAsync(a => a.NormalizedEmail == normal, ct) is { } ofTeam)
            return new(db.Add(new Member { Id = new(ofTeam.Id), Name = ofTeam.Name, Email = ofTeam.Email!, JoinedAt = at }).Entity, []);
        c.MadeAccount = true;
        return grants.Arrive(c.Name, c.Email, at, c.Voucher is null ? joins : null);
    }

    public void AddCard(MemberId member, SessionResult result, Instant at)
    {
        var card = db.Cards.Add(new()
        {
            Id = ids.Next(),
            MemberId = member,
            Token = result.CardToken,
            Label = result.CardLabel,
            AddedAt = at,
            GoodUntil = result.GoodUntil,
        }).Entity;
        if (CardExpiring.TellAt(card, Now.Calendar) is { } tellAt) db.PutDue(ids, DueKind.CardExpiring, card.Id, tellAt, $"card-{card.Id}");
    }

    /// <summary>The order is paid, or needs no payment.</summary>
    /// <param name="placed">It waited for its money; what it is of may be open already.</param>
    public async Task Join(Checkout c, CameIn? came, bool placed, Instant at, CancellationToken ct)
    {
        var price = Now.PriceById[c.PriceId!.Value];
        var m = await FindOrAdd(c, price.PlanId, at, ct);
        c.MemberId = m.Member.Id;
        if (came?.Card is { } card) AddCard(m.Member.Id, card, at);
        if (placed && c.HoldingId is { } waiting && m.Find(waiting) is { } opened && opened.StateAt(at) != HoldingState.Over)
        {
            await PayWhatIsOpen(c, m, came!, at, ct);
            await door.Leave([m], at, ct);
            return;
        }
        var order = ReviewJoin.OrderOf(c, price, at, Now);
        var taken = order.Split(came is { IsMoney: true } ? came.Taken ?? order.Due : null);
        if (c.Voucher is null && m.Held(price.PlanId, at) is { } held)
        {
            // Two checkouts of one person were paid. The plan is held once; the second payment goes back by itself.
            c.HoldingId = held.Id;
            c.RefusedBecause = $"You already hold {Now.PlanName(price.PlanId)}.";
        }
        else c.RefusedBecause = await RefusedTo(c, price, m, order, at, ct);
        if (c.RefusedBecause is not null)
        {
            if (came is { IsMoney: true, Card: { } session } && order.Due is { } due) GiveBack(m, due, came.Taken, session, c, at);
            await door.Leave([m], at, ct);
            return;
        }
        if (c.Voucher is not null) await SellVoucher(c, m, price, order.Parts[0], came, taken[0], at, ct);
        else
            for (var i = 0; i < order.Parts.Count; i++)
            {
                var part = order.Parts[i];
                if (part.IsExtra && m.Held(part.Plan, at) is not null)
                {
                    // They turned out to have it: what it cost goes back, and the rest goes on.
                    if (part.Due is { Amount: { IsZero: false } back } && came?.Card is { } paid) GiveBack(m, back, taken[i], paid, c, at);
                    continue;
                }
                var holding = await Begin(c, m, part, at, ct);
                Pay(c, m, holding, part.Agreement, came, taken[i], at);
            }
        await door.Leave([m], at, ct);
    }

    /// <summary>Why an order isn't for the person it turned out to be of; null where it is. Before, the address could be anybody's.</summary>
    public async Task<string?> RefusedTo(Checkout c, Price price, Membership m, Order order, Instant at, CancellationToken ct)
    {
        var plan = Now.PlanById[price.PlanId];
        // The trial is for those who never held it, however many checkouts were begun before the account was there.
        return c.Voucher is null && order.Parts[0].Agreement.Applied.TrialOrNull is not null && m.Holdings.Any(h => h.PlanId == plan.Id)
            ? $"You had {plan.Name} on trial before; a trial is had once. You can join without it."
            : price.Buyers is BuyerRule.Newcomers && !Buyer.Of(m.Member, m.Holdings).May(price, Now.Calendar, at) ? BeginJoin.NotForThem
            : await coupons.RefusedTo(c, price, m, at, ct);
    }

    /// <summary>Money that came for something they have or can't have goes back by itself.</summary>
    public void GiveBack(Membership m, Money asked, Money? taken, SessionResult result, Checkout c, Instant at)
    {
        var holding = c.HoldingId is { } id ? m.Find(id) : null;
        // What was given has no price of its own; what was asked for in this order has.
        if ((c.PriceId ?? holding?.PriceId) is not { } price) throw new InvalidOperationException($"The checkout {c.Id} is of no price.");
        books.PaidAgain(m, holding, price, asked, taken, result, at, c.Id);
    }

    /// <summary>Something of an order begins; what it takes the place of gives way.</summary>
    public async Task<Holding> Begin(Checkout c, Membership m, OrderPart part, Instant at, CancellationToken ct)
    {
        var plan = Now.PlanById[part.Plan];
        var price = Now.PriceById[part.Price];
        foreach (var other in m.Holdings) Replace(m, other, plan, part.Agreement, at);
        var returning = m.Holdings.Count > 0 && !part.IsExtra;
        var holding = new Holding
        {
            Id = ids.Next<HoldingId>(),
            MemberId = m.Member.Id,
            PlanId = plan.Id,
            PriceId = price.Id,
            Source = HoldingSource.Bought,
            StartsAt = at,
            Agreement = part.Agreement,
            PromiseNumber = plan.PromiseNumber,
            Seats = price.Terms.Seats,
            Way = c.Way,
        };
        db.Add(holding);
        m.Holdings.Add(holding);
        if (!part.IsExtra)
        {
            c.HoldingId = holding.Id;
            await coupons.Used(c, m.Member.Id, holding.Id, at, ct);
        }
        tell.Of(m.Member, new Event.Joined(holding.Id, plan.Id, price.Id, returning), at);
        return holding;
    }

    /// <summary>What is charged with an order is paid: the first charge, or nothing where it is free.</summary>
    public void Pay(Checkout c, Membership m, Holding holding, Agreement agreement, CameIn? came, Money? taken, Instant at)
    {
        if (agreement.First is { } first && (first.Amount.IsZero || came is { IsMoney: true }))
            books.Paid(m, holding, new(first, 1, Asking.KeyFor(holding.Id, first.Purpose, first.Turn, 1), came?.Label ?? "")
            {
                Way = c.Way,
                Order = c.Id,
            }, new(ChargeOutcome.Approved, came?.Ref ?? "", null, taken), at);
        else if (agreement.IsFree)
            db.HoldingFacts.Add(holding.Given(at, agreement.AccessEnds));
        else
            throw new InvalidOperationException($"The checkout {c.Id} was completed without the payment it asks for.");
    }

    /// <summary>The money of an order came whose things are open already: each is paid with what it asked for.</summary>
    async Task PayWhatIsOpen(Checkout c, Membership m, CameIn came, Instant at, CancellationToken ct)
    {
        var asked = AskedFor(c, m).ToArray();
        var taken = new Order([.. asked.Select(h => new OrderPart(h.PlanId, h.PriceId!.Value, h.Agreement, h.Id != c.HoldingId))]).Split(came.Taken);
        for (var i = 0; i < asked.Length; i++)
        {
            var (holding, charge) = (asked[i], asked[i].Agreement.First!);
            if (!WaitsFor(holding, at))
            {
                // Paid otherwise meanwhile: what this part cost goes back, and the rest goes on.
                if (came.Card is { } session) GiveBack(m, charge.Amount, taken[i], session, c, at);
                continue;
            }
            var attempt = await db.NextAttempt(holding.Id, charge, ct);
            if (came.Card is not null) holding.Way = PayWay.Card;
            books.Paid(m, holding, new(charge, attempt, Asking.KeyFor(holding.Id, charge.Purpose, charge.Turn, attempt), came.Label)
            {
                Way = came.Way,
                Order = c.Id,
            }, new(ChargeOutcome.Approved, came.Ref, null, taken[i]), at);
        }
    }

    /// <summary>Every thing of a placed order still waits for what it asked for.</summary>
    internal static bool AllWait(Checkout c, Membership m, Instant at) => AskedFor(c, m).All(h => WaitsFor(h, at));

    static IEnumerable<Holding> AskedFor(Checkout c, Membership m) => OfOrder(c, m).Where(h => h.Agreement.First is { Amount.IsZero: false });

    static bool WaitsFor(Holding holding, Instant at) =>
        Obligations.Of(holding, at) is { IsOverdue: true, Next: { } next } && next == holding.Agreement.First;

    /// <summary>What began with a placed order.</summary>
    internal static IEnumerable<Holding> OfOrder(Checkout c, Membership m) =>
        m.Holdings.Where(h => IsOf(c, h));

    internal static bool IsOf(Checkout c, Holding h) => h.Id == c.HoldingId || h.StartsAt == c.PlacedAt && h.PriceId is { } p && c.Extras.Contains(p);

    /// <summary>A voucher: what was paid is written down, and a link for one use opens the plan.</summary>
    async Task SellVoucher(Checkout c, Membership m, Price price, OrderPart part, CameIn? came, Money? taken, Instant at, CancellationToken ct)
    {
        var wish = c.Voucher!;
        var key = new KeyLink
        {
            Id = ids.Next(),
            Code = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(10)),
            PlanId = part.Plan,
            PriceId = price.Id,
            OrderId = c.Id,
            Name = Bounded.To($"Voucher of {m.Member.Name}", 120),
            Most = 1,
            AllAtOnce = false,
            MadeAt = at,
            MadeBy = m.Member.Name,
        };
        db.Add(key);
        Payment? payment = null;
        if (part.Due is { Amount.IsZero: false } due)
            payment = books.PaidForOther(m, price, c.Coupon, new(due, 1, Payment.VoucherKey(c.Id), came!.Label) { Way = c.Way, Order = c.Id },
                new(ChargeOutcome.Approved, came.Ref, null, taken), at);
        await coupons.Used(c, m.Member.Id, null, at, ct);
        tell.Of(m.Member, new Event.VoucherBought(payment?.Id, part.Plan, part.Due?.Amount ?? Money.Zero(Now.Currency), came?.Label ?? "", key.Id,
            wish.Name), at);
        if (wish.Email is not null)
        {
            var on = wish.On is { } day && Now.Calendar.At(day + new LocalTime(8, 0)) is var morning && morning > at ? morning : at;
            db.PutDue(ids, DueKind.SendVoucher, key.Id, on, $"voucher-{key.Id}");
        }
    }

    /// <summary>What another tier takes the place of.</summary>
    void Replace(Membership m, Holding other, Plan joined, Agreement agreement, Instant at)
    {
        switch (GivesWay.Of(other, Now.PlanById[other.PlanId], joined, agreement.Terms, at))
        {
            case GivesWay.Stays:
                break;
            case GivesWay.RunsOut runs:
                db.HoldingFacts.Add(other.Leaving(at, runs.At));
                tell.Of(m.Member, new Event.Left(other.Id, other.PlanId, runs.At, ChangedPlan: true), at);
                break;
            case GivesWay.EndsNow:
                books.End(m, other, EndReason.Replaced, at);
                break;
            default:
                throw new InvalidOperationException("No such way.");
        }
    }
}
