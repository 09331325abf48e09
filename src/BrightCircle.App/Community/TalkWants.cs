using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>Something a member began and nobody else has said anything to.</summary>
/// <param name="IsGreeting">They said who they are, and nobody has greeted them.</param>
public sealed record Unanswered(long Thread, string Title, long Space, bool IsGreeting, string Name, Instant At);

/// <summary>A member who used to write in spaces and hasn’t for a while.</summary>
/// <param name="Posts">So many in the time in which they did.</param>
public sealed record GoneQuiet(long Member, string Name, int Posts, Instant Last);

/// <summary>What in the talk wants somebody of the team: threads nobody has answered, people nobody has greeted, members who have gone quiet.</summary>
public static class TalkWants
{
    public const int Most = 20;

    /// <summary>What nobody has answered, in SQL, as threads <c>t</c> of spaces <c>s</c> with what they began with as <c>p</c>. An agreeing word is a greeting,
    /// and no answer to anything else.</summary>
    static string From(string from, string to) => $"""
        from talk_threads t join spaces s on s.id = t.space_id join talk_posts p on p.thread_id = t.id and p.is_first
        where t.at between {from} and {to} and t.hidden_at is null and t.closed_at is null and s.closed_at is null
          and not p.by_team and p.account_id is not null and p.gone_at is null
          and not exists (select 1 from talk_posts a where a.thread_id = t.id and a.account_id is distinct from p.account_id and a.gone_at is null)
          and not (s.kind = 'Introductions' and exists (select 1 from talk_nods n where n.post_id = p.id))
        """;

    /// <summary>How many in each space, in SQL that takes the beginning and the end of what is looked at.</summary>
    internal static string Counted(string from, string to) => $"select t.space_id, count(*)::int {From(from, to)} group by t.space_id";

    /// <summary>What nobody has answered, the one that has waited longest first.</summary>
    /// <param name="spaces">Only in these; null for all.</param>
    internal static Answer<List<Unanswered>> Waiting(OneTrip trip, BrightContext db, Instant at, SpaceId[]? spaces = null)
    {
        var (from, to) = TalkRules.Waits(at);
        var sql = $"""
            select t.id as thread, t.title, t.space_id as space, s.kind = 'Introductions' as is_greeting, p.name, t.at
            {From("{0}", "{1}")} and ({"{2}"} or t.space_id = any({"{3}"})) order by t.at, t.id limit {Most}
            """;
        long[] those = [.. (spaces ?? []).Select(s => s.Value)];
        return trip.List(db.Database.SqlQueryRaw<Unanswered>(sql, from, to, spaces is null, those));
    }

    /// <summary>Who has gone quiet, the latest first; whoever’s membership is over isn’t among them.</summary>
    internal static Answer<List<GoneQuiet>> Silent(OneTrip trip, BrightContext db, Instant at)
    {
        var (from, since) = TalkRules.Silent(at);
        return trip.List(db.Database.SqlQuery<GoneQuiet>($"""
            select m.id as member, m.name, count(*)::int as posts, max(p.at) as last from talk_posts p join members m on m.id = p.account_id
            where p.at > {from} and p.at <= {at} and p.gone_at is null and not p.by_team and m.standing not in ('Guest', 'Lapsed')
            group by m.id, m.name having count(*) >= {TalkRules.Usual} and max(p.at) <= {since} order by last desc, m.id limit {Most}
            """));
    }
}
