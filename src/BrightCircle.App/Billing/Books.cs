using BrightCircle.App.House;
using BrightCircle.App.Letters;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>A holding with the member it belongs to, all the member's holdings (itself among them), and what it is paid by.</summary>
public sealed record Subject(Member Member, Holding Holding, IReadOnlyList<Holding> All, Price Price)
{
    public PriceTerms.Recurring Recurring => Price.Terms as PriceTerms.Recurring
        ?? throw new InvalidOperationException($"Holding {Holding.Id.Value} doesn't recur.");
}

/// <summary>One charge of a holding: which turn of its periods, for which stretch of time.</summary>
public readonly record struct Turn(PaymentPurpose Purpose, int Number, int Attempt, Instant From, Instant? To, Money Amount)
{
    public string Key(HoldingId holding) => KeyFor(holding, Purpose, Number, Attempt);
    public static string KeyFor(HoldingId holding, PaymentPurpose purpose, int number, int attempt) =>
        $"{purpose.ToString().ToLowerInvariant()}-{holding.Value}-{number}-{attempt}";

    /// <summary>Turn k of a recurring holding: from boundary k to boundary k + 1 of its anchor.</summary>
    public static Turn Of(Holding holding, PriceTerms.Recurring terms, SiteCalendar calendar, int number, int attempt) =>
        new(PaymentPurpose.Recurring, number, attempt, calendar.Boundary(holding.Anchor, terms.Every, number), calendar.Boundary(holding.Anchor, terms.Every, number + 1), terms.Amount);
}

/// <summary>
/// Writes down what one event means: payment, ledger, facts, standing, journal, letters and what falls due next, all on one context and so in one transaction.
/// </summary>
public sealed class Books(BrightContext db, Ids ids, Catalogue catalogue)
{
    public FailedPaymentRule FailureRule { get; } = FailedPaymentRule.Default;

    SiteCalendar Calendar => catalogue.Now.Calendar;
    Letterbox Letterbox => new(db, ids, catalogue);

    public void Journal(MemberId member, Instant at, JournalKind kind, string text, TeamActor? by = null, PaymentId? payment = null, PieceId? piece = null) =>
        db.Journal.Add(new() { Id = ids.Next(), MemberId = member, At = at, Kind = kind, Text = text, By = by?.Name, PaymentId = payment, PieceId = piece });

    /// <summary>Derives the member's standing again and keeps the projection and its history in step with it.</summary>
    public void Restand(Member member, IReadOnlyList<Holding> all, Instant at)
    {
        foreach (var h in all) h.IsOver = h.StateAt(at) == HoldingState.Over;
        var fresh = db.Entry(member).State == Microsoft.EntityFrameworkCore.EntityState.Added && member.StandingSince == default;
        var before = member.Standing;
        var beforePlan = member.StandingPlanId;
        if (!member.Stand(Standings.At(all, catalogue.Now.Book.RankOf, at), at)) return;
        if (!fresh && before == member.Standing && beforePlan == member.StandingPlanId) return;
        db.StandingChanges.Add(new() { Id = ids.Next(), MemberId = member.Id, At = at, From = fresh ? null : before, To = member.Standing, PlanId = member.StandingPlanId });
    }

    public void Due(DueKind kind, long subject, Instant at, string key, int turn = 0, int attempt = 0, string? payload = null) =>
        db.DueWork.Add(new() { Id = ids.Next(), Kind = kind, SubjectId = subject, DueAt = at, ReadyAt = at, Key = key, Turn = turn, Attempt = attempt, Payload = payload });

    public void DueRenewal(HoldingId holding, Instant at, int turn, int attempt = 1) =>
        Due(DueKind.Renew, holding.Value, at, $"renew-{holding.Value}-{turn}-{attempt}", turn, attempt);

    /// <summary>An approved charge: money, facts, receipt, and the next renewal.</summary>
    public Payment Paid(Subject s, Turn turn, ChargeResult.Answered charge, string cardLabel, Instant at)
    {
        var payment = Record(s, turn, charge, cardLabel, at);
        Post(payment, Posting.Paid(payment.Amount), "Paid", at);
        db.HoldingFacts.Add(turn.Purpose == PaymentPurpose.Trial
            ? HoldingFact.Trial(ids.Next<HoldingFactId>(), s.Holding.Id, turn.From, turn.To!.Value, at, payment.Id)
            : HoldingFact.Paid(ids.Next<HoldingFactId>(), s.Holding.Id, turn.From, turn.To, at, payment.Id));
        var plan = catalogue.Now.PlanById[s.Holding.PlanId];
        Journal(s.Member.Id, at, JournalKind.Paid, $"paid {Show(payment.Amount)} for {plan.Name}", payment: payment.Id);
        Letterbox.Receipt(s.Member, plan, payment, s.Price);
        if (turn is { Purpose: PaymentPurpose.Recurring, To: { } next }) DueRenewal(s.Holding.Id, next, turn.Number + 1);
        Restand(s.Member, s.All, at);
        return payment;
    }

