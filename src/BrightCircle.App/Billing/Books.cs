using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>One asking for a charge, as it is to be written down.</summary>
public readonly record struct Asking(Charge Charge, int Attempt, string Key, string CardLabel)
{
    /// <summary>How the money comes in.</summary>
    public PayWay Way { get; init; }
    /// <summary>The order it belongs to; null for what is charged later.</summary>
    public long? Order { get; init; }

    public Asking(ChargeAsk ask) : this(ask.Charge, ask.Attempt, ask.Key, ask.CardLabel) { }

    /// <summary>The idempotency key of a charge: its holding, purpose, turn and how often it was asked.</summary>
    public static string KeyFor(HoldingId holding, PaymentPurpose purpose, int turn, int attempt) =>
        $"{purpose.ToString().ToLowerInvariant()}-{holding.Value}-{turn}-{attempt}";
}

/// <summary>
/// Writes down what money did: payment, ledger, facts and the event, all on one context and so in one transaction. Standing and what falls due next are
/// put right by the door (<see cref="Memberships"/>) on the way out.
/// </summary>
public sealed class Books(BrightContext db, Ids ids, Catalogue catalogue, Tell tell)
{
    /// <summary>On which days a payment that failed is asked for again: a setting of the site.</summary>
    public FailedPaymentRule FailureRule => catalogue.Now.FailedPayments;

    SiteCalendar Calendar => catalogue.Now.Calendar;

    /// <summary>An approved charge: money, receipt, and the stretch it opens. Where credit or a coupon leave nothing to pay, only the stretch.</summary>
    public void Paid(Membership m, Holding holding, Asking asking, ChargeResult.Answered charge, Instant at)
    {
        var c = asking.Charge;
        var failed = holding.StateAt(at) is HoldingState.Grace or HoldingState.Closed;
        var payment = c.Amount.IsZero ? null : Record(m.Member.Id, holding, asking, charge, at);
        var used = c.CreditUsed;
        Money? credit = used.IsZero ? null : used;
        if (credit is not null) Post(m.Member.Id, payment?.Id, Posting.CreditUsed(used), "Paid with credit", at);
        db.HoldingFacts.Add(c.Purpose == PaymentPurpose.Trial ? holding.Trial(c.DueAt, c.PaidThrough!.Value, at, payment?.Id, credit)
            : holding.Paid(c.DueAt, c.PaidThrough, at, payment?.Id, credit));
        var owes = Obligations.Of(holding, at);
        if (payment is not null)
            tell.Of(m.Member, new Event.Paid(payment.Id, holding.Id, holding.PlanId, payment.Amount, payment.CardLabel, c.DueAt, c.PaidThrough,
                owes.Next?.Amount, owes.Next?.DueAt, payment.Way, failed), at);
        // A free trial is told of by joining.
        else if (c.Purpose != PaymentPurpose.Trial)
            tell.Of(m.Member, new Event.Covered(holding.Id, holding.PlanId, used, owes.Balance ?? Money.Zero(used.Currency), c.DueAt, c.PaidThrough), at);
    }

    /// <summary>A change takes place, or is planned: the old holding gives way, the new one takes its credit along.</summary>
    /// <returns>The new holding, without what its first charge pays for.</returns>
    /// <param name="move">The act by which everybody is moved; null for a change of their own.</param>
    public Holding Change(Membership m, Holding old, PlanChange change, Price to, HoldingId number, Instant at, long? move = null)
    {
        var made = new Holding
        {
            Id = number,
            MemberId = m.Member.Id,
            PlanId = to.PlanId,
            PriceId = to.Id,
            Source = HoldingSource.Bought,
            StartsAt = change.At,
            Agreement = change.Agreement,
            // Of the same plan it lives by what was promised, until it is moved on purpose.
            PromiseNumber = to.PlanId == old.PlanId ? old.LivesBy : catalogue.Now.PlanById[to.PlanId].PromiseNumber,
            Continues = to.PlanId == old.PlanId ? old.Id : null,
            Through = move,
            Seats = to.Terms.Seats,
            Way = old.Way,
        };
        db.Add(made);
        m.Holdings.Add(made);
        foreach (var fact in change.Carry(old, made, at)) db.HoldingFacts.Add(fact);
        if (!change.UnusedWorth.IsZero) Post(m.Member.Id, null, Posting.Credited(change.UnusedWorth), "Credited for unused days", at);
        tell.Of(m.Member, new Event.Changed(old.Id, old.PlanId, old.PriceId!.Value, made.Id, to.PlanId, to.Id, change.At, change.When == ChangeWhen.AtOnce,
            change.UnusedWorth, change.First.Amount, change.Left), at);
        return made;
    }

