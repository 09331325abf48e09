using BrightCircle.App.House;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>Loads the holdings a batch is about, with all that recording an event needs: a fixed number of queries, however many there are.</summary>
public static class Subjects
{
    public static async Task<Dictionary<HoldingId, Subject>> LoadSubjects(this BrightContext db, IReadOnlyCollection<HoldingId> holdings, CatalogueSnapshot catalogue, CancellationToken ct)
    {
        var members = await db.Members.Where(m => db.Holdings.Any(h => h.MemberId == m.Id && holdings.Contains(h.Id))).ToDictionaryAsync(m => m.Id, ct);
        var memberIds = members.Keys.ToArray();
        var all = (await db.Holdings.Where(h => memberIds.Contains(h.MemberId)).Include(h => h.Facts.OrderBy(f => f.Id)).ToListAsync(ct)).ToLookup(h => h.MemberId);
        return all.SelectMany(own => own.Where(h => holdings.Contains(h.Id))
                .Select(h => new Subject(members[own.Key], h, [.. own], h.PriceId is { } p ? catalogue.PriceById[p] : NoPrice)))
            .ToDictionary(s => s.Holding.Id);
    }

    /// <summary>Takes back what is still due for a holding; what it comes to is decided anew.</summary>
    public static Task<int> DropDue(this BrightContext db, HoldingId holding, CancellationToken ct) =>
        db.DueWork.Where(d => d.SubjectId == holding.Value && (d.Kind == DueKind.Renew || d.Kind == DueKind.LapseHolding)).ExecuteDeleteAsync(ct);

    static readonly Core.Offer.Price NoPrice = new() { Terms = new PriceTerms.Free(), Name = "gift" };
}

/// <summary>Renewals, first payments after a trial, and retries: asks the stored card and records what came of it.</summary>
public sealed class RenewDue(BrightContext db, Books books, IPaymentGateway gateway, Catalogue catalogue) : IDueHandler
{
    const int AskAtOnce = 8;
    public DueKind Kind => DueKind.Renew;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var now = catalogue.Now;
        var subjects = await db.LoadSubjects([.. items.Select(i => new HoldingId(i.Row.SubjectId))], now, ct);
        var memberIds = subjects.Values.Select(s => s.Member.Id).Distinct().ToArray();
        var cards = await db.Cards.Where(c => memberIds.Contains(c.MemberId)).GroupBy(c => c.MemberId).Select(g => g.OrderByDescending(c => c.AddedAt).ThenByDescending(c => c.Id).First())
            .ToDictionaryAsync(c => c.MemberId, ct);

        var asks = new List<(DueItem Item, Subject Subject, Turn Turn, Card? Card)>();
        foreach (var item in items)
        {
            var subject = subjects[new(item.Row.SubjectId)];
            var turn = Turn.Of(subject.Holding, subject.Recurring, now.Calendar, item.Row.Turn, item.Row.Attempt);
            if (StillDue(subject.Holding, turn, item.Moment)) asks.Add((item, subject, turn, cards.GetValueOrDefault(subject.Member.Id)));
        }

        var answers = new ChargeResult[asks.Count];
        await Parallel.ForAsync(0, asks.Count, new ParallelOptions { MaxDegreeOfParallelism = AskAtOnce, CancellationToken = ct }, async (i, stop) =>
        {
            var (item, subject, turn, card) = asks[i];
            answers[i] = card is null
                ? new ChargeResult.Answered(ChargeOutcome.DeclinedHard, "", "There is no card on file.")
                : await gateway.Charge(new(turn.Key(subject.Holding.Id), turn.Amount, card.Token, $"{now.Site?.Name}: {now.PlanName(subject.Holding.PlanId)}", item.Moment), stop);
        });

        for (var i = 0; i < asks.Count; i++)
        {
            var (item, subject, turn, card) = asks[i];
            switch (answers[i])
            {
                case ChargeResult.Answered { Outcome: ChargeOutcome.Approved } charge:
                    books.Paid(subject, turn, charge, card!.Label, item.Moment);
                    happened.Add("charged");
                    break;
                case ChargeResult.Answered charge:
                    books.Failed(subject, turn, charge, card?.Label ?? "no card", item.Moment);
                    happened.Add("failed");
                    if (subject.Holding.Ending?.Reason == EndReason.Lapsed) happened.Add("lapsed");
                    break;
                case ChargeResult.Unknown unknown:
                    item.Postpone(unknown.Why);
                    happened.Add("unanswered");
                    break;
            }
        }
    }

    static bool StillDue(Holding holding, Turn turn, Instant at) =>
        holding.Ending is null && holding.LeavingAt(at) is null && !holding.Facts.Any(f => f.Kind == HoldingFactKind.Paid && f.From == turn.From);
}

/// <summary>Grace is over and nothing was paid: the holding lapses. Also where the card could only be waited for.</summary>
public sealed class LapseHolding(BrightContext db, Books books, Catalogue catalogue) : IDueHandler
{
    public DueKind Kind => DueKind.LapseHolding;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var subjects = await db.LoadSubjects([.. items.Select(i => new HoldingId(i.Row.SubjectId))], catalogue.Now, ct);
        var subjectIds = items.Select(i => i.Row.SubjectId).ToArray();
        var asking = await db.DueWork.Where(d => d.Kind == DueKind.Renew && subjectIds.Contains(d.SubjectId)).Select(d => d.SubjectId).ToListAsync(ct);
        foreach (var item in items)
        {
            var s = subjects[new(item.Row.SubjectId)];
            if (s.Holding.StateAt(item.Moment) != HoldingState.Grace) continue;
            if (asking.Contains(item.Row.SubjectId))
            {
                // The last retry got no answer, so its money may have moved: that is settled first.
                item.Postpone("The last retry is still open.");
                continue;
            }
            books.End(s.Member, s.Holding, s.All, EndReason.Lapsed, item.Moment);
            happened.Add("lapsed");
        }
    }
}

/// <summary>The paid time of somebody who left runs out, or a gift's time does.</summary>
public sealed class EndHolding(BrightContext db, Books books, Catalogue catalogue) : IDueHandler
{
    public DueKind Kind => DueKind.EndHolding;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var subjects = await db.LoadSubjects([.. items.Select(i => new HoldingId(i.Row.SubjectId))], catalogue.Now, ct);
        foreach (var item in items)
        {
            var s = subjects[new(item.Row.SubjectId)];
            // Somebody who changed their mind stays; the row of the old decision finds nothing to do.
            if (s.Holding.Ending is not null || s.Holding.StateAt(item.Moment) != HoldingState.Over) continue;
            books.End(s.Member, s.Holding, s.All, s.Holding.LeavingAt(item.Moment) is null ? EndReason.RanOut : EndReason.Left, item.Moment);
            happened.Add("ended");
        }
    }
}
