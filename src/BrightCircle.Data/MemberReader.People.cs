using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using NodaTime;
using Npgsql;

namespace BrightCircle.Data;

/// <summary>Who somebody is and what they hold: one by one with each request, and over very many away from a page.</summary>
public sealed partial class MemberReader
{
    /// <param name="browser">The number of the browser they are signed in with; 0 for none.</param>
    /// <returns>Null where there is no such account, or the browser was signed out.</returns>
    public async Task<SignedIn?> Load(long account, CancellationToken ct, long browser = 0)
    {
        await using var batch = source.CreateBatch();
        Add(batch, """
            select a.id, a.name, a.email, a.role, a.security_stamp, a.password_hash is not null, m.standing, m.joined_at, coalesce(m.wants_news, false),
                m.zone_id,
              a.email_confirmed, a.feeds_version
            from accounts a left join members m on m.id = a.id
            where a.id = $1 and ($2 = 0 or exists (select 1 from sign_ins s where s.id = $2 and s.account_id = a.id and s.ended_at is null))
            """, account, browser);
        Add(batch, $"select {HoldingColumns} from holdings h left join holding_facts f on f.holding_id = h.id where h.member_id = $1 order by h.id, f.seq",
            account);
        Add(batch, "select piece_id from piece_places where member_id = $1 and not waiting", account);
        var (withCohorts, withDone) = (WithCohorts, WithDone);
        if (withCohorts) Add(batch, "select cohort_id from cohort_members where member_id = $1", account);
        if (withDone) Add(batch, "select lesson_id, done_at from openings where member_id = $1 and done_at is not null", account);
        await using var r = await batch.ExecuteReaderAsync(ct);
        if (!await r.ReadAsync(ct)) return null;
        var (holdings, places, cohorts) = (new List<Holding>(), new HashSet<PieceId>(), new HashSet<CohortId>());
        var done = new Dictionary<LessonId, Instant>();
        var signedIn = new SignedIn(r.GetInt64(0), r.GetString(1), r.GetString(2), r.IsDBNull(3) ? null : Enum.Parse<TeamRole>(r.GetString(3)), r.GetString(4),
            r.GetBoolean(5),
            r.IsDBNull(6) ? Standing.Guest : Enum.Parse<Standing>(r.GetString(6)), r.IsDBNull(7) ? null : r.GetFieldValue<Instant>(7), r.GetBoolean(8),
                r.IsDBNull(9) ? null : r.GetString(9),
            r.GetBoolean(10), r.GetInt32(11), holdings, places, cohorts, done);
        await r.NextResultAsync(ct);
        while (await r.ReadAsync(ct)) AddHolding(holdings, r, new(account), 0);
        await r.NextResultAsync(ct);
        while (await r.ReadAsync(ct)) places.Add(new(r.GetInt64(0)));
        if (withCohorts && await r.NextResultAsync(ct))
            while (await r.ReadAsync(ct)) cohorts.Add(new(r.GetInt64(0)));
        if (withDone && await r.NextResultAsync(ct))
            while (await r.ReadAsync(ct)) done[new(r.GetInt64(0))] = r.GetFieldValue<Instant>(1);
        return signedIn;
    }

    /// <summary>Whether any promise or pace asks what somebody has done, so that it is read with who they are.</summary>
    public bool WithDone { get; set; }
    /// <summary>Whether there is any cohort.</summary>
    public bool WithCohorts { get; set; }

    const string HoldingColumns = """
        h.id, h.plan_id, h.price_id, h.source, h.starts_at, h.agreement, h.is_over, f.seq, f.kind, f.at, f."from", f."to", f.reason, f.payment_id,
            f.promise, h.promise_number, h.all_at_once, h.through, h.seats,
            h.continues, f.amount_minor, f.amount_currency, h.way
        """;

    /// <summary>
    /// Everybody who holds anything, with facts and places, member after member: for what is worked out over all of them, away from a page.
    /// </summary>
    public IAsyncEnumerable<Holder> AllHolders(CancellationToken ct) => Holders(null, ct);

    /// <summary>The person with an address; null where nobody has it.</summary>
    public async Task<SignedIn?> Find(string email, CancellationToken ct)
    {
        await using var command = source.CreateCommand("select id from accounts where normalized_email = upper($1)");
        command.Parameters.Add(new() { Value = email.Trim() });
        return await command.ExecuteScalarAsync(ct) is long id ? await Load(id, ct) : null;
    }

    /// <summary>How many hold a plan by each version of its promise, the newest first; for a trip that asks others too.</summary>
    public static Answer<List<(int Version, int Holders)>> Versions(OneTrip trip, PlanId plan) => trip.Command("""
        select coalesce((select f.promise from holding_facts f where f.holding_id = h.id and f.kind = 'Moved' order by f.seq desc limit 1),
            h.promise_number), count(*)
        from holdings h where h.plan_id = $1 and not h.is_over group by 1 order by 1 desc
        """, async (r, ct) =>
        {
            var found = new List<(int, int)>();
            while (await r.ReadAsync(ct)) found.Add((r.GetInt32(0), (int)r.GetInt64(1)));
            return found;
        }, plan.Value);

