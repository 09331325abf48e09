using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>What somebody says doesn’t belong, with what it is about.</summary>
/// <param name="Kept">The words, also where whoever wrote them took them away meanwhile.</param>
public sealed record Reported(TalkReport Report, TalkPost Post, string Thread, string Kept);

/// <summary>What there is to look at: a page of reports, what waits, and who can’t write for a time.</summary>
/// <param name="InAll">So many reports there are; <paramref name="WaitInAll"/> so many wait.</param>
/// <param name="Unanswered">What nobody has answered, and <paramref name="Quiet"/> who has gone quiet.</param>
public sealed record ToCareFor(IReadOnlyList<Reported> Reports, int InAll, IReadOnlyList<Waits> Waits, int WaitInAll,
    IReadOnlyList<(TalkBar Bar, string Name)> Bars, IReadOnlyList<Unanswered> Unanswered, IReadOnlyList<GoneQuiet> Quiet);

/// <summary>Something that waits until the team has seen it.</summary>
public sealed record Waits(TalkPost Post, string Thread, SpaceId Space, IReadOnlyList<TalkPicture> Pictures);

/// <summary>Keeping the talk good: what members report, and what the team does about it.</summary>
public sealed class CareTalk(BrightContext db, Ids ids, Catalogue catalogue, Talk talk, Deeds deeds, Tell tell, IClock clock)
{
    public const int MostDays = 365, MostAnHour = 10;

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

    /// <summary>Reports to be looked at, the oldest first, with the oldest of what waits; or those that were settled, the newest first. And who can't
    /// write just now, with why.</summary>
    public async Task<ToCareFor> Look(TeamActor by, bool settled, int page, int size, CancellationToken ct)
    {
        Keeping.NeedAny(by);
        var spaces = Keeping.Those(catalogue.Now, by);
        var those = db.TalkReports.AsNoTracking().Where(r => r.SettledAt != null == settled);
        if (spaces is not null) those = those.Where(r => db.TalkPosts.Any(p => p.Id == r.PostId
            && db.TalkThreads.Any(t => t.Id == p.ThreadId && spaces.Contains(t.SpaceId))));
        var ordered = settled ? those.OrderByDescending(r => r.SettledAt).ThenByDescending(r => r.Id) : those.OrderBy(r => r.At).ThenBy(r => r.Id);
        var trip = new OneTrip(db);
        var count = trip.Count(those);
        var bars = trip.List(BarsNow.Join(db.Users, b => b.AccountId, a => a.Id, (b, a) => new { Bar = b, a.Name }));
        var rows = trip.List(ordered.Skip((page - 1) * size).Take(size).Join(db.TalkPosts, r => r.PostId, p => p.Id, (r, p) => new { Report = r, Post = p })
            .Join(db.TalkThreads, x => x.Post.ThreadId, t => t.Id, (x, t) => new { x.Report, x.Post, t.Title }));
        var at = clock.GetCurrentInstant();
        var waiting = settled ? null : Waiting(trip, spaces, size);
        var (unanswered, quiet) = settled ? (null, null) : (TalkWants.Waiting(trip, db, at, spaces), TalkWants.Silent(trip, db, at));
        await trip.Ask(ct);
        var (waits, waitInAll) = waiting?.Invoke() ?? ([], 0);
        var list = rows.Value.Select(x => new Reported(x.Report, x.Post, x.Title, x.Post.Body.Length > 0 ? x.Post.Body : x.Post.TakenBody ?? ""));
        return new([.. settled ? list.OrderByDescending(x => x.Report.SettledAt).ThenByDescending(x => x.Report.Id)
            : list.OrderBy(x => x.Report.At).ThenBy(x => x.Report.Id)], count.Value, waits, waitInAll,
            [.. bars.Value.OrderBy(r => r.Bar.Until).Select(r => (r.Bar, r.Name))], unanswered?.Value ?? [], quiet?.Value ?? []);
    }

