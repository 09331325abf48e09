using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>What somebody and another member write to one another, in a line.</summary>
/// <param name="IsNew">The other wrote since they were there.</param>
/// <param name="LastWords">How what was written last begins.</param>
public sealed record ExchangeRow(long Id, string Name, long? Picture, bool AskedByMe, ExchangeState State, bool ShutByMe, Instant LastAt, bool IsNew,
    string LastWords);

/// <summary>An exchange as one of the two sees it.</summary>
/// <param name="With">The other’s account, for their card; null where none is shown.</param>
/// <param name="Messages">The oldest first; the latest <see cref="ReadExchanges.Shown"/> of them.</param>
/// <param name="OwnPicture">On one’s own card; null where there is none.</param>
/// <param name="Pictures">What goes with the messages, by their numbers.</param>
/// <param name="ReadAt">When the other was in it last, if they let that be seen.</param>
public sealed record ExchangeView(long Id, string Name, long? With, long? Picture, long? OwnPicture, bool AskedByMe, ExchangeState State, bool ShutByMe,
    IReadOnlyList<ExchangeMessage> Messages, int Count, Instant? ReadAt, ILookup<long, TalkPicture> Pictures);

/// <summary>What members write to one another, for the two of them: nobody else reads it.</summary>
public sealed class ReadExchanges(BrightContext db, Correspond correspond, IClock clock)
{
    public const int Shown = 200, Most = 100;

    sealed record Row(long Id, long Other, string Name, bool HasCard, long? Picture, bool TellsRead, bool Asked, bool Agreed, bool ShutByMe, bool ShutByOther,
        Instant LastAt, bool IsNew, Instant? OtherSeen, string? Last, long? Own);

    /// <summary>The exchanges of the member {0}, in SQL.</summary>
    const string RowsSql = $$"""
        select e.id, m.id as other, case when m.standing = 'Lapsed' and c.unnamed_after then '{{PersonCard.Former}}' else m.name end as name,
          coalesce(c.shown and {{ReadPeople.IsHereSql}}, false) as has_card, case when c.shown and {{ReadPeople.IsHereSql}} then c.picture_id end as picture,
          coalesce(c.tells_read, false) as tells_read, i.asked, e.agreed_at is not null as agreed, i.shut_at is not null as shut_by_me,
          o.shut_at is not null as shut_by_other, e.last_at,
          e.last_by_id is distinct from i.member_id and (i.seen_at is null or i.seen_at < e.last_at) and i.shut_at is null as is_new, o.seen_at as other_seen,
          (select case when x.member_id is not null then x.body end from exchange_messages x where x.exchange_id = e.id order by x.id desc limit 1) as last,
          (select w.picture_id from person_cards w where w.account_id = i.member_id and w.shown) as own
        from exchange_people i join exchanges e on e.id = i.exchange_id join exchange_people o on o.exchange_id = i.exchange_id and o.member_id <> i.member_id
        join members m on m.id = o.member_id left join accounts a on a.id = m.id left join person_cards c on c.account_id = m.id where i.member_id = {0}
        """;

    /// <summary>All that somebody writes and reads: with the team, and with other members; what was written last first, what they shut last.</summary>
    /// <param name="byMember">They look at it themselves. To the team, which looks through their eyes, nothing shows of what members write to one
    /// another.</param>
    public async Task<(DialogueView Team, IReadOnlyList<ExchangeRow> Members)> Messages(MemberId me, bool byMember, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var others = byMember ? Of(trip, me) : null;
        var team = await correspond.View(trip, me, byMember, ct);
        return (team, others?.Invoke() ?? []);
    }

    Func<IReadOnlyList<ExchangeRow>> Of(OneTrip trip, MemberId me)
    {
        const string Sql = $"{RowsSql} order by i.shut_at is not null, e.last_at desc, e.id limit {{1}}";
        var rows = trip.List(db.Database.SqlQueryRaw<Row>(Sql, me.Value, Most));
        return () => [.. rows.Value.Select(r => new ExchangeRow(r.Id, r.Name, r.Picture, r.Asked, ExchangeRules.Seen(r.Agreed, r.ShutByMe, r.ShutByOther),
            r.ShutByMe, r.LastAt, r.IsNew, Talk.Beginning(r.Last, 120)))];
    }

    /// <summary>One of them; null where it isn’t theirs. That they were in it is kept.</summary>
    public async Task<ExchangeView?> One(MemberId me, long exchange, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var trip = new OneTrip(db);
        const string Sql = $"{RowsSql} and e.id = {{1}}";
        var rows = trip.List(db.Database.SqlQueryRaw<Row>(Sql, me.Value, exchange));
        var those = db.ExchangeMessages.AsNoTracking().Where(m => m.ExchangeId == exchange
            && db.ExchangePeople.Any(p => p.ExchangeId == exchange && p.MemberId == me));
        var latest = those.OrderByDescending(m => m.Id).Take(Shown);
        var messages = trip.List(latest);
        var pictures = trip.List(db.TalkPictures.AsNoTracking().Where(p => p.WordsId != null && latest.Any(m => m.Id == p.WordsId)).OrderBy(p => p.Place));
        var count = trip.Count(those);
        const string Seen = "update exchange_people set seen_at = $3 where exchange_id = $1 and member_id = $2 returning 1";
        trip.Command(Seen, async (r, stop) => await r.ReadAsync(stop), exchange, me.Value, at);
        await trip.Ask(ct);
        return rows.Value is [var r] ? new(r.Id, r.Name, r.HasCard ? r.Other : null, r.Picture, r.Own, r.Asked,
            ExchangeRules.Seen(r.Agreed, r.ShutByMe, r.ShutByOther), r.ShutByMe, [.. messages.Value.OrderBy(m => m.Id)], count.Value,
            r.TellsRead ? r.OtherSeen : null, pictures.Value.ToLookup(p => p.WordsId!.Value)) : null;
    }
}
