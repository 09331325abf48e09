using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>What somebody says doesn’t belong, with what it is about.</summary>
/// <param name="Kept">The words, also where whoever wrote them took them away meanwhile.</param>
public sealed record Reported(TalkReport Report, TalkPost Post, string Thread, string Kept);

/// <summary>Keeping the talk good: what members report, and what the team does about it.</summary>
public sealed class CareTalk(BrightContext db, Ids ids, Deeds deeds, Tell tell, IClock clock)
{
    public const int MostDays = 365, MostAnHour = 10;

    static void Need(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host);

    /// <summary>Says that what somebody wrote doesn’t belong. Said twice it is the same report.</summary>
    public async Task<Result> Report(SpaceReader by, long post, string? why, CancellationToken ct)
    {
        if (by.IsOnlyLooking) return Result.Refused("Here you only look.");
        var words = why?.Trim() ?? "";
        if (words.Length is 0 or > TalkReport.MostWhy)
            return Result.Refused(words.Length == 0 ? "Say in a few words what is wrong with it." : $"{TalkReport.MostWhy} letters are the most.", "Why");
        var found = await db.TalkPosts.AsNoTracking().FirstOrDefaultAsync(p => p.Id == post && p.GoneAt == null
            && db.TalkThreads.Any(t => t.Id == p.ThreadId && t.SpaceId == by.Space.Id && t.HiddenAt == null), ct);
        if (found is null || found.AccountId == by.Account) return Gone;
        var at = clock.GetCurrentInstant();
        if (await db.TalkReports.CountAsync(r => r.AccountId == by.Account && r.At > at - Duration.FromHours(1), ct) >= MostAnHour)
            return Result.Refused("That is a lot for an hour. Write to us instead.");
        await db.Database.ExecuteSqlAsync($"""
            insert into talk_reports (id, post_id, account_id, name, why, at) values ({ids.Next()}, {post}, {by.Account}, {by.Name}, {words}, {at})
            on conflict (post_id, account_id) do nothing
            """, ct);
        return Result.Done;
    }

    /// <summary>What waits to be looked at, the oldest first; or what was settled, the newest first. And who can't write just now, with why.</summary>
    public async Task<(IReadOnlyList<Reported> Rows, int Count, IReadOnlyList<(TalkBar Bar, string Name)> Bars)> Reports(bool settled, int page, int size,
        CancellationToken ct)
    {
        var those = db.TalkReports.AsNoTracking().Where(r => r.SettledAt != null == settled);
        var ordered = settled ? those.OrderByDescending(r => r.SettledAt).ThenByDescending(r => r.Id) : those.OrderBy(r => r.At).ThenBy(r => r.Id);
        var trip = new OneTrip(db);
        var count = trip.Count(those);
        var bars = trip.List(BarsNow.Join(db.Users, b => b.AccountId, a => a.Id, (b, a) => new { Bar = b, a.Name }));
        var rows = trip.List(ordered.Skip((page - 1) * size).Take(size).Join(db.TalkPosts, r => r.PostId, p => p.Id, (r, p) => new { Report = r, Post = p })
            .Join(db.TalkThreads, x => x.Post.ThreadId, t => t.Id, (x, t) => new { x.Report, x.Post, t.Title }));
        await trip.Ask(ct);
        var list = rows.Value.Select(x => new Reported(x.Report, x.Post, x.Title, x.Post.Body.Length > 0 ? x.Post.Body : x.Post.TakenBody ?? ""));
        return ([.. settled ? list.OrderByDescending(x => x.Report.SettledAt).ThenByDescending(x => x.Report.Id)
            : list.OrderBy(x => x.Report.At).ThenBy(x => x.Report.Id)], count.Value,
            [.. bars.Value.OrderBy(r => r.Bar.Until).Select(r => (r.Bar, r.Name))]);
    }