    /// <summary>Settles what was reported of a post, everybody’s reports of it together.</summary>
    /// <param name="words">To whoever wrote it; empty for nothing to say.</param>
    public async Task<Result> Settle(TeamActor by, long report, ReportOutcome outcome, string? words, CancellationToken ct)
    {
        Keeping.NeedAny(by);
        if (!Enum.IsDefined(outcome)) return Result.Refused("Choose what becomes of it.");
        var text = words?.Trim() ?? "";
        if (text.Length > TalkBar.MostWhy) return Result.Refused($"{TalkBar.MostWhy} letters are the most.");
        if (await db.TalkReports.AsNoTracking().FirstOrDefaultAsync(r => r.Id == report, ct) is not { } about
            || await db.TalkPosts.FirstOrDefaultAsync(p => p.Id == about.PostId, ct) is not { } post) return Gone;
        await Keeping.Need(db, catalogue.Now, by, post.ThreadId, ct);
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

    /// <summary>What waits until the team has seen it, the oldest first.</summary>
    /// <returns>What gives it, once the trip is made.</returns>
    Func<(IReadOnlyList<Waits> Rows, int Count)> Waiting(OneTrip trip, SpaceId[]? spaces, int most)
    {
        var those = db.TalkPosts.AsNoTracking().Where(p => p.Held != null);
        if (spaces is not null) those = those.Where(p => db.TalkThreads.Any(t => t.Id == p.ThreadId && spaces.Contains(t.SpaceId)));
        var count = trip.Count(those);
        var shown = those.OrderBy(p => p.Id).Take(most);
        var rows = trip.List(shown.Join(db.TalkThreads, p => p.ThreadId, t => t.Id, (p, t) => new { Post = p, t.Title, t.SpaceId }));
        var pictures = trip.List(db.TalkPictures.AsNoTracking().Where(x => shown.Any(p => p.Id == x.PostId)).OrderBy(x => x.Place));
        return () =>
        {
            var by = pictures.Value.ToLookup(x => x.PostId!.Value);
            return ([.. rows.Value.OrderBy(r => r.Post.Id).Select(r => new Waits(r.Post, r.Title, r.SpaceId, [.. by[r.Post.Id]]))], count.Value);
        };
    }

    /// <summary>Whether the owners are written to in the mornings about what nobody has answered.</summary>
    public async Task<Result> Write(TeamActor by, bool writes, CancellationToken ct)
    {
        by.NeedOwner();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var site = await db.Sites.SingleAsync(ct);
        site.OwnerLetters = site.OwnerLetters with { Talk = writes };
        if (writes) await OwnerMorning.PutNext(db, ids, catalogue.Now.Calendar, clock.GetCurrentInstant(), ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>Lets what waited stand: everybody sees it from now on, as said just now.</summary>
    public async Task<Result> LetStand(TeamActor by, long post, CancellationToken ct)
    {
        await Keeping.NeedOfPost(db, catalogue.Now, by, post, ct);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Held(post, ct) is not var (held, of)) return Gone;
        var at = clock.GetCurrentInstant();
        (held.Held, held.GoneAt, held.At, of.LastAt) = (null, null, at, at);
        if (held.IsFirst) of.HiddenAt = null;
        else of.Answers++;
        await db.SaveChangesAsync(ct);
        // Where the thread was taken away meanwhile nobody is told.
        if (of.HiddenAt is null) await talk.Stands(of.SpaceId, held, ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    /// <summary>Doesn’t let what waited stand.</summary>
    /// <param name="words">To whoever wrote it; empty for nothing to say.</param>
    public async Task<Result> LetGo(TeamActor by, long post, string? words, CancellationToken ct)
    {
        await Keeping.NeedOfPost(db, catalogue.Now, by, post, ct);
        var text = words?.Trim() ?? "";
        if (text.Length > TalkBar.MostWhy) return Result.Refused($"{TalkBar.MostWhy} letters are the most.");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await Held(post, ct) is not var (held, of)) return Gone;
        var at = clock.GetCurrentInstant();
        (held.Held, held.GoneByTeam) = (null, true);
        if (!held.IsFirst) of.Answers++;
        deeds.Note(by, $"didn’t let stand what {held.Name} wrote in a space", $"/spaces/threads/{of.Id}#p{held.Id}");
        if (text.Length > 0) await Say(by, held, TalkCareKind.TakenAway, text, null, at, ct);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    /// <summary>What waits, with its thread, whose row is locked.</summary>
    async Task<(TalkPost Post, TalkThread Thread)?> Held(long post, CancellationToken ct)
    {
        if (await db.TalkPosts.AsNoTracking().FirstOrDefaultAsync(p => p.Id == post && p.Held != null, ct) is not { ThreadId: var id }) return null;
        var of = (await db.TalkThreads.FromSql($"select * from talk_threads where id = {id} for update").AsTracking().ToListAsync(ct)).FirstOrDefault();
        // Of two who press at once the second finds that it doesn't wait any more.
        return of is not null && await db.TalkPosts.FirstOrDefaultAsync(p => p.Id == post && p.Held != null, ct) is { } held ? (held, of) : null;
    }

    /// <summary>Says what waits until the team has seen it.</summary>
    /// <param name="words">A word or phrase a line.</param>
    public async Task<Result> SaveHolds(TeamActor by, bool firstPosts, bool links, string? words, CancellationToken ct)
    {
        by.NeedOwner();
        string[] list = [.. (words ?? "").Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Distinct(StringComparer.OrdinalIgnoreCase)];
        if (list.Length > HoldRules.MostWords) return Result.Refused($"{HoldRules.MostWords} lines are the most.", "Words");
        if (list.FirstOrDefault(w => w.Length > HoldRules.MostWord) is { } tooLong)
            return Result.Refused($"“{Bounded.To(tooLong, 20)}…” is too long: {HoldRules.MostWord} letters a line are the most.", "Words");
        var site = await db.Sites.SingleAsync(s => s.Id == Site.TheOnly, ct);
        site.Holds = new(firstPosts, links, list);
        deeds.Note(by, "changed what waits in spaces until the team has seen it", "/desk/talk");
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
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
        Keeping.NeedAll(catalogue.Now, by);
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
        Keeping.NeedAll(catalogue.Now, by);
        if (await db.TalkBars.Where(b => b.AccountId == id.Value).ExecuteDeleteAsync(ct) == 0) return Gone;
        await deeds.Write(by, "let a member write in spaces again", $"/desk/members/{id.Value}", ct);
        return Result.Done;
    }

    /// <summary>Whether they keep every space: whoever can’t write can’t in any.</summary>
    public bool MayBar(TeamActor by) => Keeping.Those(catalogue.Now, by) is null;

    /// <exception cref="NotAllowedException">They don’t.</exception>
    public void NeedBar(TeamActor by) => Keeping.NeedAll(catalogue.Now, by);

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
