using System.Net;
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
/// <param name="Picture">The first in what it began with; null where there is none.</param>
public sealed record ThreadRow(long Id, string Title, int Answers, Instant LastAt, bool Pinned, bool Closed, bool Hidden, string LastName, string LastWords,
    Instant? SeenAt, string[] Faces, long? Picture, string FirstName);

/// <param name="Before">When the reader was here the time before; null for a first visit.</param>
/// <param name="Telling">When they are told of what is said here.</param>
public sealed record SpaceView(Instant? Before, IReadOnlyList<ThreadRow> Threads, int Count, Telling Telling);

/// <summary>Something that was said and fits what was looked for.</summary>
/// <param name="Words">Where it fits, in plain text.</param>
public sealed record TalkHit(long Post, long Thread, string Title, long Space, string Name, Instant At, string Words);

/// <summary>A post with the words of agreement under it.</summary>
/// <param name="Nods">How many said each word.</param>
/// <param name="Own">Which of them the reader said.</param>
public sealed record PostView(TalkPost Post, IReadOnlyDictionary<int, int> Nods, IReadOnlySet<int> Own, IReadOnlyList<TalkPicture> Pictures);

/// <param name="SeenTo">The last post the reader had seen; 0 for none.</param>
/// <param name="Follows">They follow it; false where they want to hear nothing of it; null where they said neither.</param>
/// <param name="Bar">They can't write anywhere for a time; null where they can.</param>
/// <param name="Draft">What they began to write in it; null for nothing.</param>
/// <param name="Answered">The post they answer, on whichever page it stands; null for the whole.</param>
/// <param name="Authors">Whoever wrote what stands on the page, by their accounts.</param>
/// <param name="Chosen">Where it asks for a choice: how many chose each, by its place.</param>
/// <param name="OwnChoice">What the reader chose; null for nothing.</param>
public sealed record ThreadView(TalkThread Thread, IReadOnlyList<PostView> Posts, long SeenTo, bool? Follows, TalkBar? Bar, TalkDraft? Draft,
    TalkPost? Answered, IReadOnlyDictionary<long, Author> Authors, IReadOnlyDictionary<int, int> Chosen, int? OwnChoice)
{
    /// <summary>All its posts, those on other pages too.</summary>
    public int Count => Thread.Answers + 1;
}

/// <summary>What stands in spaces, for somebody to whom they are open. What isn't open is neither read nor counted.</summary>
public sealed class ReadTalk(BrightContext db)
{
    public const int MostNews = 99, PostsAPage = 50;

    sealed record DraftRow(long Space, long? Thread, string Title, string Words, Instant At);
    sealed record OutsideRow(long Id, int News, long? LastThread, string? LastTitle, Instant? LastAt);

