using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>A space from outside.</summary>
/// <param name="News">Threads in which something was written since the reader was here; counted to <see cref="ReadTalk.MostNews"/>. 0 for a first
/// visit.</param>
/// <param name="LastTitle">What was written in last; null where nothing was.</param>
public sealed record SpaceSeenFromOutside(Space Space, int News, long? LastThread, string? LastTitle, Instant? LastAt);

/// <summary>A thread in the list of its space.</summary>
/// <param name="LastName">Who wrote last, and how it begins; empty where it was taken away.</param>
/// <param name="SeenAt">When the reader was in it last; null for never.</param>
/// <param name="Faces">Some of those who write in it, the latest first.</param>
public sealed record ThreadRow(long Id, string Title, int Answers, Instant LastAt, bool Pinned, bool Closed, bool Hidden, string LastName, string LastWords,
    Instant? SeenAt, string[] Faces);

/// <param name="Before">When the reader was here the time before; null for a first visit.</param>
public sealed record SpaceView(Instant? Before, IReadOnlyList<ThreadRow> Threads, int Count);

/// <summary>A post with the words of agreement under it.</summary>
/// <param name="Nods">How many said each word.</param>
/// <param name="Own">Which of them the reader said.</param>
public sealed record PostView(TalkPost Post, IReadOnlyDictionary<int, int> Nods, IReadOnlySet<int> Own);

/// <param name="SeenTo">The last post the reader had seen; 0 for none.</param>
public sealed record ThreadView(TalkThread Thread, IReadOnlyList<PostView> Posts, long SeenTo)
{
    /// <summary>All its posts, those on other pages too.</summary>
    public int Count => Thread.Answers + 1;
}

/// <summary>What stands in spaces, for somebody to whom they are open. What isn't open is neither read nor counted.</summary>
public sealed class ReadTalk(BrightContext db)
{
    public const int MostNews = 99, PostsAPage = 50;

    sealed record OutsideRow(long Id, int News, long? LastThread, string? LastTitle, Instant? LastAt);

    public async Task<IReadOnlyList<SpaceSeenFromOutside>> Spaces(IReadOnlyList<SpaceReader> open, CancellationToken ct)
    {
        if (open.Count == 0) return [];
        var (ids, account) = (open.Select(o => o.Space.Id.Value).ToArray(), open[0].Account);
        var rows = await db.Database.SqlQuery<OutsideRow>($"""
            select s.id, coalesce((select count(*) from (select 1 from talk_threads t where t.space_id = s.id and t.hidden_at is null and t.last_at > v.at
                limit {MostNews}) news), 0)::int as news, l.id as last_thread, l.title as last_title, l.last_at
            from unnest({ids}) with ordinality as s(id, place)
            left join space_seen v on v.space_id = s.id and v.account_id = {account}
            left join lateral (select t.id, t.title, t.last_at from talk_threads t where t.space_id = s.id and t.hidden_at is null
                order by t.last_at desc limit 1) l on true
            order by s.place
            """).ToListAsync(ct);
        var spaces = open.ToDictionary(o => o.Space.Id.Value, o => o.Space);
        return [.. rows.Select(r => new SpaceSeenFromOutside(spaces[r.Id], r.News, r.LastThread, r.LastTitle, r.LastAt))];
    }

    /// <summary>A page of a space's threads: those that stand first, then the latest. That the reader was here is kept, unless the team only looks.</summary>
    public async Task<SpaceView> Space(SpaceReader reader, int page, int size, Instant at, CancellationToken ct)
    {
        var (space, account, keeps, skip) = (reader.Space.Id.Value, reader.Account, reader.Keeps, (page - 1) * size);
        var trip = new OneTrip(db);
        var visit = reader.IsOnlyLooking ? null : trip.Command("""
            insert into space_seen (account_id, space_id, at, before) values ($1, $2, $3, null)
            on conflict (account_id, space_id) do update set at = excluded.at,
              before = case when space_seen.at < excluded.at - interval '30 minutes' then space_seen.at else space_seen.before end
            returning before
            """, async (r, stop) => await r.ReadAsync(stop) && !await r.IsDBNullAsync(0, stop)
                ? r.GetFieldValue<Instant>(0) : (Instant?)null, account, space, at);
        var threads = trip.List(db.Database.SqlQuery<ThreadRow>($"""
            select t.id, t.title, t.answers, t.last_at, t.pinned_at is not null as pinned, t.closed_at is not null as closed, t.hidden_at is not null as hidden,
              coalesce(l.name, '') as last_name, coalesce(l.words, '') as last_words, s.at as seen_at,
              array(select p.name from talk_posts p where p.thread_id = t.id and p.gone_at is null group by p.name order by max(p.id) desc limit 4) as faces
            from talk_threads t
            left join talk_seen s on s.thread_id = t.id and s.account_id = {account}
            left join lateral (select p.name, left(regexp_replace(p.body, '<[^>]+>', ' ', 'g'), 160) as words from talk_posts p
                where p.thread_id = t.id and p.gone_at is null order by p.id desc limit 1) l on true
            where t.space_id = {space} and (t.hidden_at is null or {keeps})
            order by t.pinned_at is null, t.last_at desc, t.id desc limit {size} offset {skip}
            """));
        var id = reader.Space.Id;
        var count = trip.Count(db.TalkThreads.Where(t => t.SpaceId == id && (t.HiddenAt == null || keeps)));
        await trip.Ask(ct);
        return new(visit?.Value, threads.Value, count.Value);
    }