    /// <summary>Money that came in for something paid, over or not for them: recorded without giving access, to be given back.</summary>
    /// <param name="holding">What it was meant for; null where they don't hold it.</param>
    /// <param name="taken">What came in of it; null where that isn't known.</param>
    public Payment PaidAgain(Membership m, Holding? holding, PriceId price, Money asked, Money? taken, SessionResult result, Instant at, long order)
    {
        var again = new Charge(PaymentPurpose.Once, (int)(ids.Next() % int.MaxValue), at, at, asked);
        var asking = new Asking(again, 1, $"again-{order}-{again.Turn}", result.CardLabel) { Order = order };
        var payment = Record(m.Member.Id, holding?.Id, price, null, asking, result.Charged with { Taken = taken }, at);
        tell.Of(m.Member, new Event.PaidTwice(payment.Id, holding?.Id, catalogue.Now.PriceById[price].PlanId, payment.Amount), at);
        db.PutDue(ids, DueKind.Refund, payment.Id.Value, at, $"refund-{payment.Id.Value}-1",
            RefundOrder.Write(new(payment.Amount.Minor, false, "Paid twice", null)));
        return payment;
    }

    /// <summary>A failed charge: it leaves its trace in payments and ledger, grace begins or goes on, and the rule says what follows.</summary>
    /// <returns>When the same card is asked again; null where it isn't.</returns>
    public Instant? Failed(Membership m, Holding holding, Asking asking, ChargeResult.Answered charge, Instant at)
    {
        var payment = Record(m.Member.Id, holding, asking, charge, at);
        // The grace of this charge began with its first failure.
        var firstFailure = holding.GraceAt(at)?.From ?? at;
        var until = FailureRule.GraceUntil(firstFailure, Calendar);
        if (firstFailure == at && holding.GraceAt(at) is null) db.HoldingFacts.Add(holding.Grace(at, until));
        var retry = FailureRule.Next(charge.Outcome, firstFailure, at, Calendar) switch
        {
            FailureStep.RetryAt r => r.Moment,
            FailureStep.AwaitCard or FailureStep.Lapse => (Instant?)null,
            _ => throw new InvalidOperationException("No such step."),
        };
        var first = asking.Charge is { Purpose: PaymentPurpose.Recurring or PaymentPurpose.Instalment, Turn: 0 } && holding.Continues is null;
        tell.Of(m.Member, new Event.PaymentFailed(payment.Id, holding.Id, holding.PlanId, payment.Amount, payment.CardLabel, payment.Refusal ?? "", retry,
            until,
            charge.Outcome == ChargeOutcome.NeedsCardholder, first), at);
        if (first && asking.Attempt == 1)
            LookAt(PaymentConcern.FirstPaymentFailed, m.Member.Id, payment.Id,
                $"The first payment of {m.Member.Name} after the trial failed: {payment.Refusal}. A word from you may help.", $"first-{payment.Id.Value}", at);
        if (at >= until) GraceOver(m, holding, at);
        return retry;
    }

    /// <summary>Nothing was paid to the last retry: it lapses. Instalments are owed all the same: it is closed until they are paid.</summary>
    public void GraceOver(Membership m, Holding holding, Instant at)
    {
        if (!holding.Agreement.IsInstalments)
        {
            End(m, holding, EndReason.Lapsed, at);
            return;
        }
        var owed = Obligations.Of(holding, at).Next!;
        db.HoldingFacts.Add(holding.Closed(at));
        tell.Of(m.Member, new Event.Closed(holding.Id, holding.PlanId, owed.Amount), at);
    }

    /// <summary>A period that was slept over: open, unpaid, and owed until it is waived.</summary>
    public void Missed(Membership m, Holding holding, Charge charge, Instant at)
    {
        db.HoldingFacts.Add(holding.Missed(charge.DueAt, charge.PaidThrough!.Value, at));
        tell.Of(m.Member, new Event.PeriodMissed(holding.Id, holding.PlanId, charge.Amount, charge.DueAt, charge.PaidThrough.Value), at);
    }

    /// <summary>Ends a holding now: the fact and the event.</summary>
    public void End(Membership m, Holding holding, EndReason reason, Instant at, TeamActor? by = null)
    {
        if (holding.Ending is not null) return;
        db.HoldingFacts.Add(holding.Ended(at, reason));
        tell.Of(m.Member, new Event.Ended(holding.Id, holding.PlanId, reason), at, by);
    }

    /// <summary>What was paid becomes the member's credit, which the next charges of the holding use first.</summary>
    public void ToCredit(Membership m, Holding holding, Payment payment, Money amount, string reason, Instant at, TeamActor by)
    {
        payment.ToCredit(amount);
        db.HoldingFacts.Add(holding.Credit(at, amount));
        Post(payment.MemberId, payment.Id, Posting.Credited(amount), "Put to their credit", at);
        tell.Of(m.Member, new Event.Credited(payment.Id, holding.Id, holding.PlanId, amount, payment.At, reason), at, by);
    }

