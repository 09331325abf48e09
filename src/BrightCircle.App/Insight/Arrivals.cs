using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Insight;

/// <summary>Somebody new, on their way.</summary>
/// <param name="Member">Null for somebody who is half-way.</param>
/// <param name="Order">For somebody who is half-way: the order.</param>
/// <param name="Letter">The last letter with a way in.</param>
/// <param name="Refusal">What was said when it was refused.</param>
/// <param name="Reminded">For somebody who is half-way: when they were written to.</param>
public sealed record Arrival(MemberId? Member, long? Order, string Name, PlanId? Plan, ArrivalFacts Facts, int Opened, long? Letter, string? Refusal,
    Instant? Reminded = null);

/// <summary>A paid order for which something is missing.</summary>
/// <param name="Holding">There is nothing they hold by it.</param>
/// <param name="Letter">No letter was written.</param>
/// <param name="Account">There is no account to sign in with.</param>
public sealed record BrokenOrder(long Order, string Name, bool Holding, bool Letter, bool Account);

/// <param name="Orders">So many orders were looked at.</param>
/// <param name="Median">From joining to the first thing opened; null where nobody has opened anything.</param>
/// <param name="HaveOpened">So many of those who joined have.</param>
public sealed record ArrivalsView(IReadOnlyList<Arrival> People, int Orders, IReadOnlyList<BrokenOrder> Broken, Duration? Median, int HaveOpened,
    Duration? MedianBefore,
    int HadOpened, int JoinedBefore);

/// <summary>Everybody new on their way: joined, letter taken, signed in, first thing opened, back again; and whoever is stuck. What is asked rests on the
/// new people
/// alone, however many there are in all.</summary>
public sealed class Arrivals(BrightContext db, Catalogue catalogue, OrderList orders)
{
    public const int Most = 500;

    /// <summary>Whoever joined since a moment, with what stuckness is decided by. $1: since when, $2: how many at most.</summary>
    internal const string People = """
        select m.id, m.name, m.standing_plan_id, m.joined_at, l.id, l.state, l.sent_at, l.last_error, greatest(s.at, o.last), o.first, o.n, g.at,
          (select h.plan_id from holdings h where h.member_id = m.id order by h.starts_at limit 1)
        from (select * from members where joined_at >= $1 order by joined_at desc limit $2) m
        left join lateral (select id, state, sent_at, last_error from letters l where l.member_id = m.id and l.kind in ('Welcome', 'SignIn', 'Confirm',
            'HasAccount')
          order by l.id desc limit 1) l on true
        left join last_seen s on s.member_id = m.id
        left join lateral (select min(o.first_at) as first, max(o.last_at) as last, count(*)::int as n from openings o where o.member_id = m.id) o on true
        left join lateral (select min(j.at) as at from journal j where j.member_id = m.id and j.kind = 'signed-in') g on true
        where exists (select 1 from holdings h where h.member_id = m.id and h.source <> 'MovedIn')
        order by m.joined_at desc
        """;

    internal static Arrival Read(NpgsqlDataReader r)
    {
        static T? At<T>(NpgsqlDataReader r, int i) where T : struct => r.IsDBNull(i) ? null : r.GetFieldValue<T>(i);
        var refused = !r.IsDBNull(5) && r.GetString(5) == nameof(LetterState.Refused);
        var plan = At<long>(r, 2) ?? At<long>(r, 12);
        return new(new(r.GetInt64(0)), null, r.GetString(1), plan is { } p ? new PlanId(p) : null,
            new(r.GetFieldValue<Instant>(3), HasLetter: !r.IsDBNull(4), LetterRefused: refused, LetterTakenAt: At<Instant>(r, 6),
                SignedInAt: At<Instant>(r, 11), OpenedAt: At<Instant>(r, 9),
                SeenAt: At<Instant>(r, 8)), r.GetInt32(10), At<long>(r, 4), refused && !r.IsDBNull(7) ? r.GetString(7) : null);
    }

