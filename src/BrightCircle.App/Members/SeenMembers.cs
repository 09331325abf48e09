using System.Collections.Concurrent;
using BrightCircle.Core;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Members;

/// <summary>
/// When members were last here. A page isn't held up by it: moments are kept here and written together, every few seconds. What a node had not written when
/// it was killed is lost, and is a few seconds.
/// </summary>
public sealed class SeenMembers(NpgsqlDataSource source, IClock clock) : IWrittenLater
{
    /// <summary>Somebody who is here is noted once within this time.</summary>
    static readonly Duration Within = Duration.FromMinutes(10);
    const int MostKept = 50_000;
    readonly ConcurrentDictionary<MemberId, Instant> waiting = new();
    ConcurrentDictionary<MemberId, Instant> known = new();
    int knownCount;

    public void Here(MemberId member)
    {
        var at = clock.GetCurrentInstant();
        if (known.TryGetValue(member, out var was) && at - was < Within && at >= was) return;
        if (Interlocked.Increment(ref knownCount) > MostKept) (known, knownCount) = (new(), 0);
        known[member] = at;
        waiting[member] = at;
    }

    public async Task Write(CancellationToken ct)
    {
        var taken = new List<(long Member, Instant At)>();
        foreach (var key in waiting.Keys)
            if (waiting.TryRemove(key, out var at)) taken.Add((key.Value, at));
        if (taken.Count == 0) return;
        try
        {
            // In the order of numbers, so that two nodes never wait for each other; who was taken away meanwhile isn't noted any more.
            await using var command = source.CreateCommand("""
                insert into last_seen as s (member_id, at)
                select t.member_id, t.at from unnest($1::bigint[], $2::timestamptz[]) t(member_id, at) join members m on m.id = t.member_id order by 1
                on conflict (member_id) do update set at = greatest(s.at, excluded.at)
                """);
            command.Parameters.Add(new() { Value = taken.Select(t => t.Member).ToArray() });
            command.Parameters.Add(new() { Value = taken.Select(t => t.At).ToArray() });
            await command.ExecuteNonQueryAsync(ct);
        }
        catch
        {
            foreach (var t in taken) waiting.TryAdd(new(t.Member), t.At);
            throw;
        }
    }
}
