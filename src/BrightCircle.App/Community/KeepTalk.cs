using BrightCircle.App.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>What the team does for the talk: a thread first, a thread closed, words taken away and put back.</summary>
public sealed class KeepTalk(BrightContext db, Deeds deeds, IClock clock)
{
    static void Need(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host);

    public async Task<Result> Pin(TeamActor by, long thread, bool pinned, CancellationToken ct)
    {
        Need(by);
        var at = pinned ? clock.GetCurrentInstant() : (Instant?)null;
        return await db.TalkThreads.Where(t => t.Id == thread).ExecuteUpdateAsync(u => u.SetProperty(t => t.PinnedAt, at), ct) > 0 ? Result.Done : Gone;
    }

    public async Task<Result> Close(TeamActor by, long thread, bool closed, CancellationToken ct)
    {
        Need(by);
        var at = closed ? clock.GetCurrentInstant() : (Instant?)null;
        return await db.TalkThreads.Where(t => t.Id == thread).ExecuteUpdateAsync(u => u.SetProperty(t => t.ClosedAt, at), ct) > 0 ? Result.Done : Gone;
    }

    /// <summary>Takes a thread away with all that is in it, or puts it back.</summary>
    public async Task<Result> Hide(TeamActor by, long thread, bool hidden, CancellationToken ct)
    {
        Need(by);
        if (await db.TalkThreads.FirstOrDefaultAsync(t => t.Id == thread, ct) is not { } found) return Gone;
        found.HiddenAt = hidden ? clock.GetCurrentInstant() : null;
        deeds.Note(by, $"{(hidden ? "took away" : "put back")} the thread “{found.Title}”", $"/spaces/threads/{thread}");
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>Takes somebody's words away, or puts them back. What they took away themselves stays so.</summary>
    public async Task<Result> HidePost(TeamActor by, long post, bool hidden, CancellationToken ct)
    {
        Need(by);
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
        Need(by);
        if (post is { } p && !await db.TalkPosts.AnyAsync(x => x.Id == p && x.ThreadId == thread && !x.IsFirst && x.GoneAt == null, ct)) return Gone;
        return await db.TalkThreads.Where(t => t.Id == thread).ExecuteUpdateAsync(u => u.SetProperty(t => t.HelpedId, post), ct) > 0 ? Result.Done : Gone;
    }

    static Result Gone => Result.Refused("That isn’t here any more.");
}
