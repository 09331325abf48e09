using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Members;

/// <summary>Where somebody is signed in: one line for each browser, which they can end.</summary>
public sealed class SignIns(BrightContext db, Ids ids, IClock clock)
{
    /// <summary>As long as a browser that isn't used stays signed in.</summary>
    public const int Days = 60;
    /// <summary>So many are shown; who has more ends them all.</summary>
    public const int Most = 40;

    /// <summary>A browser comes in.</summary>
    /// <param name="agent">What it says of itself; only which kind of machine it is on is kept.</param>
    /// <returns>The number it is known by.</returns>
    public async Task<long> Begin(long account, string? agent, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        // What is over is forgotten with the next one.
        var longAgo = at - Duration.FromDays(365);
        await db.SignIns.Where(s => s.AccountId == account && (s.EndedAt != null || s.LastAt < longAgo)).ExecuteDeleteAsync(ct);
        var made = new SignIn { Id = ids.Next(), AccountId = account, Device = DeviceOf(agent), At = at, LastAt = at };
        db.Add(made);
        await db.SaveChangesAsync(ct);
        return made.Id;
    }

    /// <summary>Those that are open, the last used first.</summary>
    public Task<List<SignIn>> Open(long account, CancellationToken ct)
    {
        var since = clock.GetCurrentInstant() - Duration.FromDays(Days);
        return db.SignIns.AsNoTracking().Where(s => s.AccountId == account && s.EndedAt == null && s.LastAt > since).OrderByDescending(s => s.LastAt)
            .ThenByDescending(s => s.Id).Take(Most).ToListAsync(ct);
    }

    /// <summary>Ends one of theirs. It is out from its next request on.</summary>
    /// <returns>Whether it was open, and theirs.</returns>
    public async Task<bool> End(long account, long id, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        return await db.SignIns.Where(s => s.Id == id && s.AccountId == account && s.EndedAt == null)
            .ExecuteUpdateAsync(u => u.SetProperty(s => s.EndedAt, at), ct) > 0;
    }

    /// <summary>The kind of machine, by common practice of what browsers say of themselves.</summary>
    public static Device DeviceOf(string? agent)
    {
        bool Says(string word) => agent!.Contains(word, StringComparison.Ordinal);
        if (string.IsNullOrEmpty(agent)) return Device.Unknown;
        if (Says("iPad") || Says("Tablet") || Says("Android") && !Says("Mobile")) return Device.Tablet;
        if (Says("Mobile") || Says("iPhone")) return Device.Phone;
        return agent.StartsWith("Mozilla/", StringComparison.Ordinal) ? Device.Computer : Device.Program;
    }
}

/// <summary>When signed-in browsers were last used.</summary>
public sealed class SeenSignIns(NpgsqlDataSource source, IClock clock) : SeenLater<long>(source, clock)
{
    protected override long Number(long key) => key;
    protected override string Sql => """
        update sign_ins s set last_at = greatest(s.last_at, t.at) from (select * from unnest($1::bigint[], $2::timestamptz[]) t(id, at) order by 1) t
        where s.id = t.id
        """;
}