    /// <summary>Money that came in for something already paid: recorded under a turn of its own, giving no access, to be given back.</summary>
    public Payment PaidAgain(Subject s, Money amount, SessionResult result, Instant at)
    {
        var turn = new Turn(PaymentPurpose.Once, (int)(ids.Next() % int.MaxValue), 1, at, at, amount);
        var payment = Record(s, turn, new(ChargeOutcome.Approved, result.ChargeRef, null), result.CardLabel, at);
        Post(payment, Posting.Paid(amount), "Paid a second time", at);
        Journal(s.Member.Id, at, JournalKind.Paid, $"paid {Show(amount)} a second time; it goes back", payment: payment.Id);
        return payment;
    }

    /// <summary>A failed charge: it leaves its trace in payments and ledger, grace begins or goes on, and the rule says what follows.</summary>
    public Payment Failed(Subject s, Turn turn, ChargeResult.Answered charge, string cardLabel, Instant at)
    {
        var payment = Record(s, turn, charge, cardLabel, at);
        Post(payment, Posting.Failed(payment.Amount), "Failed and withdrawn", at);
        var plan = catalogue.Now.PlanById[s.Holding.PlanId];
        Journal(s.Member.Id, at, JournalKind.PaymentFailed, $"didn’t pay {Show(payment.Amount)} for {plan.Name}: {payment.Refusal}", payment: payment.Id);

        // The grace of this turn began with its first failure.
        var grace = s.Holding.Facts.Where(f => f.Kind == HoldingFactKind.Grace && f.From >= turn.From).MinBy(f => f.From);
        var firstFailure = grace?.From ?? at;
        if (grace is null)
        {
            var until = FailureRule.GraceUntil(firstFailure, Calendar);
            db.HoldingFacts.Add(HoldingFact.Grace(ids.Next<HoldingFactId>(), s.Holding.Id, firstFailure, until));
            Due(DueKind.LapseHolding, s.Holding.Id.Value, until + Duration.FromMinutes(1), $"lapse-{s.Holding.Id.Value}-{turn.Number}", turn.Number);
        }
        switch (FailureRule.Next(charge.Outcome, firstFailure, at, Calendar))
        {
            case FailureStep.RetryAt retry:
                DueRenewal(s.Holding.Id, retry.Moment, turn.Number, turn.Attempt + 1);
                Letterbox.PaymentFailed(s.Member, plan, payment, retry.Moment, FailureRule.GraceUntil(firstFailure, Calendar));
                Restand(s.Member, s.All, at);
                break;
            case FailureStep.AwaitCard await_:
                Letterbox.PaymentFailed(s.Member, plan, payment, null, await_.Until);
                Restand(s.Member, s.All, at);
                break;
            case FailureStep.Lapse:
                End(s.Member, s.Holding, s.All, EndReason.Lapsed, at);
                break;
        }
        return payment;
    }

    /// <summary>Ends a holding now: the fact, the standing, the journal and the letter; nothing of it stays due.</summary>
    public void End(Member member, Holding holding, IReadOnlyList<Holding> all, EndReason reason, Instant at, TeamActor? by = null)
    {
        if (holding.Facts.Any(f => f.Kind == HoldingFactKind.Ended)) return;
        db.HoldingFacts.Add(HoldingFact.Ended(ids.Next<HoldingFactId>(), holding.Id, at, reason));
        var plan = catalogue.Now.PlanById[holding.PlanId];
        Journal(member.Id, at, reason == EndReason.Lapsed ? JournalKind.Lapsed : JournalKind.Ended,
            reason == EndReason.Lapsed ? $"lapsed from {plan.Name}: the last retry failed" : $"{plan.Name} ended: {Why.EndWords(reason)}", by);
        Restand(member, all, at);
        if (reason is EndReason.Lapsed or EndReason.Left or EndReason.RanOut) Letterbox.Lapsed(member, plan, holding, reason);
    }

    public void GivenBack(Payment payment, Money amount, bool chargeback, string reason, string key, Instant at)
    {
        payment.GiveBack(amount, chargeback);
        db.Refunds.Add(new() { Id = ids.Next(), PaymentId = payment.Id, Amount = amount, At = at, IsChargeback = chargeback, Reason = reason, Key = key });
        Post(payment, Posting.GivenBack(amount), chargeback ? "Charged back" : "Refunded", at);
    }

    Payment Record(Subject s, Turn turn, ChargeResult.Answered charge, string cardLabel, Instant at)
    {
        var payment = new Payment
        {
            Id = ids.Next<PaymentId>(),
            MemberId = s.Member.Id,
            HoldingId = s.Holding.Id,
            PriceId = s.Price.Id,
            Amount = turn.Amount,
            Purpose = turn.Purpose,
            Outcome = charge.Outcome,
            At = at,
            PeriodFrom = turn.From,
            PeriodTo = turn.To,
            Turn = turn.Number,
            Attempt = turn.Attempt,
            Key = turn.Key(s.Holding.Id),
            ChargeRef = charge.Ref,
            CardLabel = cardLabel,
            Refusal = charge.Refusal,
        };
        db.Payments.Add(payment);
        return payment;
    }

    void Post(Payment payment, Posting posting, string text, Instant at)
    {
        var id = ids.Next();
        foreach (var line in posting.Lines)
            db.Ledger.Add(new() { Id = ids.Next(), PostingId = id, PaymentId = payment.Id, MemberId = payment.MemberId, Account = line.Account, Amount = line.Amount, At = at, Text = text });
    }

    string Show(Money money) => money.Format(catalogue.Now.Culture);
}
