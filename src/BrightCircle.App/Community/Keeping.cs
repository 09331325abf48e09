using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Community;

/// <summary>Who of the team keeps which space: owners and editors every one, hosts those whose hosts they are.</summary>
public static class Keeping
{
    public static bool IsKeptBy(this Space space, TeamRole? role, long account) =>
        role is TeamRole.Owner or TeamRole.Editor || role is TeamRole.Host && space.IsHostedBy(account);

    /// <summary>Asks that somebody keeps talk at all; in which spaces is another question.</summary>
    /// <exception cref="NotAllowedException">They don’t.</exception>
    internal static void NeedAny(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host);

    /// <summary>Asks that somebody keeps every space, for what is of all of them.</summary>
    /// <exception cref="NotAllowedException">They keep some only, or none.</exception>
    internal static void NeedAll(CatalogueSnapshot now, TeamActor by)
    {
        NeedAny(by);
        if (Those(now, by) is not null) throw new NotAllowedException($"{by.Name} keeps some of the spaces only.");
    }

    /// <exception cref="NotAllowedException">They don’t keep this space.</exception>
    internal static void Need(CatalogueSnapshot now, TeamActor by, SpaceId space)
    {
        NeedAny(by);
        if (now.SpaceById.TryGetValue(space, out var found) && !found.IsKeptBy(by.Role, by.AccountId))
            throw new NotAllowedException($"{by.Name} is no host of {found.Name}.");
    }

    /// <summary>The same, for the space a thread is in; what isn’t there is nobody’s.</summary>
    internal static Task Need(BrightContext db, CatalogueSnapshot now, TeamActor by, long thread, CancellationToken ct) =>
        Need(db.TalkThreads.Where(t => t.Id == thread), now, by, ct);

    /// <summary>The same, for the space a post is in.</summary>
    internal static Task NeedOfPost(BrightContext db, CatalogueSnapshot now, TeamActor by, long post, CancellationToken ct) =>
        Need(db.TalkThreads.Where(t => db.TalkPosts.Any(p => p.Id == post && p.ThreadId == t.Id)), now, by, ct);

    static async Task Need(IQueryable<TalkThread> thread, CatalogueSnapshot now, TeamActor by, CancellationToken ct)
    {
        NeedAny(by);
        // Whoever keeps every space isn’t asked in which it is.
        if (Those(now, by) is not null && await thread.Select(t => (SpaceId?)t.SpaceId).FirstOrDefaultAsync(ct) is { } space) Need(now, by, space);
    }

    /// <summary>Of what waits in each space, how much waits for them: in those they keep.</summary>
    internal static int Sum(CatalogueSnapshot now, TeamActor by, IEnumerable<(SpaceId Space, int Count)> waits) =>
        waits.Where(w => now.SpaceById.TryGetValue(w.Space, out var space) && space.IsKeptBy(by.Role, by.AccountId)).Sum(w => w.Count);

    /// <summary>The spaces they keep; null where that is every one.</summary>
    internal static SpaceId[]? Those(CatalogueSnapshot now, TeamActor by) => now.Spaces.All(s => s.IsKeptBy(by.Role, by.AccountId)) ? null
        : [.. now.Spaces.Where(s => s.IsKeptBy(by.Role, by.AccountId)).Select(s => s.Id)];
}
