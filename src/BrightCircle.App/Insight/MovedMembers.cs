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
}

/// <param name="Standing">What they are now.</param>
public sealed record MovedMember(MemberId Member, string Name, Standing Standing, PlanId? Tier, Instant At);

/// <summary>Who came and went this month: the people behind the figures over departures.</summary>
public sealed class MovedMembers(BrightContext db, Catalogue catalogue)
{
    public const int PageSize = 50;

    /// <summary>Some standings as the database lists them.</summary>
    internal static string Those(Func<Standing, bool> which) => string.Join(", ", Enum.GetValues<Standing>().Where(which).Select(s => $"'{s}'"));
    static readonly string Members = Those(Standings.IsMember);

    /// <summary>Which changes of standing are meant: a condition over standing_changes c.</summary>
    internal static string That(Move move) => move switch
    {
        Move.Joined => $"""(c."to" in ({Members}) and (c."from" is null or c."from" = 'Guest'))""",
        Move.Returned => $"""(c."to" in ({Members}) and c."from" = 'Lapsed')""",
        Move.Left => $"""(c."to" not in ({Members}) and c."from" in ({Members}))""",
        _ => throw new ArgumentOutOfRangeException(nameof(move), move, "No such move."),
    };

    internal static Instant MonthOf(Instant moment, Core.Time.SiteCalendar calendar) =>
        calendar.At(calendar.Month(moment).OnDayOfMonth(1).AtMidnight());

    /// <param name="tier">Of one tier; null for all.</param>
    public async Task<(IReadOnlyList<MovedMember> Rows, int Count)> Load(Move move, PlanId? tier, Instant moment, int page, CancellationToken ct)
    {
        var month = MonthOf(moment, catalogue.Now.Calendar);
        var those = $"standing_changes c where c.at >= $1 and c.at <= $2 and {That(move)} and ($3 = 0 or c.plan_id = $3)";
        var trip = new OneTrip(db);
        var count = trip.Command($"select count(*)::int from {those}", Arrivals.Rows(r => r.GetInt32(0)), month, moment, tier?.Value ?? 0);
        var rows = trip.Command($"""
            select c.member_id, m.name, m.standing, c.plan_id, c.at from (select * from {those} order by c.at desc, c.member_id offset $4 limit $5) c
            join members m on m.id = c.member_id order by c.at desc, c.member_id
            """, Arrivals.Rows(r => new MovedMember(new(r.GetInt64(0)), r.GetString(1), Enum.Parse<Standing>(r.GetString(2)),
                r.IsDBNull(3) ? null : new PlanId(r.GetInt64(3)), r.GetFieldValue<Instant>(4))), month, moment, tier?.Value ?? 0,
            (page - 1) * PageSize, PageSize);
        await trip.Ask(ct);
        return (rows.Value, count.Value[0]);
    }
}
