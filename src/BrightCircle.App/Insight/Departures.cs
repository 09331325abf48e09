using System.Globalization;
using System.Text.Json;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Insight;

/// <summary>Somebody whose payment failed.</summary>
/// <param name="Next">When the card is asked again; null where another is needed.</param>
public sealed record InGrace(MemberId Member, string Name, PlanId Plan, string Said, Instant Since, Instant? Next, Instant? OpenUntil);

/// <summary>Somebody who leaves, or left.</summary>
/// <param name="Why">What they said of it.</param>
public sealed record Leaving(MemberId Member, string Name, PlanId? Plan, Instant At, Instant? Until, string? Why, EndReason? Ended);

/// <param name="Seen">When they were last here.</param>
public sealed record AtRisk(MemberId Member, string Name, PlanId? Plan, IReadOnlyList<RiskSign> Signs, Instant? Seen);

/// <summary>How many came and went in a month.</summary>
/// <param name="Tier">Null for all together: between tiers nobody comes or goes.</param>
/// <param name="Opening">How many it had when the month began; null until that is counted.</param>
public sealed record Movement(PlanId? Tier, int Joined, int Returned, int Left, int CameOver = 0, int WentOver = 0, int? Opening = null)
{
    public int Of(Move move) => move switch
    {
        Move.Joined => Joined,
        Move.Returned => Returned,
        Move.Left => Left,
        Move.CameOver => CameOver,
        Move.WentOver => WentOver,
    };
    public bool IsNone => Joined + Returned + Left + CameOver + WentOver == 0 && Opening is null or 0;
    /// <summary>How many it has now.</summary>
    public int? Closing => Opening + Joined + Returned + CameOver - WentOver - Left;
}

/// <param name="Counts">How many there are in each standing, also where a list is cut.</param>
/// <param name="Opening">Members in standing when the month began.</param>
/// <param name="Closing">Now.</param>
/// <param name="MustCount">Nobody has counted yet how the tiers stood when the month began.</param>
/// <param name="Reasons">What those who leave said, with how many did.</param>
public sealed record DeparturesView(IReadOnlyList<InGrace> Grace, IReadOnlyList<Leaving> Ending, IReadOnlyList<Leaving> Left, IReadOnlyList<AtRisk> Risk,
    IReadOnlyDictionary<Standing, int> Counts,
    int Opening, int Closing, Movement All, IReadOnlyList<Movement> ByTier, bool MustCount,
    IReadOnlyList<(string Why, int Count)> Reasons, IReadOnlyDictionary<MemberId,
        int> Tried);

/// <summary>Who is about to go, and who went: in grace, ending, lapsed, at risk; with what was said and what was tried.</summary>
public sealed class Departures(BrightContext db, Ids ids, Catalogue catalogue, Wake wake)
{
    /// <summary>So many stand in a list.</summary>
    public const int Most = 60;

    static readonly string Settled = MovedMembers.Those(Standings.IsSettled);

    /// <summary>Has it counted in the background how the tiers stood when the month began.</summary>
    public async Task Count(Instant moment, CancellationToken ct)
    {
        await CountMonth.Ask(db, ids, MovedMembers.MonthOf(moment, catalogue.Now.Calendar), moment, ct);
        wake.Up();
    }

