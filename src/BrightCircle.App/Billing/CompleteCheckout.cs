using BrightCircle.App.Catalogues;
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

/// <summary>
/// Finishes a checkout, once, whether the Till's callback or the returning browser comes first. The account, the holding, the payment, the letters and the
/// journal of one joining commit together.
/// </summary>
public sealed class CompleteCheckout(BrightContext db, Ids ids, Books books, Memberships door, Grants grants, Tell tell, UseCoupon coupons,
    IPaymentGateway gateway,
    Catalogue catalogue,
    IClock clock)
{
    CatalogueSnapshot Now => catalogue.Now;

    /// <summary>By the callback: finishes the checkout a session belongs to.</summary>
    /// <returns>False where it has to be told again later.</returns>
    public async Task<bool> ByCallback(SessionResult result, CancellationToken ct)
    {
        var id = await db.Checkouts.Where(c => c.Session == result.Session).Select(c => (long?)c.Id).FirstOrDefaultAsync(ct);
        return id is not { } checkout || (await Do(checkout, result, ct)).Ok;
    }

    /// <summary>By the returning browser, which asks the Till what came of it.</summary>
    /// <returns>The checkout as it is then; null where there is none.</returns>
    public async Task<Checkout?> ByReturn(long checkout, CancellationToken ct)
    {
        var c = await db.Checkouts.AsNoTracking().FirstOrDefaultAsync(x => x.Id == checkout, ct);
        if (c is null || c.State == CheckoutState.Completed || c.Session is null) return c;
        if (await gateway.Result(c.Session, ct) is { } result) await Do(checkout, result, ct);
        return await db.Checkouts.AsNoTracking().FirstAsync(x => x.Id == checkout, ct);
    }

    /// <summary>Where nothing needs paying.</summary>
    public Task<Result> Free(long checkout, CancellationToken ct) => Do(checkout, null, ct);

    /// <summary>Uses up the one signing-in that a checkout is good for: once, by the browser that began it, soon.</summary>
    public async Task<bool> UseBrowser(Checkout checkout, string? secret, CancellationToken ct)
    {
        if (!checkout.MadeAccount || !CheckoutSecret.Fits(checkout, secret, clock.GetCurrentInstant())) return false;
        return await db.Checkouts.Where(c => c.Id == checkout.Id && c.BrowserHash == checkout.BrowserHash)
            .ExecuteUpdateAsync(u => u.SetProperty(c => c.BrowserHash, (string?)null), ct) == 1;
    }

    async Task<Result> Do(long checkout, SessionResult? result, CancellationToken ct)
    {
        var whose = await db.Checkouts.AsNoTracking().Where(c => c.Id == checkout).Select(c => new { c.MemberId, c.Email }).FirstAsync(ct);
        var member = whose.MemberId ?? await MemberBehind(whose.Email, ct);
        return await door.Do(member is { } m ? [m] : [], async () =>
        {
            // Whoever comes second waits here, and then finds it completed.
            var c = await db.Checkouts.FromSql($"select * from checkouts where id = {checkout} for update").SingleAsync(ct);
            if (c.State == CheckoutState.Completed) return Result.Done;
            var at = clock.GetCurrentInstant();
            (c.State, c.CompletedAt) = (CheckoutState.Completed, at);
            switch (c.Purpose)
            {
                case CheckoutPurpose.Join: await Join(c, result, at, ct); break;
                case CheckoutPurpose.ChangeCard: await ChangeCard(c, result!, at, ct); break;
                case CheckoutPurpose.ConfirmPayment: await PayInGrace(c, result!, at, ct); break;
            }
            return Result.Done;
        }, ct);
    }

    async Task<MemberId?> MemberBehind(string email, CancellationToken ct)
    {
        var normal = EmailAddress.Normalise(email);
        return await db.Members.FromSql($"select m.* from members m join accounts a on a.id = m.id where a.normalized_email = {normal}")
            .Select(m => (MemberId?)m.Id).FirstOrDefaultAsync(ct);
    }

    async Task Join(Checkout c, SessionResult? result, Instant at, CancellationToken ct)
    {
        var price = Now.PriceById[c.PriceId!.Value];
        var plan = Now.PlanById[price.PlanId];
        var m = await FindOrAdd(c, plan.Id, at, ct);
        c.MemberId = m.Member.Id;
        if (result is not null) AddCard(m.Member.Id, result, at);
        var agreement = ReviewJoin.AgreementOf(c, price, at, Now);

        if (m.Held(plan.Id, at) is { } held)
        {
            // Two checkouts of one person were paid. The plan is held once; the second payment goes back by itself.
            c.HoldingId = held.Id;
            c.RefusedBecause = $"You already hold {plan.Name}.";
            if (result is { ChargeRef.Length: > 0 } && held.PriceId is not null) books.PaidAgain(m, held, agreement.First!.Amount, result, at);
            else if (result is { ChargeRef.Length: > 0 })
                books.LookAt(PaymentConcern.TakenDiffers, m.Member.Id, null,
                $"{m.Member.Name} paid for {plan.Name}, which they hold as a gift. The charge is {result.ChargeRef}; give it back at the payment service.",
                $"gift-{c.Id}", at);
            await door.Leave([m], at, ct);
            return;
        }
        // The trial is for those who never held it, however many checkouts were begun before the account was there.
        var refused = agreement.Applied.TrialOrNull is not null && m.Holdings.Any(h => h.PlanId == plan.Id)
            ? $"You had {plan.Name} on trial before; a trial is had once. You can join without it."
            : price.Buyers is BuyerRule.Newcomers && !price.Buyers.Allows(m.Holdings, at) ? BeginJoin.NotForThem
            : await coupons.RefusedTo(c, price, m, at, ct);
        if (refused is not null)
        {
            c.RefusedBecause = refused;
            if (result is { ChargeRef.Length: > 0 } && m.Holdings.LastOrDefault(h => h.PriceId is not null) is { } last)
                books.PaidAgain(m, last, agreement.First!.Amount, result, at);
            await door.Leave([m], at, ct);
            return;
        }

        foreach (var other in m.Holdings) Replace(m, other, plan, agreement, at);
        var returning = m.Holdings.Count > 0;
        var holding = new Holding
        {
            Id = ids.Next<HoldingId>(),
            MemberId = m.Member.Id,
            PlanId = plan.Id,
            PriceId = price.Id,
            Source = HoldingSource.Bought,
            StartsAt = at,
            Agreement = agreement,
            PromiseNumber = plan.PromiseNumber,
            Seats = price.Terms.Seats,
        };
        db.Add(holding);
        m.Holdings.Add(holding);
        c.HoldingId = holding.Id;
        await coupons.Used(c, holding, at, ct);
        tell.Of(m.Member, new Event.Joined(holding.Id, plan.Id, price.Id, returning), at);

        if (agreement.First is { } first && (first.Amount.IsZero || result is { ChargeRef.Length: > 0 }))
            books.Paid(m, holding, new(first, 1, Asking.KeyFor(holding.Id, first.Purpose, first.Turn, 1), result?.CardLabel ?? ""),
                result?.Charged ?? new(ChargeOutcome.Approved, "", null), at);
        else if (agreement.IsFree)
            db.HoldingFacts.Add(holding.Given(at, agreement.AccessEnds));
        else
            throw new InvalidOperationException($"The checkout {c.Id} was completed without the payment it asks for.");
        await door.Leave([m], at, ct);
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

    async Task<Membership> FindOrAdd(Checkout c, PlanId joins, Instant at, CancellationToken ct)
    {
        var id = c.MemberId ?? await MemberBehind(c.Email, ct);
        if (id is { } known) return (await door.Enter([known], ct))[known];
        var normal = EmailAddress.Normalise(c.Email);
        if (await db.Users.FirstOrDefaultAsync(a => a.NormalizedEmail == normal, ct) is { } ofTeam)
            return new(db.Add(new Member { Id = new(ofTeam.Id), Name = ofTeam.Name, Email = ofTeam.Email!, JoinedAt = at }).Entity, []);
        c.MadeAccount = true;
        return grants.Arrive(c.Name, c.Email, at, joins);
    }

    void AddCard(MemberId member, SessionResult result, Instant at) =>
        db.Cards.Add(new() { Id = ids.Next(), MemberId = member, Token = result.CardToken, Label = result.CardLabel, AddedAt = at });

    /// <summary>Another card was kept. Where a payment is open, it is asked for that at once.</summary>
    async Task ChangeCard(Checkout c, SessionResult result, Instant at, CancellationToken ct)
    {
        var m = (await door.Enter([c.MemberId!.Value], ct))[c.MemberId.Value];
        AddCard(m.Member.Id, result, at);
        tell.Of(m.Member, new Event.CardChanged(result.CardLabel), at);
        await door.Leave([m], at, ct);
        foreach (var holding in m.Holdings)
            if (Obligations.Of(holding, at) is { IsOverdue: true, Next: { } open }) door.AskNow(holding, at, open.Turn);
    }

    async Task PayInGrace(Checkout c, SessionResult result, Instant at, CancellationToken ct)
    {
        var m = (await door.Enter([c.MemberId!.Value], ct))[c.MemberId.Value];
        var holding = m.Find(c.HoldingId!.Value)!;
        AddCard(m.Member.Id, result, at);
        tell.Of(m.Member, new Event.CardChanged(result.CardLabel), at);
        if (Obligations.Of(holding, at) is { IsOverdue: true, Next: { } charge } && charge.Purpose == c.ChargePurpose && charge.Turn == c.Turn
            && charge.Amount == c.Asked)
        {
            // Paying in grace keeps the anchor: the charge is the one that was due.
            var attempt = (await db.Payments.Where(p => p.HoldingId == holding.Id && p.Purpose == charge.Purpose && p.Turn == charge.Turn)
                .MaxAsync(p => (int?)p.Attempt, ct) ?? 0) + 1;
            books.Paid(m, holding, new(charge, attempt, Asking.KeyFor(holding.Id, charge.Purpose, charge.Turn, attempt), result.CardLabel), result.Charged, at);
        }
        else
        {
            // A retry was quicker, or grace ran out while the card was typed in: this money goes back.
            books.PaidAgain(m, holding, c.Asked ?? result.Taken!.Value, result, at);
        }
        await door.Leave([m], at, ct);
    }
}
