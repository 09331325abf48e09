using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace BrightCircle.App.Billing;

/// <summary>
/// Charges what members owe: renewals, first payments after a trial, retries, and cards just put in. What is asked is written down first, in a transaction
/// of its own; then the stored card is asked; then the answer is recorded. Whatever is cut off between is settled by whoever comes next.
/// </summary>
public sealed class RenewDue(BrightContext db, IServiceScopeFactory scopes, RecordCharge record, IPaymentGateway gateway, Catalogue catalogue, Memberships door,
    Books books, WantPayment want) : IDueHandler
{
    const int AskAtOnce = 8;
    public DueKind Kind => DueKind.Renew;

    sealed record Plan(DueItem Item, Membership Membership, Holding Holding, Charge Charge, IReadOnlyList<Charge> Missed, int Attempt, Card? Card);

    public async Task Handle(IReadOnlyList<DueItem> all, Happenings happened, CancellationToken ct)
    {
        var subjects = all.Select(i => new HoldingId(i.Row.SubjectId)).ToArray();
        var byHand = (await db.Holdings.Where(h => subjects.Contains(h.Id) && h.Way != PayWay.Card).Select(h => h.Id.Value).ToListAsync(ct)).ToHashSet();
        if (byHand.Count > 0) await WithoutCard([.. all.Where(i => byHand.Contains(i.Row.SubjectId))], happened, ct);
        DueItem[] items = [.. all.Where(i => !byHand.Contains(i.Row.SubjectId))];
        if (items.Length == 0) return;
        var holdings = items.Select(i => new HoldingId(i.Row.SubjectId)).ToArray();
        var members = await db.Holdings.Where(h => holdings.Contains(h.Id)).Select(h => h.MemberId).Distinct().ToListAsync(ct);
        var memberships = await db.LoadMemberships(members, ct);
        var byHolding = memberships.Values.SelectMany(m => m.Holdings.Select(h => (Holding: h, Membership: m))).ToDictionary(x => x.Holding.Id);
        var owed = items.Select(i =>
        {
            var (holding, membership) = byHolding[new(i.Row.SubjectId)];
            var (ask, missed) = Obligations.Of(holding, i.Moment).AskAt(Obligations.AgreementAt(holding, i.Moment), i.Moment);
            return (Item: i, holding, membership, ask, missed);
        }).Where(x => x.ask is not null).ToArray();
        if (owed.Length == 0) return;

        var cards = await db.Cards.AsNoTracking().Where(c => members.Contains(c.MemberId)).Asked()
            .ToDictionaryAsync(c => c.MemberId, ct);
        var attempts = await Attempts(owed.Where(o => o.holding.GraceAt(o.Item.Moment) is not null).Select(o => o.holding.Id).ToArray(), ct);
        var plans = owed.Select(o => new Plan(o.Item, o.membership, o.holding, o.ask!, o.missed,
            attempts.GetValueOrDefault((o.holding.Id, o.ask!.Purpose, o.ask.Turn)) + 1, cards.GetValueOrDefault(o.membership.Member.Id))).ToArray();

        var asks = await WriteDown(plans, ct);
        var answers = new ChargeResult[plans.Length];
        await Parallel.ForAsync(0, plans.Length, new ParallelOptions { MaxDegreeOfParallelism = AskAtOnce, CancellationToken = ct }, async (i, stop) =>
        {
            if (asks[i] is not { } ask) return;
            answers[i] = await gateway.Ask(ask, stop);
        });

        var answered = new List<Answered>();
        for (var i = 0; i < plans.Length; i++)
            if (asks[i] is not { } ask) plans[i].Item.Postpone("Somebody changed this membership just then.");
            else if (answers[i] is ChargeResult.Unknown unknown)
            {
                plans[i].Item.Postpone(unknown.Why);
                happened.Add("unanswered");
            }
            else answered.Add(new(ask, answers[i], ask.DueAt == plans[i].Charge.DueAt ? plans[i].Missed : null, plans[i].Item.Moment));
        await record.Record(answered, items[0].Moment, happened, ct, memberships);
    }

    /// <summary>
    /// What falls due by transfer or by hand: nobody can be asked but the member. They have been, ahead; now it is open for a while, and then over.
    /// </summary>
    async Task WithoutCard(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var due = new List<(Membership, Holding, Charge, NodaTime.Instant)>();
        await EndThose.When(db, door, items, (m, holding, at) =>
        {
            var (ask, missed) = Obligations.Of(holding, at).AskAt(Obligations.AgreementAt(holding, at), at);
            if (ask is null || holding.GraceAt(at) is not null) return false;
            foreach (var slept in missed) books.Missed(m, holding, slept, at);
            // Where credit covers it there is nothing to ask for.
            if (ask.Amount.IsZero)
                books.Paid(m, holding, new(ask, 1, Asking.KeyFor(holding.Id, ask.Purpose, ask.Turn, 1), "") { Way = holding.Way },
                    new(ChargeOutcome.Approved, "",
                    null), at);
            else
            {
                db.HoldingFacts.Add(holding.Grace(at, catalogue.Now.Calendar.PlusDays(at, want.DaysOf(holding.Way))));
                due.Add((m, holding, ask, at));
            }
            return true;
        }, ct);
        foreach (var (m, holding, charge, at) in due)
        {
            await want.For(m, holding, charge, at, ct);
            happened.Add("asked for");
        }
    }

    async Task<Dictionary<(HoldingId, PaymentPurpose, int), int>> Attempts(HoldingId[] failing, CancellationToken ct) =>
        failing.Length == 0 ? [] : (await db.Payments.Where(p => p.HoldingId != null && failing.Contains(p.HoldingId.Value))
            .GroupBy(p => new { HoldingId = p.HoldingId!.Value, p.Purpose, p.Turn })
            .Select(g => new { g.Key, Last = g.Max(p => p.Attempt) }).ToListAsync(ct))
                .ToDictionary(a => (a.Key.HoldingId, a.Key.Purpose, a.Key.Turn), a => a.Last);

    /// <summary>
    /// Writes the asks down for good, under the members' lock: only for holdings that are as they were read. Where one was written before and never
    /// recorded, that one is asked again, with its own card and key.
    /// </summary>
    async Task<ChargeAsk?[]> WriteDown(Plan[] plans, CancellationToken ct)
    {
        await using var scope = scopes.CreateAsyncScope();
        var own = scope.ServiceProvider.GetRequiredService<BrightContext>();
        await using var transaction = await own.Database.BeginTransactionAsync(ct);
        var members = plans.Select(p => p.Membership.Member.Id.Value).Distinct().ToArray();
        await own.Database.ExecuteSqlAsync($"select 1 from members where id = any({members}) order by id for no key update", ct);
        var asked = plans.Select(p => p.Holding.Id).ToArray();
        var open = await own.ChargeAsks.AsNoTracking().Where(a => asked.Contains(a.HoldingId)).ToDictionaryAsync(a => a.HoldingId, ct);
        var ofMembers = plans.SelectMany(p => p.Membership.Holdings).Select(h => h.Id).Distinct().ToArray();
        var facts = await own.HoldingFacts.Where(f => ofMembers.Contains(f.HoldingId)).GroupBy(f => f.HoldingId)
            .Select(g => new { g.Key, Last = g.Max(f => f.Seq) }).ToDictionaryAsync(g => g.Key, g => g.Last, ct);
        var now = catalogue.Now;
        var asks = new ChargeAsk?[plans.Length];
        for (var i = 0; i < plans.Length; i++)
        {
            var p = plans[i];
            if (open.TryGetValue(p.Holding.Id, out var before)) asks[i] = before;
            else if (p.Membership.Holdings.All(h => facts.GetValueOrDefault(h.Id) == h.Facts.Max(f => (int?)f.Seq).GetValueOrDefault()))
                asks[i] = own.Add(new ChargeAsk
                {
                    Key = Asking.KeyFor(p.Holding.Id, p.Charge.Purpose, p.Charge.Turn, p.Attempt),
                    HoldingId = p.Holding.Id,
                    MemberId = p.Membership.Member.Id,
                    Purpose = p.Charge.Purpose,
                    Turn = p.Charge.Turn,
                    Attempt = p.Attempt,
                    DueAt = p.Charge.DueAt,
                    PaidThrough = p.Charge.PaidThrough,
                    Amount = p.Charge.Amount,
                    Lines = p.Charge.Lines,
                    CardToken = p.Card?.Token ?? "",
                    CardLabel = p.Card?.Label ?? "no card",
                    Text = Bounded.To($"{now.Site?.Name}: {now.PlanName(p.Holding.PlanId)}", 300),
                    At = p.Item.Moment,
                }).Entity;
        }
        await own.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return asks;
    }
}

