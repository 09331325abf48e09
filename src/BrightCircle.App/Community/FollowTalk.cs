using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Community;

/// <summary>Of what somebody wants to be told.</summary>
public sealed class FollowTalk(BrightContext db)
{
    /// <summary>Follows a thread, or wants to hear nothing of it.</summary>
    public async Task<Result> Thread(SpaceReader by, long thread, bool follows, CancellationToken ct)
    {
        if (by.IsOnlyLooking) return Result.Refused("Here you only look.");
        var put = await db.Database.ExecuteSqlAsync($"""
            insert into talk_follows (account_id, thread_id, follows)
            select {by.Account}, t.id, {follows} from talk_threads t where t.id = {thread} and t.space_id = {by.Space.Id.Value} and t.hidden_at is null
            on conflict (account_id, thread_id) do update set follows = excluded.follows
            """, ct);
        return put > 0 ? Result.Done : Result.Refused("That isn’t here any more.");
    }

    public async Task<Result> Space(SpaceReader by, Telling telling, CancellationToken ct)
    {
        if (by.IsOnlyLooking) return Result.Refused("Here you only look.");
        if (!Enum.IsDefined(telling)) return Result.Refused("Choose how often.", "Telling");
        await db.Database.ExecuteSqlAsync($"""
            insert into space_tellings (account_id, space_id, telling) values ({by.Account}, {by.Space.Id.Value}, {telling.ToString()})
            on conflict (account_id, space_id) do update set telling = excluded.telling
            """, ct);
        return Result.Done;
    }
}
