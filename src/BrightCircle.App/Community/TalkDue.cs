using System.Globalization;
using BrightCircle.App.Due;
using BrightCircle.App.Files;
using BrightCircle.Core;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>What falls due because something was said: the hours at which some are told, and at once for those who want that.</summary>
public static class TalkDue
{
    /// <summary>What is said in so long goes to those who want to know at once in one letter.</summary>
    public static readonly Duration Gathers = Duration.FromMinutes(2);

    /// <summary>As long as anything was said within so long, there is an hour at which it is told of.</summary>
    public static readonly Duration Told = Duration.FromDays(8);

    internal static async Task Put(BrightContext db, Ids ids, SpaceId space, long thread, Instant at, CancellationToken ct)
    {
        await PutHour(db, ids, at, ct);
        if (!await db.SpaceTellings.AnyAsync(t => t.SpaceId == space && t.Telling == Telling.AtOnce, ct)) return;
        var span = at.ToUnixTimeSeconds() / (long)Gathers.TotalSeconds;
        var (from, to) = (Instant.FromUnixTimeSeconds(span * (long)Gathers.TotalSeconds), Instant.FromUnixTimeSeconds((span + 1) * (long)Gathers.TotalSeconds));
        await db.PutDueOnce(ids, DueKind.TalkAtOnce, to, $"talk-now-{thread}-{span}",
            $$"""{"thread":{{thread}},"from":{{from.ToUnixTimeSeconds()}}}""", ct);
    }

    /// <summary>Puts the next full hour in, where it isn't there.</summary>
    /// <param name="isEvening">The next of those hours for which it holds, within a day; null for the very next.</param>
    public static Task PutHour(BrightContext db, Ids ids, Instant at, CancellationToken ct, Func<Instant, bool>? isEvening = null)
    {
        Instant After(int hours) => Instant.FromUnixTimeSeconds((at.ToUnixTimeSeconds() / 3600 + hours) * 3600);
        var next = After(isEvening is null ? 1 : Enumerable.Range(1, 24).FirstOrDefault(h => isEvening(After(h)), 24));
        return db.PutDueOnce(ids, DueKind.TalkHour, next, $"talk-hour-{next.ToUnixTimeSeconds().ToString(CultureInfo.InvariantCulture)}", null, ct);
    }
}

/// <summary>What somebody took away of their own words isn't kept longer than said.</summary>
public sealed class ForgetWords(BrightContext db, IFileStore store) : IDueHandler
{
    public DueKind Kind => DueKind.ForgetWords;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var posts = items.Select(i => i.Row.SubjectId).ToArray();
        await db.TalkPosts.Where(p => posts.Contains(p.Id)).ExecuteUpdateAsync(u => u.SetProperty(p => p.TakenBody, (string?)null), ct);
        await ForgetPicture.Drop(db, store, await db.TalkPictures.AsNoTracking().Where(p => p.PostId != null && posts.Contains(p.PostId.Value)).ToListAsync(ct),
            ct);
    }
}
