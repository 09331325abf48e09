using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>Threads that ask for a choice.</summary>
public sealed class Choosing(BrightContext db, Talk talk, IClock clock)
{
    /// <summary>Reads what can be chosen, a line each.</summary>
    public static Result<IReadOnlyList<string>> Read(string? typed)
    {
        string[] lines = [.. (typed ?? "").Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Distinct(StringComparer.CurrentCultureIgnoreCase)];
        if (lines.Length is 1 or > TalkThread.MostChoices)
            return Result.Refused($"Give what can be chosen, a line each: two at least, {TalkThread.MostChoices} at most.", "Choices");
        if (lines.Any(l => l.Length > TalkThread.MostChoice)) return Result.Refused($"A choice is {TalkThread.MostChoice} letters at most.", "Choices");
        return new Result<IReadOnlyList<string>>(lines, null);
    }

    /// <summary>Chooses, or chooses another; until the thread is closed.</summary>
    /// <param name="choice">Its place, from 0.</param>
    public async Task<Result> Do(SpaceReader by, long thread, int choice, CancellationToken ct)
    {
        if (await talk.Refused(by, ct) is { } refused) return refused;
        var (at, space) = (clock.GetCurrentInstant(), by.Space.Id.Value);
        var put = await db.Database.ExecuteSqlAsync($"""
            insert into talk_votes (thread_id, account_id, choice, at)
            select t.id, {by.Account}, {choice}, {at} from talk_threads t
            where t.id = {thread} and t.space_id = {space} and t.hidden_at is null and t.closed_at is null and t.choices is not null
              and {choice} between 0 and jsonb_array_length(t.choices) - 1
            on conflict (thread_id, account_id) do update set choice = excluded.choice, at = excluded.at
            """, ct);
        return put > 0 ? Result.Done : Result.Refused("That can’t be chosen any more.");
    }
}
