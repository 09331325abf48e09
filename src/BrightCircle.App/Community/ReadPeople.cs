using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>The card of somebody who wants to be found.</summary>
/// <param name="SeenAt">When they were here last; null where it isn't known.</param>
/// <param name="Badges">The tags they bear that members see.</param>
/// <param name="Fields">What they said in the owner's fields that stand on cards, each with its name before it: “Hives: 4”.</param>
public sealed record PersonRow(long Account, string Name, bool ByTeam, string Line, string Place, long? Picture, Instant? SeenAt, string[] Badges,
    string[] Fields);

/// <summary>Somebody who wants to be found, as another sees them.</summary>
/// <param name="TakesWords">They let other members ask whether they may write to them.</param>
/// <param name="Exchange">Where the two write to one another; null where they don’t.</param>
/// <param name="SeenThemselves">Whoever looks has a card too.</param>
public sealed record PersonSeen(PersonRow Person, IReadOnlyList<BegunThread> Begun, bool TakesWords, long? Exchange, bool SeenThemselves);

/// <summary>A thread somebody began.</summary>
public sealed record BegunThread(long Id, string Title, long Space, Instant At);

/// <summary>Whoever wrote something on a page of talk.</summary>
/// <param name="HasCard">They want to be found among the people here, and members find one another.</param>
/// <param name="Picture">On their card; null where they have none.</param>
public sealed record Author(long Account, bool HasCard, long? Picture, string[] Badges);

/// <summary>Who is here, as far as they want to be seen.</summary>
public sealed class ReadPeople(BrightContext db)
{
    /// <summary>Whoever was here so lately is here.</summary>
    public static readonly Duration Lately = Duration.FromDays(7);
    public const int MostBegun = 5;

    /// <summary>The badges of the account <c>a</c>, in SQL.</summary>
    const string BadgesSql = "array(select g.name from member_tags t join tags g on g.id = t.tag_id where t.member_id = a.id and g.is_badge order by g.name)";

    /// <summary>The account <c>a</c>, with its member as <c>m</c>, is still here, in SQL: its membership isn't over. Whoever never had one, or pauses, is here;
    /// so is the team, as long as it is let in.</summary>
    internal const string IsHereSql = "(m.standing is null or m.standing <> 'Lapsed') and (a.lockout_end is null or a.lockout_end < 'infinity'::timestamptz)";

    /// <summary>Cards that are shown, in SQL.</summary>
    const string CardsSql = $"""
        select a.id as account, a.name, a.role is not null as by_team, c.line, c.place, c.picture_id as picture, l.at as seen_at, {BadgesSql} as badges,
          array(select f.name || ': ' || coalesce(to_char(v.date, 'FMDD FMMonth YYYY'), v.text) from own_field_values v join own_fields f on f.id = v.field_id
            where v.member_id = a.id and f.on_cards order by f."order", f.id) as fields
        from person_cards c join accounts a on a.id = c.account_id left join members m on m.id = a.id left join last_seen l on l.member_id = a.id
        where c.shown and {IsHereSql}
        """;

    /// <summary>Those who wrote a page of a thread, in SQL that goes after a list of accounts named x.</summary>
    internal const string AuthorsSql = $"""
        select a.id as account, coalesce(c.shown and site.shows_people and {IsHereSql}, false) as has_card,
          case when c.shown and site.shows_people and {IsHereSql} then c.picture_id end as picture, {BadgesSql} as badges
        from x join accounts a on a.id = x.account_id left join members m on m.id = a.id left join person_cards c on c.account_id = a.id
        cross join (select shows_people from site limit 1) site
        """;

    /// <summary>The people who want to be found, by their names; or those who were here lately, the latest first.</summary>
    /// <param name="typed">Looked for in names, lines, places and what stands in fields; empty for everybody.</param>
    /// <returns>A page of them, and how many there are.</returns>
    public async Task<(IReadOnlyList<PersonRow> People, int Count)> List(PeopleReader by, string? typed, bool lately, int page, int size, Instant at,
        CancellationToken ct)
    {
        ArgumentNullException.ThrowIfNull(by);
        var words = Bounded.To((typed ?? "").Trim().Replace("\0", "", StringComparison.Ordinal), 80).ToLowerInvariant();
        var since = at - Lately;
        const string Those = $$"""
            from ({{CardsSql}}) p where (not {0} or p.seen_at >= {1}) and ({2} = '' or position({2} in lower(p.name)) > 0
              or position({2} in lower(p.line)) > 0 or position({2} in lower(p.place)) > 0
              or exists (select 1 from unnest(p.fields || p.badges) f where position({2} in lower(f)) > 0))
            """;
        var trip = new OneTrip(db);
        const string All = $"select p.* {Those}";
        const string Paged = $"{All} order by case when {{0}} then p.seen_at end desc nulls last, lower(p.name), p.account limit {{3}} offset {{4}}";
        var rows = trip.List(db.Database.SqlQueryRaw<PersonRow>(Paged, lately, since, words, size, (page - 1) * size));
        var count = trip.Count(db.Database.SqlQueryRaw<PersonRow>(All, lately, since, words));
        await trip.Ask(ct);
        return (rows.Value, count.Value);
    }

    /// <summary>Whether the member {0} lets other members ask whether they may write to them, in SQL: their card is shown, and says so.</summary>
    internal const string TakesWordsSql = $"exists (select 1 from person_cards c join accounts a on a.id = c.account_id join members m on m.id = a.id "
        + $"where a.id = {{0}} and c.shown and c.takes_words and {IsHereSql})";

    sealed record WordsWith(bool TakesWords, long? Exchange, bool SeenThemselves);

    /// <summary>One card, with the threads they began in the spaces that are open to whoever looks; null where there is none to be seen.</summary>
    public async Task<PersonSeen?> One(PeopleReader by, long account, CancellationToken ct)
    {
        var spaces = by.Talks.Select(t => t.Space.Id.Value).ToArray();
        var trip = new OneTrip(db);
        var sql = $"select p.* from ({CardsSql}) p where p.account = {{0}}";
        var person = trip.List(db.Database.SqlQueryRaw<PersonRow>(sql, account));
        var begun = trip.List(db.Database.SqlQuery<BegunThread>($"""
            select t.id, t.title, t.space_id as space, t.at from talk_posts p join talk_threads t on t.id = p.thread_id
            where p.account_id = {account} and p.is_first and p.gone_at is null and t.hidden_at is null and t.space_id = any({spaces})
            order by p.at desc limit {MostBegun}
            """));
        var me = by.Account;
        const string WordsSql = $$"""
            select {{TakesWordsSql}} as takes_words,
              (select min(i.exchange_id) from exchange_people i join exchange_people o on o.exchange_id = i.exchange_id
                where i.member_id = {1} and o.member_id = {0} and o.member_id <> i.member_id) as exchange,
              exists (select 1 from person_cards c where c.account_id = {1} and c.shown) as seen_themselves
            """;
        var words = trip.List(db.Database.SqlQueryRaw<WordsWith>(WordsSql, account, me));
        await trip.Ask(ct);
        return person.Value is [var one] && words.Value is [var w] ? new(one, begun.Value, w.TakesWords, w.Exchange, w.SeenThemselves) : null;
    }
}
