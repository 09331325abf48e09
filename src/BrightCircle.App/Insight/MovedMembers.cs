using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Insight;

/// <summary>How somebody came or went.</summary>
public enum Move
{
    /// <summary>Became a member for the first time.</summary>
    Joined,
    /// <summary>Had lapsed, and is a member again.</summary>
    Returned,
    /// <summary>Is no member any more.</summary>
    Left,
    /// <summary>Stands by this tier now, and stood by another before.</summary>
    CameOver,
    /// <summary>Stood by this tier, and stands by another now.</summary>
    WentOver,
}

/// <param name="Standing">What they are now.</param>
/// <param name="Tier">The one the move is about: they came to it, or went from it.</param>
public sealed record MovedMember(MemberId Member, string Name, Standing Standing, PlanId? Tier, Instant At);

/// <summary>Who came and went this month: the people behind the figures over departures.</summary>
public sealed class MovedMembers(BrightContext db, Catalogue catalogue)
{
    public const int PageSize = 50;

    /// <summary>Some standings as the database lists them.</summary>
    internal static string Those(Func<Standing, bool> which) => string.Join(", ", Enum.GetValues<Standing>().Where(which).Select(s => $"'{s}'"));
    internal static readonly string Members = Those(Standings.IsMember);

    /// <summary>The changes of standing since $1 until $2, each beside what the same person was before, as c: whether they were a member and by which tier,
    /// and whether they are now.</summary>
    internal static readonly string Changes = $"""
        (select x.member_id, x.at, x."from", x.plan_id, x."to" in ({Members}) as is_one, p.plan_id as was_plan,
           coalesce(p."to" in ({Members}), false) as was_one
         from standing_changes x left join lateral (select b."to", b.plan_id from standing_changes b where b.member_id = x.member_id
           and (b.at, b.id) < (x.at, x.id) order by b.at desc, b.id desc limit 1) p on true where x.at >= $1 and x.at <= $2) c
        """;

    /// <summary>Which of them are meant.</summary>
    internal static string That(Move move) => move switch
    {
        Move.Joined => """(c.is_one and not c.was_one and c."from" is distinct from 'Lapsed')""",
        Move.Returned => """(c.is_one and not c.was_one and c."from" is not distinct from 'Lapsed')""",
        Move.Left => "(c.was_one and not c.is_one)",
        Move.CameOver or Move.WentOver => "(c.was_one and c.is_one and c.was_plan is distinct from c.plan_id)",
        _ => throw new ArgumentOutOfRangeException(nameof(move), move, "No such move."),
    };

    /// <summary>The tier a move is about: that to which it brought somebody, or that from which it took them.</summary>
    internal static string TierOf(Move move) => LeadsAway(move) ? "c.was_plan" : "c.plan_id";

    internal static bool LeadsAway(Move move) => move is Move.Left or Move.WentOver;

    internal static LocalDate MonthOf(Instant moment, Core.Time.SiteCalendar calendar) => calendar.Month(moment).OnDayOfMonth(1);

    /// <param name="tier">Of one tier; null for all.</param>
    public async Task<(IReadOnlyList<MovedMember> Rows, int Count)> Load(Move move, PlanId? tier, Instant moment, int page, CancellationToken ct)
    {
        var calendar = catalogue.Now.Calendar;
        var month = calendar.At(MonthOf(moment, calendar).AtMidnight());
        var those = $"(select c.member_id, c.at, {TierOf(move)} as tier from {Changes} where {That(move)}) c where $3 = 0 or c.tier = $3";
        var trip = new OneTrip(db);
        var count = trip.Command($"select count(*)::int from {those}", Arrivals.Rows(r => r.GetInt32(0)), month, moment, tier?.Value ?? 0);
        var rows = trip.Command($"""
            select c.member_id, m.name, m.standing, c.tier, c.at from (select * from {those} order by c.at desc, c.member_id offset $4 limit $5) c
            join members m on m.id = c.member_id order by c.at desc, c.member_id
            """, Arrivals.Rows(r => new MovedMember(new(r.GetInt64(0)), r.GetString(1), Enum.Parse<Standing>(r.GetString(2)),
                r.IsDBNull(3) ? null : new PlanId(r.GetInt64(3)), r.GetFieldValue<Instant>(4))), month, moment, tier?.Value ?? 0,
            (page - 1) * PageSize, PageSize);
        await trip.Ask(ct);
        return (rows.Value, count.Value[0]);
    }
}
