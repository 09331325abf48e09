using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>A charge that was asked, and what came of it.</summary>
/// <param name="Missed">Periods slept over before it, oldest first.</param>
/// <param name="At">When it counts as answered; the moment of recording where null.</param>
public sealed record Answered(ChargeAsk Ask, ChargeResult Answer, IReadOnlyList<Core.Offer.Charge>? Missed = null, Instant? At = null);

/// <summary>
/// Writes down what came of charges: each ask is recorded by whoever takes it away, so once. Within a transaction.
/// </summary>
public sealed class RecordCharge(BrightContext db, Books books, Memberships door, Catalogue catalogue, Tell tell)
{
    /// <param name="loaded">Memberships as they were when the asks were written; as long as an ask is there nobody changed them.</param>
    public async Task Record(IReadOnlyList<Answered> answers, Instant at, Happenings happened, CancellationToken ct,
        Dictionary<MemberId, Membership>? loaded = null)
    {
        if (answers.Count == 0) return;
        MemberId[] members = [.. answers.Select(a => a.Ask.MemberId).Distinct()];
        await door.Lock(members, ct);
        var keys = answers.Select(a => a.Ask.Key).ToArray();
        var mine = (await db.Database.SqlQuery<string>($"""delete from charge_asks where key = any({keys}) returning key as "Value" """).ToListAsync(ct))
            .ToHashSet();
        // The same asking is never written down twice, even where its ask was written anew.
        mine.ExceptWith(await db.Payments.Where(p => keys.Contains(p.Key)).Select(p => p.Key).ToListAsync(ct));
        var memberships = loaded ?? await db.LoadMemberships(members, ct);
        var retries = new Dictionary<HoldingId, Instant?>();
        var touched = new List<Membership>();
        foreach (var answered in answers.Where(a => mine.Contains(a.Ask.Key)))
        {
            var membership = memberships[answered.Ask.MemberId];
            var holding = membership.Find(answered.Ask.HoldingId)!;
            var moment = answered.At ?? at;
            foreach (var missed in answered.Missed ?? []) books.Missed(membership, holding, missed, moment);
            touched.Add(membership);
            if (answered.Ask.Change is { } order)
            {
                await Change(membership, holding, answered.Ask, order, answered.Answer, moment, happened, ct);
                continue;
            }
            switch (answered.Answer)
            {
                case ChargeResult.Answered { Outcome: ChargeOutcome.Approved } charge:
                    books.Paid(membership, holding, new(answered.Ask), charge, moment);
                    happened.Add("charged");
                    break;
                case ChargeResult.Answered charge:
                    retries[holding.Id] = books.Failed(membership, holding, new(answered.Ask), charge, moment);
                    happened.Add("failed");
                    if (holding.StateAt(moment) is Core.Members.HoldingState.Over or Core.Members.HoldingState.Closed) happened.Add("lapsed");
                    break;
                case ChargeResult.NotTaken refused:
                    retries[holding.Id] = books.Failed(
                        membership, holding, new(answered.Ask), new(ChargeOutcome.DeclinedHard, "", "the payment service doesn’t take this card"), moment);
                    books.LookAt(PaymentConcern.ChargeRefused, membership.Member.Id, null,
                        $"The payment service refuses to charge {membership.Member.Name} at all: {refused.Why}. They have been asked for another card.",
                        $"refused-{answered.Ask.Key}", moment);
                    happened.Add("failed");
                    break;
                case ChargeResult.Unknown:
                    throw new InvalidOperationException("An unknown answer is not recorded.");
            }
        }
        foreach (var byMoment in answers.Where(a => mine.Contains(a.Ask.Key)).GroupBy(a => a.At ?? at))
        {
            var those = byMoment.Select(a => memberships[a.Ask.MemberId]).Distinct().ToArray();
            await door.Leave(those, byMoment.Key, ct, retries);
        }
    }

    /// <summary>A change whose first charge was asked for: it takes place where that was approved, worked out as it was shown; else nothing changes.</summary>
    async Task Change(Membership m, Core.Members.Holding old, ChargeAsk ask, ChangeOrder order, ChargeResult answer, Instant moment, Happenings happened,
        CancellationToken ct)
    {
        var now = catalogue.Now;
        var to = now.PriceById[order.To];
        if (answer is not ChargeResult.Answered { Outcome: ChargeOutcome.Approved } approved)
        {
            var why = answer switch
            {
                ChargeResult.Answered refused => refused.Refusal ?? "the card was refused",
                ChargeResult.NotTaken => "the payment service doesn’t take this card",
                _ => throw new InvalidOperationException("An unknown answer is not recorded."),
            };
            tell.Of(m.Member, new Event.ChangeRefused(old.Id, to.PlanId, ask.Amount, ask.CardLabel, why), moment);
            happened.Add("failed");
            return;
        }
        var change = PlanChange.Of(old, now.PlanById[old.PlanId], now.PlanById[to.PlanId], to.Terms, ChangeWhen.AtOnce, ask.At,
            await db.PaymentOf(old, ask.At, ct) is { GoneFrom.IsZero: false } paid ? paid.GoneFrom : null);
        var made = books.Change(m, old, change, to, order.New, ask.At);
        books.Paid(m, made, new(ask), approved, moment);
        happened.Add("charged");
    }
}