    /// <summary>Settles what was reported of a post, everybody’s reports of it together.</summary>
    /// <param name="words">To whoever wrote it; empty for nothing to say.</param>
    public async Task<Result> Settle(TeamActor by, long report, ReportOutcome outcome, string? words, CancellationToken ct)
    {
        Need(by);
        if (!Enum.IsDefined(outcome)) return Result.Refused("Choose what becomes of it.");
        var text = words?.Trim() ?? "";
        if (text.Length > TalkBar.MostWhy) return Result.Refused($"{TalkBar.MostWhy} letters are the most.");
        if (await db.TalkReports.AsNoTracking().FirstOrDefaultAsync(r => r.Id == report, ct) is not { } about
            || await db.TalkPosts.FirstOrDefaultAsync(p => p.Id == about.PostId, ct) is not { } post) return Gone;
        var at = clock.GetCurrentInstant();
        foreach (var one in await db.TalkReports.Where(r => r.PostId == post.Id && r.SettledAt == null).ToListAsync(ct))
            (one.SettledAt, one.SettledBy, one.Outcome) = (at, by.Name, outcome);
        if (outcome == ReportOutcome.TakenAway && post.GoneAt is null)
        {
            (post.GoneAt, post.GoneByTeam) = (at, true);
            deeds.Note(by, $"took away what {post.Name} wrote in a thread", $"/spaces/threads/{post.ThreadId}#p{post.Id}");
        }
        if (text.Length > 0)
            await Say(by, post, outcome == ReportOutcome.TakenAway ? TalkCareKind.TakenAway : TalkCareKind.Warned, text, null, at, ct);
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    async Task Say(TeamActor by, TalkPost post, TalkCareKind what, string words, Instant? until, Instant at, CancellationToken ct)
    {
        if (post.AccountId is not { } account || await db.Members.FirstOrDefaultAsync(m => m.Id == new MemberId(account), ct) is not { } member) return;
        var title = await db.TalkThreads.Where(t => t.Id == post.ThreadId).Select(t => t.Title).FirstAsync(ct);
        tell.Of(member, new Event.TalkCared(what, title, words, until), at, by);
    }

    /// <summary>Keeps a member from writing in spaces for some days. They are told why, and can answer.</summary>
    public async Task<Result> Bar(TeamActor by, MemberId id, int days, string? why, CancellationToken ct)
    {
        Need(by);
        var words = why?.Trim() ?? "";
        if (days is < 1 or > MostDays) return Result.Refused($"From 1 to {MostDays} days.", "Days");
        if (words.Length is 0 or > TalkBar.MostWhy)
            return Result.Refused(words.Length == 0 ? "Say why: they read it." : $"{TalkBar.MostWhy} letters are the most.", "Why");
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == id, ct) is not { IsForgotten: false } member) return Gone;
        var at = clock.GetCurrentInstant();
        var bar = await db.TalkBars.FirstOrDefaultAsync(b => b.AccountId == id.Value, ct) ?? db.Add(new TalkBar { AccountId = id.Value }).Entity;
        (bar.Until, bar.Why, bar.By, bar.At) = (at + Duration.FromDays(days), words, by.Name, at);
        tell.Of(member, new Event.TalkCared(TalkCareKind.Barred, "", words, bar.Until), at, by);
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>Lets somebody write again.</summary>
    public async Task<Result> LetWrite(TeamActor by, MemberId id, CancellationToken ct)
    {
        Need(by);
        if (await db.TalkBars.Where(b => b.AccountId == id.Value).ExecuteDeleteAsync(ct) == 0) return Gone;
        await deeds.Write(by, "let a member write in spaces again", $"/desk/members/{id.Value}", ct);
        return Result.Done;
    }

    /// <summary>Who can't write just now; whose time is over first.</summary>
    IQueryable<TalkBar> BarsNow
    {
        get
        {
            var at = clock.GetCurrentInstant();
            return db.TalkBars.AsNoTracking().Where(b => b.Until > at).OrderBy(b => b.Until).Take(200);
        }
    }

    static Result Gone => Result.Refused("That isn’t here any more.");
}
