using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>How what is held is paid.</summary>
public enum PaidHow { Recurring, Instalments, Once, Given }

/// <summary>Something that is held, with what it pays next.</summary>
public sealed record SubscriptionRow(Holding Holding, string Name, string? CardLabel, Obligations Owes);

/// <param name="Counts">How many of each kind there are, in the list's plan.</param>
public sealed record SubscriptionPage(IReadOnlyList<SubscriptionRow> Rows, IReadOnlyDictionary<PaidHow, int> Counts);

/// <summary>What runs just now: what is paid again and again, in instalments, once, or was given; the next payment first.</summary>
public sealed class SubscriptionList(BrightContext db, IClock clock)
{
    public const int PageSize = 50;

    public async Task<SubscriptionPage> Page(PaidHow how, PlanId? plan, int page, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var (offset, of, kind) = ((Math.Clamp(page, 1, 1_000_000) - 1) * PageSize, plan?.Value ?? 0, Kind(how));
        var shown = db.Holdings.FromSql($"""
            select * from holdings where id in (
              select h.id from holdings h
              left join lateral (select min(d.due_at) as due_at from due_work d where d.subject_id = h.id and d.kind = 'Renew') d on true
              where not h.is_over and ({of} = 0 or h.plan_id = {of})
                and case when h.source <> 'Bought' then 'given' else h.agreement -> 'terms' ->> '$type' end = {kind}
              order by d.due_at nulls last, h.id limit {PageSize} offset {offset})
            """);
        var trip = new OneTrip(db);
        var counts = trip.Command("""
            select case when source <> 'Bought' then 'given' else agreement -> 'terms' ->> '$type' end, count(*)::int
            from holdings where not is_over and ($1 = 0 or plan_id = $1) group by 1
            """, async (r, stop) =>
        {
            var by = new Dictionary<string, int>();
            while (await r.ReadAsync(stop)) by[r.GetString(0)] = r.GetInt32(1);
            return by;
        }, of);
        var holdings = trip.List(shown.AsNoTracking().Include(h => h.Facts.OrderBy(f => f.Seq)));
        var people = trip.List(db.Members.AsNoTracking().Where(m => shown.Select(h => h.MemberId).Contains(m.Id)).Select(m => new { m.Id, m.Name }));
        var cards = trip.List(db.Cards.AsNoTracking().Where(c => shown.Select(h => h.MemberId).Contains(c.MemberId)).Asked());
        await trip.Ask(ct);
        var names = people.Value.ToDictionary(p => p.Id, p => p.Name);
        var labels = cards.Value.ToDictionary(c => c.MemberId, c => c.Label);
        return new([.. holdings.Value.Select(h => new SubscriptionRow(h, names.GetValueOrDefault(h.MemberId, ""), labels.GetValueOrDefault(h.MemberId),
                Obligations.Of(h, at))).OrderBy(r => r.Owes.Next?.DueAt ?? Instant.MaxValue).ThenBy(r => r.Holding.Id.Value)],
            Enum.GetValues<PaidHow>().ToDictionary(h => h, h => counts.Value.GetValueOrDefault(Kind(h))));
    }

    static string Kind(PaidHow how) => how switch
    {
        PaidHow.Recurring => "recurring",
        PaidHow.Instalments => "instalments",
        PaidHow.Once => "once",
        PaidHow.Given => "given",
        _ => throw new ArgumentOutOfRangeException(nameof(how)),
    };
}