    /// <summary>The paid orders since a moment ($1) for which something is missing; the first line counts them all.</summary>
    internal const string Orders = """
        with paid as (select c.id, c.name, c.holding_id, c.member_id,
            c.voucher is not null as voucher from checkouts c where c.purpose = 'Join' and c.state = 'Completed'
          and c.created_at >= $1 and c.refused_because is null)
        select 0::bigint, '', false, false, false, (select count(*)::int from paid)
        union all
        select * from (
          select p.id, p.name, not p.voucher and not exists (select 1 from holdings h where h.id = p.holding_id) as holding,
            not exists (select 1 from letters l where l.key = case when p.voucher then null else 'welcome-' || p.holding_id end) and not p.voucher as letter,
            not exists (select 1 from accounts a where a.id = p.member_id) as account, 0
          from paid p) x where holding or letter or account
        limit 50
        """;

    internal static BrokenOrder ReadOrder(NpgsqlDataReader r) => new(r.GetInt64(0), r.GetString(1), r.GetBoolean(2), r.GetBoolean(3), r.GetBoolean(4));

    public async Task<ArrivalsView> Load(Instant moment, CancellationToken ct)
    {
        var (from, before) = (moment - ArrivalFacts.New, moment - ArrivalFacts.New - ArrivalFacts.New);
        var trip = new OneTrip(db);
        var people = trip.Command(People, Rows(Read), from, Most);
        var total = 0;
        var broken = trip.Command(Orders, Rows(r =>
        {
            if (r.GetInt64(0) == 0) total = r.GetInt32(5);
            return ReadOrder(r);
        }), from);
        var halfWay = trip.List(orders.HalfWay.OrderByDescending(c => c.CreatedAt).Take(100));
        // A month ago, for comparison: whoever joined in the four weeks before these.
        var earlier = trip.Command("""
            select m.joined_at, (select min(o.first_at) from openings o where o.member_id = m.id and o.first_at < $2) from members m
            where m.joined_at >= $1 and m.joined_at < $2 and exists (select 1 from holdings h where h.member_id = m.id and h.source <> 'MovedIn')
            order by m.joined_at limit 500
            """, Rows(r => (Joined: r.GetFieldValue<Instant>(0), Opened: r.IsDBNull(1) ? (Instant?)null : r.GetFieldValue<Instant>(1))), before, from);
        await trip.Ask(ct);
        var all = halfWay.Value.Select(c => new Arrival(c.MemberId, c.Id, c.Name.Length > 0 ? c.Name : c.Email, PlanOf(c), new(c.CreatedAt, HalfWay: true),
            0, null, null, c.RemindedAt))
            .Concat(people.Value).ToArray();
        return new(all, total, [.. broken.Value.Where(b => b.Order != 0)],
            Median(people.Value.Where(p => p.Facts.OpenedAt is not null).Select(p => p.Facts.OpenedAt!.Value - p.Facts.At)),
            people.Value.Count(p => p.Facts.OpenedAt is not null),
            Median(earlier.Value.Where(e => e.Opened is not null).Select(e => e.Opened!.Value - e.Joined)), earlier.Value.Count(e => e.Opened is not null),
            earlier.Value.Count);
    }

    PlanId? PlanOf(Checkout c) => c.PriceId is { } p && catalogue.Now.PriceById.TryGetValue(p, out var price) ? price.PlanId : null;

    internal static Func<NpgsqlDataReader, CancellationToken, Task<List<T>>> Rows<T>(Func<NpgsqlDataReader, T> read) => async (r, ct) =>
    {
        var list = new List<T>();
        while (await r.ReadAsync(ct)) list.Add(read(r));
        return list;
    };

    /// <summary>The middle one; of an even number the mean of the two in the middle.</summary>
    public static Duration? Median(IEnumerable<Duration> of)
    {
        var sorted = of.Order().ToArray();
        return sorted.Length == 0 ? null : sorted.Length % 2 == 1 ? sorted[sorted.Length / 2] : (sorted[sorted.Length / 2 - 1] + sorted[sorted.Length / 2]) / 2;
    }
}