/// <summary>Grace is over and nothing was paid: the holding lapses. Also where the card could only be waited for.</summary>
public sealed class LapseHolding(Books books, Memberships door, BrightContext db) : IDueHandler
{
    public DueKind Kind => DueKind.LapseHolding;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct) =>
        await EndThose.When(db, door, items, (m, holding, at) =>
        {
            if (holding.StateAt(at) != HoldingState.Grace) return false;
            books.GraceOver(m, holding, at);
            happened.Add("lapsed");
            return true;
        }, ct);
}

/// <summary>The paid time of somebody who left runs out, or a gift's time does.</summary>
public sealed class EndHolding(Books books, Memberships door, BrightContext db) : IDueHandler
{
    public DueKind Kind => DueKind.EndHolding;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct) =>
        await EndThose.When(db, door, items, (m, holding, at) =>
        {
            // Somebody who changed their mind stays; the row of the old decision finds nothing to do.
            if (holding.Ending is not null || holding.StateAt(at) != HoldingState.Over) return false;
            books.End(m, holding, holding.Timeline.Leaving?.Reason switch
            {
                null => Core.Events.EndReason.RanOut,
                Core.Events.EndReason.Replaced => Core.Events.EndReason.Replaced,
                Core.Events.EndReason.Left => Core.Events.EndReason.Left,
                var other => throw new InvalidOperationException($"Nobody leaves because of this: {other}"),
            }, at);
            happened.Add("ended");
            return true;
        }, ct);
}

