using System.Text.Json;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Community;
using BrightCircle.App.Due;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Letters;

/// <summary>A thread of which somebody is told.</summary>
/// <param name="Follows">They follow it; false for one they want to hear nothing of; null where they said neither.</param>
/// <param name="Seen">The last post they have seen; 0 for none.</param>
sealed record TalkOf(long Member, string Name, string Email, string? ZoneId, long Thread, long Space, string Title, string Telling, bool? Follows, long Seen)
{
    public Telling How => Enum.Parse<Telling>(Telling);
}

/// <summary>One letter about threads, of what is still open to its reader.</summary>
sealed class TalkLetter(BrightContext db, Ids ids, Catalogue catalogue, MemberReader reader)
{
    /// <summary>More threads than so many are said in a number.</summary>
    const int MostLines = 12;

    public sealed record News(TalkOf Of, int Count, string LastName);

    /// <param name="key">The same letter is written once.</param>
    /// <returns>Whether there was anything to tell.</returns>
    public async Task<bool> Write(IReadOnlyList<News> news, string key, Instant at, CancellationToken ct)
    {
        var to = news[0].Of;
        if (await reader.Load(to.Member, ct) is not { } who) return false;
        var (now, facts) = (catalogue.Now, who.FactsAt(at));
        // What isn't open to them any more isn't told of.
        var open = news.Where(n => SpaceReader.For(now, who, facts, new(n.Of.Space), at) is not null).ToArray();
        if (open.Length == 0 || await db.Letters.AnyAsync(l => l.Key == key, ct)) return false;
        var lines = open.Take(MostLines).Select(n => $"“{n.Of.Title}”, {now.SpaceById[new(n.Of.Space)].Name}: {Say.Count(n.Count, "new post")}, the last by "
            + LetterModels.FirstName(n.LastName)).ToList();
        if (open.Length > MostLines) lines.Add($"and {open.Length - MostLines} threads more");
        db.Letters.Add(new()
        {
            Id = ids.Next(),
            Kind = LetterKind.Talk,
            MemberId = new(to.Member),
            ToAddress = to.Email,
            ToName = to.Name,
            Key = key,
            CreatedAt = at,
            Fields = new()
            {
                ["news"] = open.Length == 1 ? $"New in “{open[0].Of.Title}”" : $"New in {Say.Count(open.Length, "thread")}",
                ["lines"] = string.Join('\n', lines.Select(l => l.ReplaceLineEndings(" "))),
                ["spaces_path"] = open.Length == 1 ? $"/spaces/threads/{open[0].Of.Thread}?on=1" : "/spaces",
            },
        });
        return true;
    }
}

/// <summary>Once an hour: those for whom it is evening are told of what was said since the last one, in one letter.</summary>
public sealed class TellOfTalk(BrightContext db, Ids ids, Catalogue catalogue, MemberReader reader) : IDueHandler
{
    static readonly Duration Week = Duration.FromDays(7);

    public DueKind Kind => DueKind.TalkHour;