    /// <summary>The spaces that are open, and what the reader began to write in them, the latest first.</summary>
    public async Task<(IReadOnlyList<SpaceSeenFromOutside> Spaces, IReadOnlyList<Begun> Begun)> Spaces(IReadOnlyList<SpaceReader> open, CancellationToken ct)
    {
        if (open.Count == 0) return ([], []);
        var (ids, account, looking) = (open.Select(o => o.Space.Id.Value).ToArray(), open[0].Account, open[0].IsOnlyLooking);
        var trip = new OneTrip(db);
        var drafts = trip.List(db.Database.SqlQuery<DraftRow>($"""
            select coalesce(t.space_id, d.place_id) as space, t.id as thread, coalesce(t.title, d.title) as title, left(d.body, 160) as words, d.at
            from talk_drafts d left join talk_threads t on t.id = d.place_id
            where d.account_id = {account} and not {looking} and coalesce(t.space_id, d.place_id) = any({ids}) and t.hidden_at is null
            order by d.at desc, d.place_id
            """));
        var rows = trip.List(db.Database.SqlQuery<OutsideRow>($"""
            select s.id, coalesce((select count(*) from (select 1 from talk_threads t where t.space_id = s.id and t.hidden_at is null and t.last_at > v.at
                limit {MostNews}) news), 0)::int as news, l.id as last_thread, l.title as last_title, l.last_at
            from unnest({ids}) with ordinality as s(id, place)
            left join space_seen v on v.space_id = s.id and v.account_id = {account}
            left join lateral (select t.id, t.title, t.last_at from talk_threads t where t.space_id = s.id and t.hidden_at is null
                order by t.last_at desc limit 1) l on true
            order by s.place
            """));
        await trip.Ask(ct);
        var spaces = open.ToDictionary(o => o.Space.Id.Value, o => o.Space);
        return ([.. rows.Value.Select(r => new SpaceSeenFromOutside(spaces[r.Id], r.News, r.LastThread, r.LastTitle, r.LastAt))],
            [.. drafts.Value.Select(d => new Begun(new(d.Space), d.Thread, d.Title, d.Words, d.At))]);
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
              array(select p.name from (select x.name, x.id from talk_posts x where x.thread_id = t.id and x.gone_at is null order by x.id desc limit 40) p
                group by p.name order by max(p.id) desc limit 4) as faces,
              i.picture, coalesce(i.first_name, '') as first_name
            from (select * from talk_threads where space_id = {space} and (hidden_at is null or {keeps}) and merged_id is null
                order by pinned_at is null, last_at desc, id desc limit {size} offset {skip}) t
            left join lateral (select (select x.id from talk_pictures x where x.post_id = p.id and x.file_name is null order by x.place
                limit 1) as picture, p.name as first_name
                from talk_posts p where p.thread_id = t.id and p.is_first and p.gone_at is null limit 1) i on true
            left join talk_seen s on s.thread_id = t.id and s.account_id = {account}
            left join lateral (select p.name, left(regexp_replace(p.body, '<[^>]+>', ' ', 'g'), 160) as words from talk_posts p
                where p.thread_id = t.id and p.gone_at is null order by p.id desc limit 1) l on true
            order by t.pinned_at is null, t.last_at desc, t.id desc
            """));
        var id = reader.Space.Id;
        var telling = trip.List(db.SpaceTellings.Where(s => s.AccountId == account && s.SpaceId == id).Select(s => s.Telling));
        var count = trip.Count(db.TalkThreads.Where(t => t.SpaceId == id && (t.HiddenAt == null || keeps) && t.MergedId == null));
        await trip.Ask(ct);
        return new(visit?.Value, [.. threads.Value.Select(t => t with { LastWords = Plain(t.LastWords) })], count.Value, telling.Value.FirstOrDefault());
    }

    /// <summary>A page of a thread. How far the reader came is kept, unless the team only looks.</summary>
    /// <param name="open">The spaces that are open to them: nothing else is found.</param>
    /// <param name="answers">A post they mean to answer, on whichever page; null for the one they began to answer, if they did.</param>
    public async Task<ThreadView?> Thread(IReadOnlyList<SpaceReader> open, long thread, int page, int size, Instant at, CancellationToken ct,
        long? answers = null)
    {
        if (open.Count == 0) return null;
        var (spaces, account, looking) = (open.Select(o => o.Space.Id).ToArray(), open[0].Account, open[0].IsOnlyLooking);
        // Hosts keep some spaces and only read in others.
        var kept = open.Where(o => o.Keeps).Select(o => o.Space.Id).ToArray();
        var those = db.TalkThreads.Where(t => t.Id == thread && spaces.Contains(t.SpaceId)
            && (t.HiddenAt == null || kept.Contains(t.SpaceId) || t.MergedId != null));
        // What answers a post stands under it.
        var posts = db.TalkPosts.Where(p => p.ThreadId == thread && those.Any()
            && (p.Held == null || p.AccountId == account || those.Any(t => kept.Contains(t.SpaceId))));
        var shown = posts.OrderBy(p => p.AnswersId ?? p.Id).ThenBy(p => p.Id).Skip((page - 1) * size).Take(size);
        var trip = new OneTrip(db);
        var (found, list) = (trip.First(those.AsNoTracking()), trip.List(shown.AsNoTracking()));
        var seen = trip.List(db.TalkSeen.Where(s => s.AccountId == account && s.ThreadId == thread).Select(s => s.PostId));
        var nods = trip.List(db.TalkNods.Where(n => shown.Any(p => p.Id == n.PostId)).GroupBy(n => new { n.PostId, n.Word })
            .Select(g => new { g.Key.PostId, g.Key.Word, Count = g.Count(), Own = g.Any(n => n.AccountId == account) }));
        var pictures = trip.List(db.TalkPictures.AsNoTracking().Where(x => shown.Any(p => p.Id == x.PostId)).OrderBy(x => x.Place));
        var authorsSql = $$"""
            with x as (select distinct account_id from (select p.account_id from talk_posts p
                where p.thread_id = {0} and (p.held is null or p.account_id = {2}
                  or exists (select 1 from talk_threads t where t.id = {0} and t.space_id = any({1})))
                order by coalesce(p.answers_id, p.id), p.id limit {3} offset {4}) page)
            {{ReadPeople.AuthorsSql}}
            """;
        var authors = trip.List(db.Database.SqlQueryRaw<Author>(authorsSql, thread, kept.Select(k => k.Value).ToArray(), account, size, (page - 1) * size));
        var chosen = trip.List(db.TalkVotes.Where(v => v.ThreadId == thread).GroupBy(v => v.Choice)
            .Select(g => new { g.Key, Count = g.Count(), Own = g.Any(v => v.AccountId == account) }));
        var follows = trip.List(db.TalkFollows.Where(f => f.AccountId == account && f.ThreadId == thread).Select(f => f.Follows));
        var bar = trip.First(db.TalkBars.AsNoTracking().Where(b => b.AccountId == account && b.Until > at));
        var drafts = db.TalkDrafts.AsNoTracking().Where(d => d.AccountId == account && d.PlaceId == thread && !looking);
        var draft = trip.First(drafts);
        var answered = trip.First(db.TalkPosts.AsNoTracking().Where(p => p.ThreadId == thread && p.GoneAt == null && those.Any()
            && (p.Id == answers || answers == null && drafts.Any(d => d.AnswersId == p.Id))));
        if (!looking)
            trip.Command("""
                insert into talk_seen (account_id, thread_id, post_id, at)
                select $1, t.id, (select max(p.id) from talk_posts p where p.thread_id = t.id), $4 from talk_threads t
                where t.id = $2 and t.space_id = any($3) and t.merged_id is null
                on conflict (account_id, thread_id) do update set post_id = greatest(talk_seen.post_id, excluded.post_id), at = excluded.at
                """, async (r, stop) => await r.ReadAsync(stop), account, thread, spaces.Select(s => s.Value).ToArray(), at);
        await trip.Ask(ct);
        if (found.Value is not { } t) return null;
        var (by, pictured) = (nods.Value.ToLookup(n => n.PostId), pictures.Value.ToLookup(x => x.PostId!.Value));
        return new(t, [.. list.Value.Select(p => new PostView(p, by[p.Id].ToDictionary(n => n.Word, n => n.Count),
            by[p.Id].Where(n => n.Own).Select(n => n.Word).ToHashSet(), [.. pictured[p.Id]]))], seen.Value.FirstOrDefault(),
            follows.Value.Count > 0 ? follows.Value[0] : null, bar.Value, draft.Value, answered.Value, authors.Value.ToDictionary(a => a.Account),
            chosen.Value.ToDictionary(c => c.Key, c => c.Count), chosen.Value.FirstOrDefault(c => c.Own)?.Key);
    }

    /// <summary>How many posts stand before one in its thread.</summary>
    public Task<int> Before(long post, CancellationToken ct) => db.TalkPosts.Where(p => p.Id == post).SelectMany(p => db.TalkPosts.Where(b =>
        b.ThreadId == p.ThreadId && ((b.AnswersId ?? b.Id) < (p.AnswersId ?? p.Id) || (b.AnswersId ?? b.Id) == (p.AnswersId ?? p.Id) && b.Id < p.Id)))
        .CountAsync(ct);

    /// <summary>Where a post is read, on whichever page of its thread that is.</summary>
    public async Task<string> PathTo(long thread, long post, CancellationToken ct) =>
        $"/spaces/threads/{thread}?page={await Before(post, ct) / PostsAPage + 1}#p{post}";

    /// <summary>Where somebody reads on in a thread: at the first post they haven't seen; at its beginning where they have seen none of it, or all.</summary>
    public async Task<string> PathOn(SpaceReader by, long thread, CancellationToken ct)
    {
        var account = by.Account;
        var first = await db.TalkPosts.Where(p => p.ThreadId == thread
            && db.TalkSeen.Any(s => s.AccountId == account && s.ThreadId == thread && p.Id > s.PostId)).OrderBy(p => p.AnswersId ?? p.Id).ThenBy(p => p.Id)
            .Select(p => (long?)p.Id).FirstOrDefaultAsync(ct);
        return first is { } post ? await PathTo(thread, post, ct) : $"/spaces/threads/{thread}";
    }

    /// <summary>Looks for words in what was said, in the spaces that are open to whoever looks: the newest first.</summary>
    /// <param name="typed">As in search engines: words, "phrases", -without.</param>
    public async Task<IReadOnlyList<TalkHit>> Find(IReadOnlyList<SpaceReader> open, string typed, int skip, int size, CancellationToken ct)
    {
        var words = Bounded.To(typed.Trim().Replace("\0", "", StringComparison.Ordinal), 200);
        if (open.Count == 0 || words.Length == 0) return [];
        var spaces = open.Select(o => o.Space.Id.Value).ToArray();
        // What has the words is found first: in the order of what is shown all posts would be gone through for a rare word.
        var hits = await db.Database.SqlQuery<TalkHit>($"""
            with hits as materialized (select p.id, p.thread_id, p.name, p.at, p.body from websearch_to_tsquery('simple', {words}) as q, talk_posts p
                where p.words @@ q and p.gone_at is null)
            select p.id as post, t.id as thread, t.title, t.space_id as space, p.name, p.at,
              ts_headline('simple', regexp_replace(p.body, '<[^>]+>', ' ', 'g'), q, 'StartSel="",StopSel="",MaxWords=30,MinWords=12') as words
            from websearch_to_tsquery('simple', {words}) as q, hits p join talk_threads t on t.id = p.thread_id
            where t.hidden_at is null and t.space_id = any({spaces})
            order by p.id desc limit {size} offset {skip}
            """).ToListAsync(ct);
        return [.. hits.Select(h => h with { Words = Plain(h.Words) })];
    }

    /// <summary>What is left of rich text when its marks are taken out, as a line.</summary>
    static string Plain(string words) => string.Join(' ', WebUtility.HtmlDecode(words).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));

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
