using BrightCircle.Core;
using BrightCircle.Core.Members;
using NodaTime;
using Npgsql;

namespace BrightCircle.Data;

/// <summary>Who is signed in, and all that access decisions about them rest on: read in one round trip.</summary>
public sealed record SignedIn(long AccountId, string Name, string Email, TeamRole? Role, string SecurityStamp, bool HasPassword, Standing Standing, Instant? JoinedAt, bool WantsNews, IReadOnlyList<Holding> Holdings)
{
    public bool IsTeam => Role is not null;
    public MemberId MemberId => new(AccountId);
}

public sealed record PieceReading(string Html, Instant? DoneAt);

public sealed record OpeningState(PieceId Piece, Instant FirstAt, Instant LastAt, Instant? DoneAt);

/// <summary>The hot reads and notes of the member side, as prepared commands on a plain connection: one round trip each.</summary>
public sealed class MemberReader(NpgsqlDataSource source, Ids ids)
{
    public async Task<SignedIn?> Load(long account, CancellationToken ct)
    {
        await using var batch = source.CreateBatch();
        Add(batch, """
            select a.id, a.name, a.email, a.role, a.security_stamp, a.password_hash is not null, m.standing, m.joined_at, coalesce(m.wants_news, false)
            from accounts a left join members m on m.id = a.id where a.id = $1
            """, account);
        Add(batch, """
            select h.id, h.plan_id, h.price_id, h.source, h.starts_at, h.anchor, h.is_over, f.id, f.kind, f.at, f."from", f."to", f.reason
            from holdings h left join holding_facts f on f.holding_id = h.id where h.member_id = $1 order by h.id, f.id
            """, account);
        await using var r = await batch.ExecuteReaderAsync(ct);
        if (!await r.ReadAsync(ct)) return null;
        var holdings = new List<Holding>();
        var signedIn = new SignedIn(r.GetInt64(0), r.GetString(1), r.GetString(2), r.IsDBNull(3) ? null : Enum.Parse<TeamRole>(r.GetString(3)), r.GetString(4), r.GetBoolean(5),
            r.IsDBNull(6) ? Standing.Guest : Enum.Parse<Standing>(r.GetString(6)), r.IsDBNull(7) ? null : r.GetFieldValue<Instant>(7), r.GetBoolean(8), holdings);
        await r.NextResultAsync(ct);
        while (await r.ReadAsync(ct))
        {
            var id = new HoldingId(r.GetInt64(0));
            if (holdings.Count == 0 || holdings[^1].Id != id)
                holdings.Add(new()
                {
                    Id = id,
                    MemberId = new(account),
                    PlanId = new(r.GetInt64(1)),
                    PriceId = r.IsDBNull(2) ? null : new(r.GetInt64(2)),
                    Source = Enum.Parse<HoldingSource>(r.GetString(3)),
                    StartsAt = r.GetFieldValue<Instant>(4),
                    Anchor = r.GetFieldValue<Instant>(5),
                    IsOver = r.GetBoolean(6),
                });
            if (!r.IsDBNull(7))
                holdings[^1].Facts.Add(HoldingFact.Stored(new(r.GetInt64(7)), id, Enum.Parse<HoldingFactKind>(r.GetString(8)), r.GetFieldValue<Instant>(9),
                    r.GetFieldValue<Instant>(10), r.IsDBNull(11) ? null : r.GetFieldValue<Instant>(11), r.IsDBNull(12) ? null : Enum.Parse<EndReason>(r.GetString(12))));
        }
        return signedIn;
    }

    public async Task<IReadOnlyList<OpeningState>> Openings(MemberId member, CancellationToken ct)
    {
        await using var command = source.CreateCommand("select piece_id, first_at, last_at, done_at from openings where member_id = $1");
        command.Parameters.Add(new() { Value = member.Value });
        await using var r = await command.ExecuteReaderAsync(ct);
        var list = new List<OpeningState>();
        while (await r.ReadAsync(ct))
            list.Add(new(new(r.GetInt64(0)), r.GetFieldValue<Instant>(1), r.GetFieldValue<Instant>(2), r.IsDBNull(3) ? null : r.GetFieldValue<Instant>(3)));
        return list;
    }

    /// <summary>The text of a piece; with a member, also notes that they opened it. One round trip.</summary>
    public async Task<PieceReading?> Read(PieceId piece, MemberId? member, Instant at, CancellationToken ct)
    {
        await using var batch = source.CreateBatch();
        Add(batch, "select html from piece_bodies where piece_id = $1", piece.Value);
        if (member is { } m)
        {
            var open = new NpgsqlBatchCommand("""
                insert into openings (member_id, piece_id, first_at, last_at) values ($1, $2, $3, $3)
                on conflict (member_id, piece_id) do update set last_at = greatest(openings.last_at, excluded.last_at) returning done_at
                """);
            open.Parameters.Add(new() { Value = m.Value });
            open.Parameters.Add(new() { Value = piece.Value });
            open.Parameters.Add(new() { Value = at });
            batch.BatchCommands.Add(open);
        }
        await using var r = await batch.ExecuteReaderAsync(ct);
        if (!await r.ReadAsync(ct)) return null;
        var html = r.GetString(0);
        Instant? done = null;
        if (member is not null && await r.NextResultAsync(ct) && await r.ReadAsync(ct) && !r.IsDBNull(0)) done = r.GetFieldValue<Instant>(0);
        return new(html, done);
    }

    /// <summary>Marks a piece as done, with a line in the journal the first time; or takes the mark back.</summary>
    public async Task MarkDone(MemberId member, PieceId piece, bool done, Instant at, string journal, CancellationToken ct)
    {
        await using var command = source.CreateCommand(done
            ? """
              with marked as (
                insert into openings (member_id, piece_id, first_at, last_at, done_at) values ($1, $2, $3, $3, $3)
                on conflict (member_id, piece_id) do update set done_at = excluded.done_at where openings.done_at is null returning 1)
              insert into journal (id, member_id, at, kind, text, piece_id) select $4, $1, $3, 'Finished', $5, $2 from marked
              """
            : "update openings set done_at = null where member_id = $1 and piece_id = $2");
        command.Parameters.Add(new() { Value = member.Value });
        command.Parameters.Add(new() { Value = piece.Value });
        if (done)
        {
            command.Parameters.Add(new() { Value = at });
            command.Parameters.Add(new() { Value = ids.Next() });
            command.Parameters.Add(new() { Value = journal });
        }
        await command.ExecuteNonQueryAsync(ct);
    }

    static void Add(NpgsqlBatch batch, string sql, long parameter)
    {
        var command = new NpgsqlBatchCommand(sql);
        command.Parameters.Add(new() { Value = parameter });
        batch.BatchCommands.Add(command);
    }
}