    sealed record Said(long Thread, long Id, long? Account, string Name, Instant At);

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var zones = await db.Members.Where(m => m.ZoneId != null).Select(m => m.ZoneId!).Distinct().ToListAsync(ct);
            await Hour(item.Row.DueAt, zones, item.Moment, happened, ct);
            var since = item.Row.DueAt - TalkDue.Told;
            // The hours between, at which it is evening for nobody, are left out.
            if (await db.TalkPosts.AnyAsync(p => p.At > since, ct))
                await TalkDue.PutHour(db, ids, item.Row.DueAt, ct, at => IsEvening(null, at) || zones.Any(z => IsEvening(z, at)));
        }
    }

    bool IsEvening(string? zone, Instant at) => catalogue.Now.Calendar.Of(zone).Local(at).Hour == TellingRule.Hour;

    async Task Hour(Instant hour, IReadOnlyList<string> known, Instant moment, Happenings happened, CancellationToken ct)
    {
        var calendar = catalogue.Now.Calendar;
        var zones = known.Where(z => IsEvening(z, hour)).ToArray();
        var (here, since) = (IsEvening(null, hour), hour - Week);
        if (zones.Length == 0 && !here) return;
        var candidates = await db.Database.SqlQuery<TalkOf>($"""
            select m.id as member, m.name, m.email, m.zone_id, t.id as thread, t.space_id as space, t.title, coalesce(s.telling, 'Followed') as telling,
                f.follows,
              coalesce(v.post_id, 0) as seen
            from (
                select f.account_id, f.thread_id from talk_follows f join talk_threads t on t.id = f.thread_id where f.follows and t.last_at > {since}
                union
                select s.account_id, t.id from space_tellings s join talk_threads t on t.space_id = s.space_id and t.last_at > {since}
                    where s.telling in ('Daily', 'Weekly')
            ) c
            join members m on m.id = c.account_id and m.wants_talk and (m.zone_id = any({zones}) or m.zone_id is null and {here})
            join accounts a on a.id = m.id and a.email_confirmed
            join talk_threads t on t.id = c.thread_id and t.hidden_at is null
            left join space_tellings s on s.account_id = m.id and s.space_id = t.space_id
            left join talk_follows f on f.account_id = m.id and f.thread_id = t.id
            left join talk_seen v on v.account_id = m.id and v.thread_id = t.id
            order by m.id, t.last_at desc
            """).ToListAsync(ct);
        if (candidates.Count == 0) return;
        var threads = candidates.Select(c => c.Thread).Distinct().ToArray();
        var said = (await db.TalkPosts.AsNoTracking().Where(p => threads.Contains(p.ThreadId) && p.GoneAt == null && p.At > since && p.At <= hour)
            .Select(p => new Said(p.ThreadId, p.Id, p.AccountId, p.Name, p.At)).ToListAsync(ct)).ToLookup(p => p.Thread);
        var letter = new TalkLetter(db, ids, catalogue, reader);
        foreach (var person in candidates.GroupBy(c => c.Member))
        {
            var news = new List<TalkLetter.News>();
            foreach (var of in person)
            {
                if (TellingRule.LooksBack(of.How, of.Follows, calendar.Of(of.ZoneId).Date(hour).DayOfWeek) is not { } back) continue;
                var fresh = said[of.Thread].Where(p => p.At > hour - back && p.Id > of.Seen && p.Account != of.Member).ToArray();
                if (fresh.Length > 0) news.Add(new(of, fresh.Length, fresh.MaxBy(p => p.Id)!.Name));
            }
            if (news.Count > 0 && await letter.Write(news, $"talk-{person.Key}-{hour.ToUnixTimeSeconds()}", moment, ct)) happened.Add("told of the talk");
        }
    }
}

/// <summary>Whoever wants to hear of a space at once is told of what was said in some minutes.</summary>
public sealed class TellOfTalkAtOnce(BrightContext db, Ids ids, Catalogue catalogue, MemberReader reader) : IDueHandler
{
    sealed record What(long Thread, long From);

    public DueKind Kind => DueKind.TalkAtOnce;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var letter = new TalkLetter(db, ids, catalogue, reader);
        foreach (var item in items)
        {
            var what = JsonSerializer.Deserialize<What>(item.Row.Payload!, CoreJson.Options)!;
            var (thread, from, to) = (what.Thread, Instant.FromUnixTimeSeconds(what.From), item.Row.DueAt);
            var said = await db.TalkPosts.AsNoTracking().Where(p => p.ThreadId == thread && p.GoneAt == null && p.At >= from && p.At < to).ToListAsync(ct);
            if (said.Count == 0) continue;
            var those = await db.Database.SqlQuery<TalkOf>($"""
                select m.id as member, m.name, m.email, m.zone_id, t.id as thread, t.space_id as space, t.title, s.telling, f.follows, coalesce(v.post_id,
                    0) as seen
                from talk_threads t join space_tellings s on s.space_id = t.space_id and s.telling = 'AtOnce'
                join members m on m.id = s.account_id and m.wants_talk join accounts a on a.id = m.id and a.email_confirmed
                left join talk_follows f on f.account_id = m.id and f.thread_id = t.id
                left join talk_seen v on v.account_id = m.id and v.thread_id = t.id
                where t.id = {thread} and t.hidden_at is null order by m.id
                """).ToListAsync(ct);
            foreach (var of in those.Where(o => TellingRule.AtOnce(o.How, o.Follows)))
            {
                var fresh = said.Where(p => p.Id > of.Seen && p.AccountId != of.Member).ToArray();
                if (fresh.Length > 0 && await letter.Write([new(of, fresh.Length, fresh.MaxBy(p => p.Id)!.Name)], $"{item.Row.Key}-{of.Member}", item.Moment,
                    ct))
                    happened.Add("told of the talk");
            }
        }
    }
}