    /// <summary>A page of a thread. How far the reader came is kept, unless the team only looks.</summary>
    /// <param name="open">The spaces that are open to them: nothing else is found.</param>
    public async Task<ThreadView?> Thread(IReadOnlyList<SpaceReader> open, long thread, int page, int size, Instant at, CancellationToken ct)
    {
        if (open.Count == 0) return null;
        var (spaces, keeps, account, looking) = (open.Select(o => o.Space.Id).ToArray(), open[0].Keeps, open[0].Account, open[0].IsOnlyLooking);
        var those = db.TalkThreads.Where(t => t.Id == thread && spaces.Contains(t.SpaceId) && (t.HiddenAt == null || keeps));
        // What answers a post stands under it.
        var posts = db.TalkPosts.Where(p => p.ThreadId == thread && those.Any());
        var shown = posts.OrderBy(p => p.AnswersId ?? p.Id).ThenBy(p => p.Id).Skip((page - 1) * size).Take(size);
        var trip = new OneTrip(db);
        var (found, list) = (trip.First(those.AsNoTracking()), trip.List(shown.AsNoTracking()));
        var seen = trip.List(db.TalkSeen.Where(s => s.AccountId == account && s.ThreadId == thread).Select(s => s.PostId));
        var nods = trip.List(db.TalkNods.Where(n => shown.Any(p => p.Id == n.PostId)).GroupBy(n => new { n.PostId, n.Word })
            .Select(g => new { g.Key.PostId, g.Key.Word, Count = g.Count(), Own = g.Any(n => n.AccountId == account) }));
        if (!looking)
            trip.Command("""
                insert into talk_seen (account_id, thread_id, post_id, at)
                select $1, t.id, (select max(p.id) from talk_posts p where p.thread_id = t.id), $4 from talk_threads t where t.id = $2 and t.space_id = any($3)
                on conflict (account_id, thread_id) do update set post_id = greatest(talk_seen.post_id, excluded.post_id), at = excluded.at
                """, async (r, stop) => await r.ReadAsync(stop), account, thread, spaces.Select(s => s.Value).ToArray(), at);
        await trip.Ask(ct);
        if (found.Value is not { } t) return null;
        var by = nods.Value.ToLookup(n => n.PostId);
        return new(t, [.. list.Value.Select(p => new PostView(p, by[p.Id].ToDictionary(n => n.Word, n => n.Count),
            by[p.Id].Where(n => n.Own).Select(n => n.Word).ToHashSet()))], seen.Value.FirstOrDefault());
    }

    /// <summary>How many posts stand before one in its thread.</summary>
    public Task<int> Before(long post, CancellationToken ct) => db.TalkPosts.Where(p => p.Id == post).SelectMany(p => db.TalkPosts.Where(b =>
        b.ThreadId == p.ThreadId && ((b.AnswersId ?? b.Id) < (p.AnswersId ?? p.Id) || (b.AnswersId ?? b.Id) == (p.AnswersId ?? p.Id) && b.Id < p.Id)))
        .CountAsync(ct);

    /// <summary>Where a post is read, on whichever page of its thread that is.</summary>
    public async Task<string> PathTo(long thread, long post, CancellationToken ct) =>
        $"/spaces/threads/{thread}?page={await Before(post, ct) / PostsAPage + 1}#p{post}";

    /// <summary>In which space a thread is; null where there is none.</summary>
    public async Task<SpaceId?> SpaceOf(long thread, CancellationToken ct) =>
        await db.TalkThreads.Where(t => t.Id == thread).Select(t => (SpaceId?)t.SpaceId).FirstOrDefaultAsync(ct);

    /// <summary>A post with the space it is in.</summary>
    public async Task<(TalkPost Post, SpaceId Space)?> Post(long post, CancellationToken ct)
    {
        var found = await db.TalkPosts.AsNoTracking().Where(p => p.Id == post && p.GoneAt == null)
            .Join(db.TalkThreads.Where(t => t.HiddenAt == null), p => p.ThreadId, t => t.Id, (p, t) => new { Post = p, t.SpaceId }).FirstOrDefaultAsync(ct);
        return found is null ? null : (found.Post, found.SpaceId);
    }
}