/// <summary>A pause is over by its time.</summary>
public sealed class EndPause(BrightContext db, Memberships door, Events.Tell tell) : IDueHandler
{
    public DueKind Kind => DueKind.EndPause;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct) =>
        await EndThose.When(db, door, items, (m, holding, at) =>
        {
            if (holding.StateAt(at) is not (HoldingState.Active or HoldingState.Trial)) return false;
            tell.Of(m.Member, new Core.Events.Event.PauseOver(holding.Id, holding.PlanId, Early: false, holding.PaidThrough(at)!.Value), at);
            happened.Add("went on");
            return true;
        }, ct);
}

/// <summary>A charge that somebody asked for at their screen, and whose answer nobody wrote down since.</summary>
public sealed class SettleDue(SettleAsks settle) : IDueHandler
{
    public DueKind Kind => DueKind.Settle;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
            if (await settle.Of(new(item.Row.SubjectId), ct) is { } unsettled) item.Postpone(unsettled);
    }
}

/// <summary>What was given for a later day begins, or a change that was planned.</summary>
public sealed class BeginHolding(BrightContext db, Memberships door, Events.Tell tell) : IDueHandler
{
    public DueKind Kind => DueKind.BeginHolding;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct) =>
        await EndThose.When(db, door, items, (m, holding, at) =>
        {
            if (holding.StateAt(at) is HoldingState.NotYet or HoldingState.Over) return false;
            // A change was told of when it was decided, and its first payment tells the rest.
            if (!holding.IsGiven) return true;
            tell.Of(m.Member, new Core.Events.Event.Begun(holding.Id, holding.PlanId, holding.Source is HoldingSource.MovedIn or HoldingSource.Arrival), at);
            happened.Add("begun");
            return true;
        }, ct);
}

static class EndThose
{
    /// <summary>Goes through the holdings of due rows behind the door. Where a charge of the member is open, its money may have moved: that is settled
    /// first.</summary>
    public static async Task When(BrightContext db, Memberships door, IReadOnlyList<DueItem> items, Func<Membership, Holding, NodaTime.Instant, bool> end,
        CancellationToken ct)
    {
        var holdings = items.Select(i => new HoldingId(i.Row.SubjectId)).ToArray();
        var members = await db.Holdings.Where(h => holdings.Contains(h.Id)).Select(h => new { h.Id, h.MemberId })
            .ToDictionaryAsync(h => h.Id, h => h.MemberId, ct);
        await door.Lock([.. members.Values.Distinct()], ct);
        var asked = await db.ChargeAsks.Where(a => members.Values.Contains(a.MemberId)).Select(a => a.MemberId).ToListAsync(ct);
        foreach (var waiting in items.Where(i => asked.Contains(members[new(i.Row.SubjectId)]))) waiting.Postpone("A charge of this member is still open.");
        var free = items.Where(i => !asked.Contains(members[new(i.Row.SubjectId)])).ToArray();
        var memberships = await db.LoadMemberships([.. free.Select(i => members[new(i.Row.SubjectId)]).Distinct()], ct);
        foreach (var byMoment in free.GroupBy(i => i.Moment).OrderBy(g => g.Key))
        {
            var touched = new List<Membership>();
            foreach (var item in byMoment)
            {
                var m = memberships[members[new(item.Row.SubjectId)]];
                if (end(m, m.Find(new(item.Row.SubjectId))!, item.Moment)) touched.Add(m);
            }
            await door.Leave([.. touched.Distinct()], byMoment.Key, ct);
        }
    }
}