    /// <summary>The same, of those who hold one of some plans just now.</summary>
    /// <param name="plans">Null for whoever holds or held anything.</param>
    /// <param name="members">Only these; null for all.</param>
    public async IAsyncEnumerable<Holder> Holders(IReadOnlyCollection<PlanId>? plans,
        [System.Runtime.CompilerServices.EnumeratorCancellation] CancellationToken ct, IReadOnlyCollection<MemberId>? members = null)
    {
        var (places, cohorts, done) = (new Dictionary<long, HashSet<PieceId>>(), new Dictionary<long, HashSet<CohortId>>(),
            new Dictionary<long, Dictionary<LessonId, Instant>>());
        await using (var batch = source.CreateBatch())
        {
            Add(batch, "select member_id, piece_id from piece_places where not waiting");
            Add(batch, "select member_id, cohort_id from cohort_members");
            if (WithDone) Add(batch, "select member_id, lesson_id, done_at from openings where done_at is not null");
            await using var p = await batch.ExecuteReaderAsync(ct);
            while (await p.ReadAsync(ct)) Of(places, p).Add(new(p.GetInt64(1)));
            await p.NextResultAsync(ct);
            while (await p.ReadAsync(ct)) Of(cohorts, p).Add(new(p.GetInt64(1)));
            if (await p.NextResultAsync(ct))
                while (await p.ReadAsync(ct)) Of(done, p)[new(p.GetInt64(1))] = p.GetFieldValue<Instant>(2);
        }
        static T Of<T>(Dictionary<long, T> by, NpgsqlDataReader p) where T : new() =>
            by.TryGetValue(p.GetInt64(0), out var of) ? of : by[p.GetInt64(0)] = new();
        await using var command = source.CreateCommand($"""
            select m.id, m.name, m.email, m.wants_news, m.standing, {HoldingColumns}
            from members m join holdings h on h.member_id = m.id left join holding_facts f on f.holding_id = h.id
            where $1::bigint[] is null or m.id in (select x.member_id from holdings x where x.plan_id = any($1) and not x.is_over)
              and ($2::bigint[] is null or m.id = any($2))
            order by m.id, h.id, f.seq
            """);
        command.Parameters.Add(new()
        {
            Value = plans is null ? DBNull.Value : plans.Select(p => p.Value).ToArray(),
            NpgsqlDbType =
            NpgsqlTypes.NpgsqlDbType.Array | NpgsqlTypes.NpgsqlDbType.Bigint
        });
        command.Parameters.Add(new()
        {
            Value = members is null ? DBNull.Value : members.Select(m => m.Value).ToArray(),
            NpgsqlDbType = NpgsqlTypes.NpgsqlDbType.Array | NpgsqlTypes.NpgsqlDbType.Bigint
        });
        await using var r = await command.ExecuteReaderAsync(ct);
        Holder? holder = null;
        var holdings = new List<Holding>();
        while (await r.ReadAsync(ct))
        {
            if (holder is null || r.GetInt64(0) != holder.Id.Value)
            {
                if (holder is not null) yield return holder;
                holdings = [];
                holder = new(new(r.GetInt64(0)), r.GetString(1), r.GetString(2), r.GetBoolean(3), Enum.Parse<Standing>(r.GetString(4)), holdings,
                    places.GetValueOrDefault(r.GetInt64(0)) ?? [], cohorts.GetValueOrDefault(r.GetInt64(0)) ?? [],
                    done.GetValueOrDefault(r.GetInt64(0)) ?? []);
            }
            AddHolding(holdings, r, holder.Id, 5);
        }
        if (holder is not null) yield return holder;
    }

    static void AddHolding(List<Holding> holdings, NpgsqlDataReader r, MemberId member, int at)
    {
        var id = new HoldingId(r.GetInt64(at));
        if (holdings.Count == 0 || holdings[^1].Id != id)
            holdings.Add(new()
            {
                Id = id,
                MemberId = member,
                PlanId = new(r.GetInt64(at + 1)),
                PriceId = r.IsDBNull(at + 2) ? null : new(r.GetInt64(at + 2)),
                Source = Enum.Parse<HoldingSource>(r.GetString(at + 3)),
                StartsAt = r.GetFieldValue<Instant>(at + 4),
                Agreement = Json<Agreement>(r, at + 5),
                IsOver = r.GetBoolean(at + 6),
                PromiseNumber = r.GetInt32(at + 15),
                AllAtOnce = r.GetBoolean(at + 16),
                Through = r.IsDBNull(at + 17) ? null : r.GetInt64(at + 17),
                Seats = r.IsDBNull(at + 18) ? null : r.GetInt32(at + 18),
                Continues = r.IsDBNull(at + 19) ? null : new(r.GetInt64(at + 19)),
                Way = Enum.Parse<PayWay>(r.GetString(at + 22)),
            });
        if (!r.IsDBNull(at + 7))
            holdings[^1]
                .Facts.Add(HoldingFact.Stored(id, r.GetInt32(at + 7), Enum.Parse<HoldingFactKind>(r.GetString(at + 8)), r.GetFieldValue<Instant>(at + 9),
                r.GetFieldValue<Instant>(at + 10), r.IsDBNull(at + 11) ? null : r.GetFieldValue<Instant>(at + 11),
                r.IsDBNull(at + 12) ? null : Enum.Parse<EndReason>(r.GetString(at + 12)), r.IsDBNull(at + 13) ? null : new(r.GetInt64(at + 13)),
                r.IsDBNull(at + 14) ? null : r.GetInt32(at + 14),
                r.IsDBNull(at + 20) ? null : new(r.GetInt64(at + 20), new(r.GetString(at + 21)))));
    }
}
