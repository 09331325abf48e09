using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Insight;

/// <summary>What is counted together: a day, a plan, a price, a coupon.</summary>
public sealed record SalesLine(string Name, int Count, Money Received, Money Before);

/// <param name="Received">What was paid in the days, less nothing.</param>
/// <param name="Back">What went back in the days, of whatever was paid when.</param>
/// <param name="First">Payments of people who had never paid before them.</param>
public sealed record SalesView(LocalDate From, LocalDate To, Money Received, Money Back, int Count, int First, Money ReceivedBefore, Money BackBefore,
    int CountBefore, IReadOnlyList<(LocalDate Day, Money Received, Money Before)> Days, IReadOnlyList<SalesLine> ByPlan, IReadOnlyList<SalesLine> ByPrice,
    IReadOnlyList<SalesLine> ByCoupon, IReadOnlyList<SalesLine> ByWay);

/// <summary>What was sold in some days, by day, plan, price, coupon and way, with as many days before beside it. Counted by the database, in the site's
/// days.</summary>
public sealed class Sales(BrightContext db, Catalogue catalogue)
{
    public const int MostDays = 400;

    public async Task<SalesView> Of(LocalDate from, LocalDate to, CancellationToken ct)
    {
        var now = catalogue.Now;
        var length = NodaTime.Period.DaysBetween(from, to) + 1;
        var before = from.PlusDays(-length);
        var (start, end, zone) = (now.Calendar.At(before.AtMidnight()), now.Calendar.At(to.PlusDays(1).AtMidnight()), now.Calendar.Zone.Id);
        var trip = new OneTrip(db);
        var paid = trip.Command("""
            select (p.at at time zone $3)::date, p.price_id, coalesce(p.coupon_id, 0), count(*)::int, sum(p.amount_minor)::bigint,
              (count(*) filter (where not exists (select 1 from payments e where e.member_id = p.member_id and e.outcome = 'Approved' and e.id < p.id)))::int,
              p.way
            from payments p where p.outcome = 'Approved' and p.at >= $1 and p.at < $2 group by 1, 2, 3, p.way
            """, async (r, stop) =>
        {
            var list = new List<(LocalDate Day, long Price, long Coupon, int Count, long Sum, int First, Core.Offer.PayWay Way)>();
            while (await r.ReadAsync(stop))
                list.Add((r.GetFieldValue<LocalDate>(0), r.GetInt64(1), r.GetInt64(2), r.GetInt32(3), r.GetInt64(4), r.GetInt32(5),
                    Enum.Parse<Core.Offer.PayWay>(r.GetString(6))));
            return list;
        }, start, end, zone);
        var back = trip.Command("""
            select (r.at at time zone $3)::date >= $4, sum(r.amount_minor)::bigint from refunds r where r.at >= $1 and r.at < $2 group by 1
            """, async (r, stop) =>
        {
            var by = new Dictionary<bool, long>();
            while (await r.ReadAsync(stop)) by[r.GetBoolean(0)] = r.GetInt64(1);
            return by;
        }, start, end, zone, from);
        var coupons = trip.List(db.Coupons.AsNoTracking().Select(c => new { c.Id, c.Code }));
        await trip.Ask(ct);
        Money Of(long minor) => new(minor, now.Currency);
        var rows = paid.Value;
        var codes = coupons.Value.ToDictionary(c => c.Id, c => c.Code);
        IReadOnlyList<SalesLine> By(Func<(LocalDate Day, long Price, long Coupon, int Count, long Sum, int First, Core.Offer.PayWay Way), string?> name) =>
            [.. rows.Where(x => name(x) is not null).GroupBy(x => name(x)!).Select(g => new SalesLine(g.Key, g.Where(x => x.Day >= from).Sum(x => x.Count),
                Of(g.Where(x => x.Day >= from).Sum(x => x.Sum)), Of(g.Where(x => x.Day < from).Sum(x => x.Sum))))
                .OrderByDescending(l => l.Received.Minor).ThenBy(l => l.Name, StringComparer.Ordinal)];
        string Plan(long price) => now.PriceById.TryGetValue(new(price), out var p) ? now.PlanName(p.PlanId) : "gone";
        var perDay = rows.GroupBy(x => x.Day).ToDictionary(g => g.Key, g => g.Sum(x => x.Sum));
        var mine = rows.Where(x => x.Day >= from).ToArray();
        return new(from, to, Of(mine.Sum(x => x.Sum)), Of(back.Value.GetValueOrDefault(true)), mine.Sum(x => x.Count), mine.Sum(x => x.First),
            Of(rows.Where(x => x.Day < from).Sum(x => x.Sum)), Of(back.Value.GetValueOrDefault(false)), rows.Where(x => x.Day < from).Sum(x => x.Count),
            [.. Enumerable.Range(0, length).Select(i => (from.PlusDays(i), Of(perDay.GetValueOrDefault(from.PlusDays(i))),
                Of(perDay.GetValueOrDefault(before.PlusDays(i)))))],
            By(x => Plan(x.Price)), By(x => now.PriceById.TryGetValue(new(x.Price), out var p) ? $"{now.PlanName(p.PlanId)}: {p.Name}" : "gone"),
            By(x => codes.GetValueOrDefault(x.Coupon)), By(x => now.WayName(x.Way)));
    }
}
