using System.Collections.Concurrent;
using BrightCircle.Core;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Members;

/// <summary>
/// When something was last used. A page isn't held up by it: moments are kept here and written together, every few seconds. What a node had not written when
/// it was killed is lost, and is a few seconds.
/// </summary>
public abstract class SeenLater<TKey>(NpgsqlDataSource source, IClock clock) : IWrittenLater where TKey : notnull
{
    /// <summary>What is used again within this time is noted once.</summary>
    static readonly Duration Within = Duration.FromMinutes(10);
    const int MostKept = 50_000;
    readonly ConcurrentDictionary<TKey, Instant> waiting = new();
    ConcurrentDictionary<TKey, Instant> known = new();
    int knownCount;

    /// <summary>Writes numbers ($1) with their moments ($2), in the order of numbers, so that two nodes never wait for each other.</summary>
    protected abstract string Sql { get; }
    protected abstract long Number(TKey key);

    public void Here(TKey key)
    {
        var at = clock.GetCurrentInstant();
        if (known.TryGetValue(key, out var was) && at - was < Within && at >= was) return;
        if (Interlocked.Increment(ref knownCount) > MostKept) (known, knownCount) = (new(), 0);
        known[key] = at;
        waiting[key] = at;
    }

    public async Task Write(CancellationToken ct)
    {
        var taken = new List<(TKey Key, Instant At)>();
        foreach (var key in waiting.Keys)
            if (waiting.TryRemove(key, out var at)) taken.Add((key, at));
        if (taken.Count == 0) return;
        try
        {
            await using var command = source.CreateCommand(Sql);
            command.Parameters.Add(new() { Value = taken.Select(t => Number(t.Key)).ToArray() });
            command.Parameters.Add(new() { Value = taken.Select(t => t.At).ToArray() });
            await command.ExecuteNonQueryAsync(ct);
        }
        catch
        {
            foreach (var t in taken) waiting.TryAdd(t.Key, t.At);
            throw;
        }
    }
}

/// <summary>When members were last here. Who was taken away meanwhile isn't noted any more.</summary>
public sealed class SeenMembers(NpgsqlDataSource source, IClock clock) : SeenLater<MemberId>(source, clock)
{
    protected override long Number(MemberId key) => key.Value;
    protected override string Sql => """
        insert into last_seen as s (member_id, at)
        select t.member_id, t.at from unnest($1::bigint[], $2::timestamptz[]) t(member_id, at) join members m on m.id = t.member_id order by 1
        on conflict (member_id) do update set at = greatest(s.at, excluded.at)
        """;
}