    /// <summary>What was paid for a voucher: somebody else will hold the plan.</summary>
    public Payment PaidForOther(Membership m, Price price, AppliedCoupon? coupon, Asking asking, ChargeResult.Answered charge, Instant at) =>
        Record(m.Member.Id, null, price.Id, coupon?.Coupon, asking, charge, at);

    public void GivenBack(Payment payment, Money amount, bool chargeback, string reason, string key, Instant at)
    {
        payment.GiveBack(amount, chargeback);
        db.Refunds.Add(new() { Id = ids.Next(), PaymentId = payment.Id, Amount = amount, At = at, IsChargeback = chargeback, Reason = reason, Key = key });
        Post(payment.MemberId, payment.Id, Posting.GivenBack(amount, payment.Way), chargeback ? "Charged back" : "Refunded", at);
    }

    /// <summary>Money that a bank had taken back is there again.</summary>
    public void Restored(Dispute dispute, Instant at) => Post(dispute.MemberId, dispute.PaymentId, Posting.Restored(dispute.Amount), "Dispute won", at);

    /// <summary>Puts a payment on Today, for somebody of the team to look at.</summary>
    public void LookAt(PaymentConcern concern, MemberId? member, PaymentId? payment, string text, string key, Instant at) =>
        db.PaymentsToLookAt.Add(new()
        {
            Id = ids.Next(),
            Concern = concern,
            MemberId = member,
            PaymentId = payment,
            At = at,
            Text = Bounded.To(text, 600),
            Key = key
        });

    Payment Record(MemberId member, Holding holding, Asking asking, ChargeResult.Answered charge, Instant at) =>
        Record(member, holding.Id, holding.PriceId!.Value, holding.Agreement.Coupon?.Coupon, asking, charge, at);

    Payment Record(MemberId member, HoldingId? holding, PriceId price, long? coupon, Asking asking, ChargeResult.Answered charge, Instant at)
    {
        var approved = charge.Outcome == ChargeOutcome.Approved;
        var payment = new Payment
        {
            Id = ids.Next<PaymentId>(),
            MemberId = member,
            HoldingId = holding,
            PriceId = price,
            OrderId = asking.Order,
            Way = asking.Way,
            Amount = asking.Charge.Amount,
            Lines = asking.Charge.Lines,
            CouponId = asking.Charge.Of(ChargeLineKind.Coupon).IsZero ? null : coupon,
            Purpose = asking.Charge.Purpose,
            Outcome = charge.Outcome,
            At = at,
            PeriodFrom = asking.Charge.DueAt,
            PeriodTo = asking.Charge.PaidThrough,
            Turn = asking.Charge.Turn,
            Attempt = asking.Attempt,
            Key = asking.Key,
            ChargeRef = charge.Ref,
            CardLabel = Bounded.To(asking.CardLabel, 40),
            Refusal = charge.Refusal,
            TakenMinor = approved ? charge.Taken?.Minor : null,
            TakenCurrency = approved ? charge.Taken?.Currency.Code : null,
            ReceiptYear = approved ? Calendar.Date(at).Year : null,
        };
        db.Payments.Add(payment);
        if (!approved) Post(member, payment.Id, Posting.Failed(payment.Amount), "Failed and withdrawn", at);
        else if (payment.TakenDiffers)
        {
            var taken = charge.Taken!.Value;
            Post(member, payment.Id, Posting.Paid(payment.Amount, taken.Currency == payment.Amount.Currency ? taken : payment.Amount, payment.Way),
                "Paid, another amount than asked", at);
            var came = payment.Way == PayWay.Card ? $"the payment service says it took {Show(taken)}" : $"{Show(taken)} came in";
            LookAt(PaymentConcern.TakenDiffers, member, payment.Id, $"{Show(payment.Amount)} was asked for, and {came}.", $"taken-{payment.Id.Value}", at);
        }
        else Post(member, payment.Id, Posting.Paid(payment.Amount, payment.Way), "Paid", at);
        return payment;
    }

    void Post(MemberId member, PaymentId? payment, Posting posting, string text, Instant at)
    {
        var id = ids.Next();
        foreach (var line in posting.Lines)
            db.Ledger.Add(new()
            {
                Id = ids.Next(),
                PostingId = id,
                PaymentId = payment,
                MemberId = member,
                Account = line.Account,
                Amount = line.Amount,
                At = at,
                Text = text
            });
    }

    string Show(Money money) => money.Format(catalogue.Now.Culture);
}