    public async Task<DeparturesView> Load(Instant moment, CancellationToken ct)
    {
        var calendar = catalogue.Now.Calendar;
        var month = MovedMembers.MonthOf(moment, calendar);
        var began = calendar.At(month.AtMidnight());
        var (unseen, lately, quarter) = (calendar.PlusDays(moment, -Risk.Days), calendar.PlusDays(moment, -30), calendar.PlusDays(moment, -92));
        static PlanId? Plan(NpgsqlDataReader r, int i) => r.IsDBNull(i) ? null : new PlanId(r.GetInt64(i));
        static Instant? At(NpgsqlDataReader r, int i) => r.IsDBNull(i) ? null : r.GetFieldValue<Instant>(i);
        static Event? Read(NpgsqlDataReader r, int i) => r.IsDBNull(i) ? null : JsonSerializer.Deserialize<Event>(r.GetString(i), CoreJson.Options);
        var trip = new OneTrip(db);
        var grace = trip.Command("""
            select m.id, m.name, m.standing_plan_id, m.standing_since, j.event, d.ready_at, x.ready_at
            from (select * from members where standing = 'Grace' order by standing_since limit $1) m
            left join lateral (select j.event from journal j where j.member_id = m.id and j.kind = 'payment-failed' order by j.seq desc limit 1) j on true
            left join lateral (select min(d.ready_at) as ready_at from due_work d
              join holdings h on h.id = d.subject_id where h.member_id = m.id and d.kind = 'Renew'
              and d.attempt > 1) d on true
            left join lateral (select min(d.ready_at) as ready_at from due_work d
              join holdings h on h.id = d.subject_id where h.member_id = m.id and d.kind = 'LapseHolding') x
              on true
            order by x.ready_at nulls first
            """, Arrivals.Rows(r => new InGrace(new(r.GetInt64(0)), r.GetString(1), Plan(r, 2) ?? default,
                (Read(r, 4) as Event.PaymentFailed)?.Refusal ?? "", r.GetFieldValue<Instant>(3), At(r, 5), At(r, 6))), Most);
        var ending = trip.Command("""
            select m.id, m.name, m.standing_plan_id, j.at, j.event
            from (select * from members where standing = 'Ending' order by standing_since desc limit $1) m
            left join lateral (select j.at, j.event from journal j where j.member_id = m.id and j.kind = 'left' order by j.seq desc limit 1) j on true
            """, Arrivals.Rows(r => new Leaving(new(r.GetInt64(0)), r.GetString(1), Plan(r, 2), At(r, 3) ?? moment, (Read(r, 4) as Event.Left)?.OpenUntil,
                (Read(r, 4) as Event.Left)?.Why, null)), Most);
        var left = trip.Command("""
            select m.id, m.name, m.standing_plan_id, m.standing_since, e.event, j.event
            from (select * from members where standing = 'Lapsed' and standing_since >= $2 order by standing_since desc limit $1) m
            left join lateral (select j.event from journal j where j.member_id = m.id and j.kind = 'ended' order by j.seq desc limit 1) e on true
            left join lateral (select j.event from journal j where j.member_id = m.id and j.kind = 'left' order by j.seq desc limit 1) j on true
            order by m.standing_since desc
            """, Arrivals.Rows(r => new Leaving(new(r.GetInt64(0)), r.GetString(1), Plan(r, 2), r.GetFieldValue<Instant>(3), null,
                (Read(r, 5) as Event.Left)?.Why,
                (Read(r, 4) as Event.Ended)?.Reason)), Most, lately);
        // Those who crossed the line last come first: they are the easiest to win back.
        var notSeen = trip.Command($"""
            select m.id, m.name, m.standing_plan_id, s.at from last_seen s join members m on m.id = s.member_id
            where s.at < $2 and m.standing in ({Settled}) order by s.at desc limit $1
            """, Arrivals.Rows(r => (Row: Row(r), Sign: RiskSign.NotSeen)), Most, unseen);
        var offered = trip.Command($"""
            select m.id, m.name, m.standing_plan_id, s.at from (select distinct member_id from (select member_id, at from journal where kind = 'leave-offered'
              order by seq desc limit 200) j where j.at >= $2) j
            join members m on m.id = j.member_id left join last_seen s on s.member_id = m.id where m.standing in ({Settled}) order by m.name limit $1
            """, Arrivals.Rows(r => (Row: Row(r), Sign: RiskSign.LookedAtLeaving)), Most, lately);
        var refused = trip.Command($"""
            select m.id, m.name, m.standing_plan_id,
                s.at from (select member_id from letters where state = 'Refused' and set_aside_at is null and member_id is not null
              group by member_id having count(*) >= $2 limit 200) l
            join members m on m.id = l.member_id left join last_seen s on s.member_id = m.id where m.standing in ({Settled}) order by m.name limit $1
            """, Arrivals.Rows(r => (Row: Row(r), Sign: RiskSign.LettersRefused)), Most, Risk.RefusedLetters);
        var cards = trip.Command($"""
            select m.id, m.name, m.standing_plan_id, s.at from (select distinct member_id from (select member_id, at from journal where kind = 'card-runs-out'
              order by seq desc limit 200) j where j.at >= $2
              and not exists (select 1 from journal c where c.member_id = j.member_id and c.kind = 'card-changed' and c.at > j.at)) j
            join members m on m.id = j.member_id left join last_seen s on s.member_id = m.id where m.standing in ({Settled}) order by m.name limit $1
            """, Arrivals.Rows(r => (Row: Row(r), Sign: RiskSign.CardRunsOut)), Most, lately);
        var moved = trip.Command($"""
            select {string.Join(", ", Enum.GetValues<Move>().Select(m => MovedMembers.That(m)))}, c.plan_id, c.was_plan, count(*)::int
            from {MovedMembers.Changes} group by 1, 2, 3, 4, 5, 6, 7
            """, Arrivals.Rows(r => (Is: Enum.GetValues<Move>().Select((m, i) => r.GetBoolean(i)).ToArray(), To: Plan(r, 5), From: Plan(r, 6),
                Count: r.GetInt32(7))), began, moment);
        var beginning = trip.Command("select members from month_beginnings where month = $1",
            Arrivals.Rows(r => JsonSerializer.Deserialize<Dictionary<string, int>>(r.GetString(0), CoreJson.Options)!), month);
        var counted = trip.Command("select standing, members from standing_counts",
            Arrivals.Rows(r => (Standing: Enum.Parse<Standing>(r.GetString(0)), Members: r.GetInt32(1))));
        var reasons = trip.Command("""
            select event ->> 'why', count(*)::int from (select event, at from journal where kind = 'left' order by seq desc limit 2000) j
            where at >= $1 and event ->> 'why' is not null group by 1 order by 2 desc, 1 limit 12
            """, Arrivals.Rows(r => (r.GetString(0), r.GetInt32(1))), quarter);
        var tried = trip.Command("""
            select n.member_id, count(*)::int from team_notes n join members m on m.id = n.member_id
            where n.at >= $1 and m.standing in ('Grace', 'Ending', 'Lapsed') group by 1
            """, Arrivals.Rows(r => (Member: new MemberId(r.GetInt64(0)), Count: r.GetInt32(1))), quarter);
        await trip.Ask(ct);
        static (MemberId, string, PlanId?, Instant?) Row(NpgsqlDataReader r) => (new(r.GetInt64(0)), r.GetString(1), Plan(r, 2), At(r, 3));
        var risk = notSeen.Value.Concat(offered.Value).Concat(refused.Value).Concat(cards.Value).GroupBy(x => x.Row.Item1)
            .Select(g => new AtRisk(g.Key, g.First().Row.Item2, g.First().Row.Item3, [.. g.Select(x => x.Sign)], g.First().Row.Item4))
            .OrderByDescending(a => a.Signs.Count).ThenByDescending(a => a.Signs.Max()).ThenByDescending(a => a.Seen).ToArray();
        var opened = beginning.Value.FirstOrDefault();
        int Of(Move move, PlanId? tier) => moved.Value.Where(m => m.Is[(int)move] && (tier is null
            || (MovedMembers.LeadsAway(move) ? m.From : m.To) == tier)).Sum(m => m.Count);
        Movement Line(PlanId? tier) => new(tier, Of(Move.Joined, tier), Of(Move.Returned, tier), Of(Move.Left, tier),
            tier is null ? 0 : Of(Move.CameOver, tier), tier is null ? 0 : Of(Move.WentOver, tier),
            tier is { } t && opened is not null ? opened.GetValueOrDefault(t.Value.ToString(CultureInfo.InvariantCulture)) : null);
        var byTier = catalogue.Now.Plans.Where(p => p.IsTier).OrderBy(p => p.Rank).Select(p => Line(p.Id)).Where(m => !m.IsNone).ToArray();
        var all = Line(null);
        var counts = counted.Value.ToDictionary(c => c.Standing, c => c.Members);
        var closing = counts.Where(c => c.Key.IsMember()).Sum(c => c.Value);
        return new(grace.Value, ending.Value, left.Value, risk, counts, closing - all.Joined - all.Returned + all.Left, closing, all,
            byTier, opened is null, reasons.Value,
            tried.Value.ToDictionary(t => t.Member, t => t.Count));
    }

}
