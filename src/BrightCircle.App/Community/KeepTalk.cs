using System.Globalization;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>What the team does for the talk: a thread first, a thread closed, words taken away and put back.</summary>
public sealed class KeepTalk(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, IClock clock)
{
    Task Need(TeamActor by, long thread, CancellationToken ct) => Keeping.Need(db, catalogue.Now, by, thread, ct);

    public async Task<Result> Pin(TeamActor by, long thread, bool pinned, CancellationToken ct)
    {
        await Need(by, thread, ct);
        var at = pinned ? clock.GetCurrentInstant() : (Instant?)null;
        return await db.TalkThreads.Where(t => t.Id == thread).ExecuteUpdateAsync(u => u.SetProperty(t => t.PinnedAt, at), ct) > 0 ? Result.Done : Gone;
    }

    public async Task<Result> Close(TeamActor by, long thread, bool closed, CancellationToken ct)
    {
        await Need(by, thread, ct);
        var at = closed ? clock.GetCurrentInstant() : (Instant?)null;
        return await db.TalkThreads.Where(t => t.Id == thread).ExecuteUpdateAsync(u => u.SetProperty(t => t.ClosedAt, at), ct) > 0 ? Result.Done : Gone;
    }

    /// <summary>Takes a thread away with all that is in it, or puts it back.</summary>
    public async Task<Result> Hide(TeamActor by, long thread, bool hidden, CancellationToken ct)
    {
        await Need(by, thread, ct);
        if (await db.TalkThreads.FirstOrDefaultAsync(t => t.Id == thread && t.MergedId == null, ct) is not { } found) return Gone;
        if (!hidden && await db.TalkPosts.AnyAsync(p => p.ThreadId == thread && p.IsFirst && p.Held != null, ct))
            return Result.Refused("What it began with waits until the team has seen it: let it stand under “Keeping it good”.");
        found.HiddenAt = hidden ? clock.GetCurrentInstant() : null;
        deeds.Note(by, $"{(hidden ? "took away" : "put back")} the thread “{found.Title}”", $"/spaces/threads/{thread}");
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>Takes somebody's words away, or puts them back. What they took away themselves stays so.</summary>
    public async Task<Result> HidePost(TeamActor by, long post, bool hidden, CancellationToken ct)
    {
        await Keeping.NeedOfPost(db, catalogue.Now, by, post, ct);
        if (await db.TalkPosts.FirstOrDefaultAsync(p => p.Id == post, ct) is not { } found || found.GoneAt is not null && !found.GoneByTeam) return Gone;
        if (found.GoneAt is not null == hidden) return Result.Done;
        (found.GoneAt, found.GoneByTeam) = (hidden ? clock.GetCurrentInstant() : null, hidden);
        deeds.Note(by, $"{(hidden ? "took away" : "put back")} what {found.Name} wrote in a thread", $"/spaces/threads/{found.ThreadId}#p{post}");
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>In a space of questions: the answer that helped; null for none.</summary>
    public async Task<Result> Helped(TeamActor by, long thread, long? post, CancellationToken ct)
    {
        await Need(by, thread, ct);
        if (post is { } p && !await db.TalkPosts.AnyAsync(x => x.Id == p && x.ThreadId == thread && !x.IsFirst && x.GoneAt == null, ct)) return Gone;
        return await db.TalkThreads.Where(t => t.Id == thread).ExecuteUpdateAsync(u => u.SetProperty(t => t.HelpedId, post), ct) > 0 ? Result.Done : Gone;
    }

    /// <summary>Puts a thread into another space, with all that is in it.</summary>
    public async Task<Result> Move(TeamActor by, long thread, SpaceId space, CancellationToken ct)
    {
        await Need(by, thread, ct);
        Keeping.Need(catalogue.Now, by, space);
        if (await db.TalkThreads.FirstOrDefaultAsync(t => t.Id == thread && t.MergedId == null, ct) is not { } found) return Gone;
        if (!catalogue.Now.SpaceById.TryGetValue(space, out var into)) return Result.Refused("Choose the space it belongs in.");
        if (into.ByEdition) return Result.Refused("Nobody talks in that one: choose one that opened with an edition.");
        if (found.SpaceId == space) return Result.Done;
        found.SpaceId = space;
        deeds.Note(by, $"put the thread “{found.Title}” into {into.Name}", $"/spaces/threads/{thread}");
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>
    /// Puts what was said in a thread into another one. All of it stands there in the order in which it was said, what began it too; whoever comes to where
    /// it was goes there, and whoever followed it follows that.
    /// </summary>
    /// <param name="into">The number of the other thread, or its address.</param>
    public async Task<Result<long>> Merge(TeamActor by, long thread, string? into, CancellationToken ct)
    {
        await Need(by, thread, ct);
        if (NumberOf(into) is not { } to) return Result.Refused("Give the address of the other thread, as it stands in the browser.", "Into");
        if (to == thread) return Result.Refused("That is this thread itself.", "Into");
        await Need(by, to, ct);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // In the order of their numbers, so that two who do it the other way round don't wait for each other.
        long[] those = [thread, to];
        var both = await db.TalkThreads.FromSql($"select * from talk_threads where id = any({those}) and merged_id is null order by id for update")
            .AsTracking().ToListAsync(ct);
        if (both.FirstOrDefault(t => t.Id == thread) is not { } from) return Gone;
        if (both.FirstOrDefault(t => t.Id == to) is not { } target) return Result.Refused("There is no such thread.", "Into");
        if (from.HiddenAt is not null || target.HiddenAt is not null) return Result.Refused("One of them is taken away. Put it back first.", "Into");
        if (from.Choices is not null) return Result.Refused("It asks for a choice, and what was chosen would be lost. Close it instead.", "Into");
        var first = await db.TalkPosts.Where(p => p.IsFirst && (p.ThreadId == thread || p.ThreadId == to)).OrderBy(p => p.Id).Select(p => p.Id).FirstAsync(ct);
        // What began later becomes an answer; the earlier one is what all of it began with.
        await db.TalkPosts.Where(p => p.ThreadId == thread || p.ThreadId == to).ExecuteUpdateAsync(u => u.SetProperty(p => p.ThreadId, to)
            .SetProperty(p => p.IsFirst, p => p.Id == first).SetProperty(p => p.AnswersId, p => p.AnswersId == first ? null : p.AnswersId), ct);
        await db.Database.ExecuteSqlAsync($"""
            insert into talk_follows (account_id, thread_id, follows) select account_id, {to}, follows from talk_follows where thread_id = {thread}
            on conflict do nothing
            """, ct);
        // Read is what was read in both.
        await db.Database.ExecuteSqlAsync($"""
            delete from talk_seen where thread_id = {to} and account_id not in (select account_id from talk_seen where thread_id = {thread})
            """, ct);
        await db.Database.ExecuteSqlAsync($"""
            update talk_seen t set post_id = least(t.post_id, f.post_id) from talk_seen f
            where t.thread_id = {to} and f.thread_id = {thread} and f.account_id = t.account_id
            """, ct);
        await db.TalkSeen.Where(s => s.ThreadId == thread).ExecuteDeleteAsync(ct);
        await db.TalkFollows.Where(s => s.ThreadId == thread).ExecuteDeleteAsync(ct);
        await Count(target, ct);
        (from.MergedId, from.HiddenAt, from.Answers, from.HelpedId, from.PinnedAt) = (to, clock.GetCurrentInstant(), 0, null, null);
        await db.TalkThreads.Where(t => t.MergedId == thread).ExecuteUpdateAsync(u => u.SetProperty(t => t.MergedId, to), ct);
        deeds.Note(by, $"put the thread “{from.Title}” into “{target.Title}”", $"/spaces/threads/{to}");
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return to;
    }

    /// <summary>Makes a thread of its own of an answer, with what answers it.</summary>
    public async Task<Result<long>> Split(TeamActor by, long post, string? title, CancellationToken ct)
    {
        await Keeping.NeedOfPost(db, catalogue.Now, by, post, ct);
        var words = title?.Trim() ?? "";
        if (words.Length is 0 or > TalkThread.MostTitle) return Result.Refused(words.Length == 0 ? "Give it a title, so that others see what it is about."
            : $"The title is {TalkThread.MostTitle} letters at most.", "Title");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await db.TalkPosts.AsNoTracking().FirstOrDefaultAsync(p => p.Id == post && !p.IsFirst && p.GoneAt == null, ct) is not { } found) return Gone;
        if ((await db.TalkThreads.FromSql($"select * from talk_threads where id = {found.ThreadId} for update").AsTracking().ToListAsync(ct))
            .FirstOrDefault() is not { HiddenAt: null } of) return Gone;
        var made = db.Add(new TalkThread { Id = ids.Next(), SpaceId = of.SpaceId, Title = words, At = found.At, LastAt = found.At }).Entity;
        await db.SaveChangesAsync(ct);
        await db.TalkPosts.Where(p => p.Id == post || p.AnswersId == post).ExecuteUpdateAsync(u => u.SetProperty(p => p.ThreadId, made.Id)
            .SetProperty(p => p.IsFirst, p => p.Id == post).SetProperty(p => p.AnswersId, (long?)null), ct);
        if (of.HelpedId is { } helped && await db.TalkPosts.AnyAsync(p => p.Id == helped && p.ThreadId == made.Id, ct)) of.HelpedId = null;
        // Whoever spoke in it follows it, as they do where they spoke.
        await db.Database.ExecuteSqlAsync($"""
            insert into talk_follows (account_id, thread_id, follows)
            select distinct p.account_id, {made.Id}, true from talk_posts p where p.thread_id = {made.Id} and p.account_id is not null on conflict do nothing
            """, ct);
        await Count(of, ct);
        await Count(made, ct);
        deeds.Note(by, $"made the thread “{words}” of an answer in “{of.Title}”", $"/spaces/threads/{made.Id}");
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return made.Id;
    }

    /// <summary>How many answers a thread has, and when the last of what stands in it was written.</summary>
    async Task Count(TalkThread of, CancellationToken ct)
    {
        var id = of.Id;
        var sums = await db.TalkPosts.Where(p => p.ThreadId == id && p.Held == null).GroupBy(p => p.ThreadId)
            .Select(g => new { Count = g.Count(), Last = g.Max(p => p.At) }).FirstAsync(ct);
        (of.Answers, of.LastAt) = (sums.Count - 1, sums.Last);
    }

    /// <summary>The number at the end of a thread’s address; null where there is none.</summary>
    static long? NumberOf(string? address)
    {
        var digits = (address ?? "").Trim().Split('?', '#')[0].TrimEnd('/').Split('/')[^1];
        return long.TryParse(digits, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;
    }

    static Result Gone => Result.Refused("That isn’t here any more.");
}
