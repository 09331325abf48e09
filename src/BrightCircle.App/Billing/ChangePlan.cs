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

/// <summary>A change as it is shown before it is made.</summary>
/// <param name="CardLabel">The card that is asked; null where none is kept.</param>
public sealed record ChangeLook(Holding Holding, Plan From, Plan To, Price Price, PlanChange Change, string? CardLabel);

/// <summary>
/// A member changes to another price or plan. At once: what isn't used is credited, and the card on file pays the rest; asked for like any charge, written
/// down before, so that a lost answer settles itself. At the end of the paid time: it is planned, and can be taken back until then.
/// </summary>
public sealed class ChangePlan(BrightContext db, Ids ids, Memberships door, Books books, ChargeNow charge, Tell tell, Catalogue catalogue, IClock clock)
{
    CatalogueSnapshot Now => catalogue.Now;

    /// <summary>The prices somebody could change to from what they hold, as they stand on the front.</summary>
    public IEnumerable<Price> WaysFrom(Holding holding, Buyer who, Instant at)
    {
        var plan = Now.PlanById[holding.PlanId];
        return Now.Plans.Where(p => p.IsTier).SelectMany(Now.PricesOnOffer).Where(p => Refuses(holding, plan, p, who, at) is null)
            .OrderBy(p => Now.PlanById[p.PlanId].Rank).ThenBy(p => p.Order);
    }

    string? Refuses(Holding holding, Plan plan, Price to, Buyer who, Instant at)
    {
        var target = Now.PlanById[to.PlanId];
        if (to.Within(target) == Availability.Closed) return "This price is no longer on offer.";
        if (!who.May(to, Now.Calendar, at)) return "This price isn’t for you.";
        if (who.Holdings.FirstOrDefault(h => h.Id != holding.Id && h.PlanId == to.PlanId && h.IsPaidFor && h.StateAt(at) != HoldingState.Over) is not null)
            return $"You hold {target.Name} already, or change to it soon.";
        if (!plan.IsTier && Now.Pieces.Any(p => Now.Book.GivesPartOf(plan.Id, p.Id, at) && !Now.Book.GivesPartOf(target.Id, p.Id, at)))
            return $"{target.Name} doesn’t open all that {plan.Name} does, so the two stand side by side.";
        return PlanChange.Refuses(holding, plan, target, to, at)?.Words();
    }

    public async Task<Result<ChangeLook>> Look(MemberId member, Buyer who, HoldingId id, PriceId to, ChangeWhen? when, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var running = who.Holdings.FirstOrDefault(h => h.Id == id)?.Running(at)?.PaymentId;
        var trip = new OneTrip(db);
        var paid = trip.First(db.Payments.AsNoTracking().Where(p => p.Id == running).OrderBy(p => p.Id));
        var card = trip.First(db.Cards.AsNoTracking().AskedOf(member));
        await trip.Ask(ct);
        var worked = Work(who, id, to, when, at, paid.Value);
        if (!worked.Ok) return Result.Refused(worked.Refusal!);
        var (holding, price, change) = worked.Value;
        return new ChangeLook(holding, Now.PlanById[holding.PlanId], Now.PlanById[price.PlanId], price, change, card.Value?.Label);
    }

    /// <param name="running">The payment for the running stretch; null where none is known.</param>
    Result<(Holding, Price, PlanChange)> Work(Buyer who, HoldingId id, PriceId to, ChangeWhen? when, Instant at, Payment? running)
    {
        if (who.Holdings.FirstOrDefault(h => h.Id == id) is not { } holding) return Result.Refused("This membership isn’t yours.");
        if (!Now.PriceById.TryGetValue(to, out var price)) return Result.Refused("This price is no longer on offer.");
        var plan = Now.PlanById[holding.PlanId];
        if (Refuses(holding, plan, price, who, at) is { } no) return Result.Refused(no);
        return (holding, price, PlanChange.Of(holding, plan, Now.PlanById[price.PlanId], price.Terms, when, at,
            running is { GoneFrom.IsZero: false } ? running.GoneFrom : null));
    }

    /// <param name="shown">What was shown to be charged, in minor units: what comes out differently isn't done.</param>
    public async Task<Result> Do(MemberId member, HoldingId id, PriceId to, ChangeWhen when, long shown, CancellationToken ct)
    {
        ChangeOrder? order = null;
        var done = await door.Change(member, async (m, at) =>
        {
            order = null;
            var worked = Work(Buyer.Of(m.Member, m.Holdings), id, to, when, at, m.Find(id) is { } it ? await db.PaymentOf(it, at, ct) : null);
            if (!worked.Ok) return Result.Refused(worked.Refusal!);
            var (holding, price, change) = worked.Value;
            if (change.First.Amount.Minor != shown) return Result.Refused("A day has passed since this was worked out. Please look at it again.");
            var number = ids.Next<HoldingId>();
            if (when == ChangeWhen.AtOnce && !change.First.Amount.IsZero)
            {
                order = new(number, to);
                return await charge.WriteDown(m, holding, change.First, order, at, ct);
            }
            var made = books.Change(m, holding, change, price, number, at);
            if (when == ChangeWhen.AtOnce) books.Paid(m, made, new(change.First, 1, "", ""), new(ChargeOutcome.Approved, "", null), at);
            return Result.Done;
        }, ct);
        if (!done.Ok || order is null) return done;
        if (await charge.Settle(member, ct) is { } unsettled) return Result.Refused(unsettled);
        return await db.Holdings.AnyAsync(h => h.Id == order.New, ct) ? Result.Done
            : Result.Refused("The card was refused, so nothing has changed. Put in another card, then change.");
    }

    /// <summary>Takes a planned change back: what is held goes on as if nothing had been said.</summary>
    public Task<Result> TakeBack(MemberId member, HoldingId planned, CancellationToken ct) => door.Change(member, (m, at) =>
    {
        if (m.Find(planned) is not { } @new || @new.IsGiven || @new.StateAt(at) != HoldingState.NotYet)
            return Task.FromResult(Result.Refused("There is no change to take back."));
        if (@new.Through is not null) return Task.FromResult(Result.Refused("The price changes for everybody who has it. You can change to "
            + "another, or leave."));
        var old = m.Holdings.LastOrDefault(h => h.Timeline.Leaving is { Reason: EndReason.Replaced, To: { } to } && to == @new.StartsAt && h.Ending is null);
        if (old is null) return Task.FromResult(Result.Refused("There is no change to take back."));
        db.HoldingFacts.Add(old.Staying(at));
        // Credit that had gone over comes back.
        if (@new.Timeline.Balance is { Minor: > 0 } credit)
        {
            db.HoldingFacts.Add(@new.Credit(at, -credit));
            db.HoldingFacts.Add(old.Credit(at, credit));
        }
        db.HoldingFacts.Add(@new.Ended(at, EndReason.TakenBack));
        tell.Of(m.Member, new Event.ChangeTakenBack(old.Id, old.PlanId, @new.PlanId), at);
        return Task.FromResult(Result.Done);
    }, ct);
}
