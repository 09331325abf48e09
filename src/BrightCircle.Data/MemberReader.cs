using System.Text.Json;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Npgsql;

namespace BrightCircle.Data;

/// <summary>What a member's home rests on: what they opened, how often they marked their tallies, which first steps they settled, and the next of the hours
/// they
/// have with a host.</summary>
/// <param name="Unread">Somebody wrote to them, the team or another member, and they haven’t been there since.</param>
public sealed record HomeFacts(IReadOnlyDictionary<LessonId, OpeningState> Openings, TallyCounts Tallies, FirstStepsState FirstSteps,
    IReadOnlyList<(LiveSeriesId Series, Instant At)> Hours, bool Unread);

/// <summary>The hot reads and notes of the member side, as prepared commands on a plain connection: one round trip each.</summary>
public sealed partial class MemberReader(NpgsqlDataSource source, Ids ids)
{
    // What stands in a version of a lesson never changes, and is the same for everybody.
    const int MostContents = 300;
    readonly System.Collections.Concurrent.ConcurrentDictionary<(LessonId Lesson, int Version), IReadOnlyList<Block>> contents = new();

    public async Task<IReadOnlyDictionary<LessonId, OpeningState>> Openings(MemberId member, CancellationToken ct)
    {
        await using var command = source.CreateCommand(OpeningsOf);
        command.Parameters.Add(new() { Value = member.Value });
        await using var r = await command.ExecuteReaderAsync(ct);
        return await ReadOpenings(r, ct);
    }

    /// <summary>What a member's home rests on, in one round trip.</summary>
    /// <param name="withSteps">False where nobody asks for the first steps.</param>
    public async Task<HomeFacts> Home(MemberId member, bool withSteps, Instant at, CancellationToken ct)
    {
        await using var batch = source.CreateBatch();
        Add(batch, OpeningsOf, member.Value);
        Add(batch, TalliesOf, member.Value);
        Add(batch, "select series_id, starts_at from hour_bookings where member_id = $1 and cancelled_at is null and ends_at > $2 order by starts_at limit 3",
            member.Value, at);
        Add(batch, UnreadOf, member.Value);
        if (withSteps) Add(batch, "select step, put_away from first_steps where member_id = $1", member.Value);
        await using var r = await batch.ExecuteReaderAsync(ct);
        var openings = await ReadOpenings(r, ct);
        await r.NextResultAsync(ct);
        var tallies = await ReadTallies(r, ct);
        await r.NextResultAsync(ct);
        var hours = new List<(LiveSeriesId, Instant)>();
        while (await r.ReadAsync(ct)) hours.Add((new(r.GetInt64(0)), r.GetFieldValue<Instant>(1)));
        await r.NextResultAsync(ct);
        await r.ReadAsync(ct);
        var unread = r.GetBoolean(0);
        if (!withSteps) return new(openings, tallies, FirstStepsState.None, hours, unread);
        await r.NextResultAsync(ct);
        var (settled, away) = (new HashSet<FirstStep>(), new HashSet<FirstStep>());
        while (await r.ReadAsync(ct))
            (r.GetBoolean(1) ? away : settled).Add(Enum.Parse<FirstStep>(r.GetString(0)));
        return new(openings, tallies, new(settled, away), hours, unread);
    }

    /// <summary>How often a member marked their tallies, and the last marks of one, the newest first.</summary>
    public async Task<(TallyCounts Tallies, IReadOnlyList<(Instant At, LocalDate Day, bool WithRun)> Marks)> TalliesAndMarks(
        MemberId member, TallyId tally, int most, CancellationToken ct)
    {
        await using var batch = source.CreateBatch();
        Add(batch, TalliesOf, member.Value);
        Add(batch, "select at, day, block_id is not null from tally_marks where member_id = $1 and tally_id = $2 order by at desc, id desc limit $3",
            member.Value, tally.Value, most);
        await using var r = await batch.ExecuteReaderAsync(ct);
        var counts = await ReadTallies(r, ct);
        await r.NextResultAsync(ct);
        var marks = new List<(Instant, LocalDate, bool)>();
        while (await r.ReadAsync(ct)) marks.Add((r.GetFieldValue<Instant>(0), r.GetFieldValue<LocalDate>(1), r.GetBoolean(2)));
        return (counts, marks);
    }

    /// <summary>How often a member marked their tallies.</summary>
    public async Task<TallyCounts> Tallies(MemberId member, CancellationToken ct)
    {
        await using var batch = source.CreateBatch();
        Add(batch, TalliesOf, member.Value);
        await using var r = await batch.ExecuteReaderAsync(ct);
        return await ReadTallies(r, ct);
    }

    /// <summary>What a member opened and marked, for a trip that asks others too.</summary>
    public static (Answer<Dictionary<LessonId, OpeningState>> Openings, Answer<TallyCounts> Tallies) OpeningsAndTallies(OneTrip trip, MemberId member) =>
        (trip.Command(OpeningsOf, ReadOpenings, member.Value), trip.Command(TalliesOf, ReadTallies, member.Value));

    /// <summary>Whether somebody wrote to a member, the team or another member, and they haven’t been there since.</summary>
    const string UnreadOf = """
        select exists (select 1 from exchange_people i join exchanges e on e.id = i.exchange_id where i.member_id = $1 and i.shut_at is null
          and e.last_by_id is distinct from i.member_id and (i.seen_at is null or i.seen_at < e.last_at))
        or exists (select 1 from dialogues d where d.member_id = $1 and d.last_by_team and (d.seen_at is null or d.seen_at < d.last_at))
        """;

    const string OpeningsOf = "select lesson_id, first_at, last_at, done_at from openings where member_id = $1";
    const string TalliesOf = "select tally_id, day - (extract(isodow from day)::int - 1), count(*) from tally_marks where member_id = $1 group by 1, 2";

    static async Task<TallyCounts> ReadTallies(NpgsqlDataReader r, CancellationToken ct)
    {
        var counts = new TallyCounts();
        while (await r.ReadAsync(ct)) counts.Add(new(r.GetInt64(0)), new(r.GetFieldValue<LocalDate>(1)), (int)r.GetInt64(2));
        return counts;
    }

    static async Task<Dictionary<LessonId, OpeningState>> ReadOpenings(NpgsqlDataReader r, CancellationToken ct)
    {
        var map = new Dictionary<LessonId, OpeningState>();
        while (await r.ReadAsync(ct))
        {
            var id = new LessonId(r.GetInt64(0));
            map[id] = new(id, r.GetFieldValue<Instant>(1), r.GetFieldValue<Instant>(2), r.IsDBNull(3) ? null : r.GetFieldValue<Instant>(3));
        }
        return map;
    }

    /// <summary>
    /// A lesson to read; for a member with all they did in it and how far they came in its piece, and noting that they opened it. One round trip.
    /// </summary>
    /// <param name="what">As the catalogue knows it: its version says what stands in it.</param>
    /// <param name="pieceLessons">The lessons of its piece, for the outline beside it.</param>
    /// <param name="member">Null for a visitor, or while the team only looks.</param>
    /// <param name="note">Whether the opening is noted.</param>
    /// <param name="done">Opening it makes it done.</param>
    /// <param name="questions">Whether its questions are read too.</param>
    public async Task<LessonReading?> Read(Lesson what, IReadOnlyList<Lesson> pieceLessons, MemberId? member, bool note, bool done,
        bool questions, string week, Instant at, CancellationToken ct)
    {
        await using var batch = source.CreateBatch();
        var (lesson, piece, key) = (what.Id, what.PieceId, (what.Id, what.Version));
        var known = contents.GetValueOrDefault(key);
        if (known is null) Add(batch, "select blocks from lesson_contents where lesson_id = $1", lesson.Value);
        Add(batch,
            "select f.id, f.address, f.name, f.media_type, f.kind, f.bytes, f.width, f.height, f.alt, f.sizes from file_uses u join files f on f.id = "
            + "u.file_id where u.\"user\" = 'Lesson' and u.user_id = $1", lesson.Value);
        if (member is { } m)
        {
            if (note)
            {
                var open = new NpgsqlBatchCommand("""
                    with opened as (
                      insert into openings (member_id, lesson_id, first_at, last_at, done_at) select $1, $2, $3, $3, case when $4 then $3 end
                      -- Within a minute it is the same opening: nothing is written then, and nobody waits for the disk.
                      where not exists (select 1 from openings o where o.member_id = $1 and o.lesson_id = $2 and o.last_at > $3 - interval '1 minute'
                        and (o.done_at is not null or not $4))
                      on conflict (member_id, lesson_id) do update set last_at = greatest(openings.last_at, excluded.last_at),
                          done_at = coalesce(openings.done_at, excluded.done_at)
                      returning xmax = 0 as is_first)
                    insert into journal (id, member_id, at, kind, event) select $5, $1, $3, 'opened', $6::jsonb from opened where is_first
                    """);
                open.Parameters.Add(new() { Value = m.Value });
                open.Parameters.Add(new() { Value = lesson.Value });
                open.Parameters.Add(new() { Value = at });
                open.Parameters.Add(new() { Value = done });
                open.Parameters.Add(new() { Value = ids.Next() });
                open.Parameters.Add(new() { Value = Written(new Event.Opened(lesson, piece)) });
                batch.BatchCommands.Add(open);
            }
            var outline = new NpgsqlBatchCommand("select lesson_id, first_at, last_at, done_at from openings where member_id = $1 and lesson_id = any($2)");
            outline.Parameters.Add(new() { Value = m.Value });
            outline.Parameters.Add(new() { Value = pieceLessons.Select(l => l.Id.Value).ToArray() });
            batch.BatchCommands.Add(outline);
            Add(batch, "select block_id, position, share, times from played where member_id = $1 and lesson_id = $2", m.Value, lesson.Value);
            Add(batch, """
                select distinct on (block_id) block_id, count(*) over w, id, at, passed, bool_or(coalesce(passed, false)) over w, answers, result
                from sheet_tries where member_id = $1 and lesson_id = $2 window w as (partition by block_id) order by block_id, number desc
                """, m.Value, lesson.Value);
            Add(batch, "select d.block_id, d.answers from sheet_drafts d where d.member_id = $1", m.Value);
            var forms = new NpgsqlBatchCommand("select block_id, answers from form_entries where member_id = $1 and lesson_id = $2 and turn in ('', $3)");
            forms.Parameters.Add(new() { Value = m.Value });
            forms.Parameters.Add(new() { Value = lesson.Value });
            forms.Parameters.Add(new() { Value = week });
            batch.BatchCommands.Add(forms);
            Add(batch, TalliesOf, m.Value);
            Add(batch,
                "select (select text from notes where member_id = $1 and lesson_id = $2), exists (select 1 from bookmarks where member_id = $1 and lesson_id "
                + "= $2)", m.Value, lesson.Value);
        }
        if (questions)
            Add(batch,
                "select id, answers_id, account_id, name, by_team, text, at from lesson_questions where lesson_id = $1 and hidden_at is null order by id "
                + "limit 300", lesson.Value);

        await using var r = await batch.ExecuteReaderAsync(ct);
        if (known is null)
        {
            if (!await r.ReadAsync(ct)) return null;
            known = Json<IReadOnlyList<Block>>(r, 0);
            if (contents.Count >= MostContents) contents.Clear();
            contents[key] = known;
            await r.NextResultAsync(ct);
        }
        var blocks = known;
        var files = new Dictionary<FileId, FileState>();
        while (await r.ReadAsync(ct)) files[new(r.GetInt64(0))] = ReadFile(r);
        Dictionary<LessonId, OpeningState> openings = [];
        Dictionary<BlockId, PlayedState> played = [];
        Dictionary<BlockId, TriesState> tries = [];
        Dictionary<BlockId, Dictionary<string, Answer>> drafts = [];
        Dictionary<BlockId, Dictionary<string, string>> entries = [];
        var tallies = TallyCounts.None;
        var (text, marked) = ("", false);
        if (member is not null)
        {
            await r.NextResultAsync(ct);
            openings = await ReadOpenings(r, ct);
            await r.NextResultAsync(ct);
            while (await r.ReadAsync(ct)) played[new(r.GetInt64(0))] = new(r.GetInt32(1), r.GetDouble(2), r.GetInt32(3));
            await r.NextResultAsync(ct);
            while (await r.ReadAsync(ct))
                tries[new(r.GetInt64(0))] = new((int)r.GetInt64(1), r.GetInt64(2), r.GetFieldValue<Instant>(3), r.IsDBNull(4) ? null : r.GetBoolean(4),
                    r.GetBoolean(5), Json<Dictionary<string, Answer>>(r, 6), Json<SheetResult>(r, 7));
            await r.NextResultAsync(ct);
            while (await r.ReadAsync(ct)) drafts[new(r.GetInt64(0))] = Json<Dictionary<string, Answer>>(r, 1);
            await r.NextResultAsync(ct);
            while (await r.ReadAsync(ct)) entries[new(r.GetInt64(0))] = Json<Dictionary<string, string>>(r, 1);
            await r.NextResultAsync(ct);
            tallies = await ReadTallies(r, ct);
            await r.NextResultAsync(ct);
            if (await r.ReadAsync(ct)) (text, marked) = (r.IsDBNull(0) ? "" : r.GetString(0), r.GetBoolean(1));
        }
        var asked = new List<QuestionState>();
        if (questions)
        {
            await r.NextResultAsync(ct);
            while (await r.ReadAsync(ct)) asked.Add(
                new(r.GetInt64(0), r.IsDBNull(1) ? null : r.GetInt64(1), r.GetInt64(2), r.GetString(3), r.GetBoolean(4), r.GetString(5),
                r.GetFieldValue<Instant>(6)));
        }
        return new(blocks, files, openings, played, tries, drafts, entries, tallies, text, marked, asked);
    }

    /// <summary>What stands in several lessons of a piece and the files they use, for what is printed or taken along. One round trip.</summary>
    public async Task<(IReadOnlyDictionary<LessonId, IReadOnlyList<Block>> Blocks, IReadOnlyDictionary<FileId, FileState> Files)> Contents(
        IReadOnlyCollection<LessonId> lessons, CancellationToken ct)
    {
        await using var batch = source.CreateBatch();
        foreach (var (sql, about) in new (string, object[])[]
        {
            ("select lesson_id, blocks from lesson_contents where lesson_id = any($1)", [lessons.Select(l => l.Value).ToArray()]),
            ("select f.id, f.address, f.name, f.media_type, f.kind, f.bytes, f.width, f.height, f.alt, f.sizes from files f where f.id in (select file_id "
                + "from file_uses where \"user\" = 'Lesson' and user_id = any($1))", [lessons.Select(l => l.Value).ToArray()]),
        })
        {
            var command = new NpgsqlBatchCommand(sql);
            foreach (var value in about) command.Parameters.Add(new() { Value = value });
            batch.BatchCommands.Add(command);
        }
        await using var r = await batch.ExecuteReaderAsync(ct);
        var (blocks, files) = (new Dictionary<LessonId, IReadOnlyList<Block>>(), new Dictionary<FileId, FileState>());
        while (await r.ReadAsync(ct)) blocks[new(r.GetInt64(0))] = Json<IReadOnlyList<Block>>(r, 1);
        await r.NextResultAsync(ct);
        while (await r.ReadAsync(ct)) files[new(r.GetInt64(0))] = ReadFile(r);
        return (blocks, files);
    }

    static FileState ReadFile(NpgsqlDataReader r) =>
        new(new(r.GetInt64(0)), r.GetString(1), r.GetString(2), r.GetString(3), Enum.Parse<FileKind>(r.GetString(4)), r.GetInt64(5),
        r.IsDBNull(6) ? null : r.GetInt32(6), r.IsDBNull(7) ? null : r.GetInt32(7), r.GetString(8), Json<Dictionary<string, string>>(r, 9));

    /// <summary>One file by its number.</summary>
    public async Task<FileState?> File(FileId id, CancellationToken ct)
    {
        await using var command = source.CreateCommand("select id, address, name, media_type, kind, bytes, width, height, alt, sizes from files where id = $1");
        command.Parameters.Add(new() { Value = id.Value });
        await using var r = await command.ExecuteReaderAsync(ct);
        return await r.ReadAsync(ct) ? ReadFile(r) : null;
    }

    static T Json<T>(NpgsqlDataReader r, int at) => JsonSerializer.Deserialize<T>(r.GetString(at), CoreJson.Options)!;

    /// <summary>Notes that lessons were opened, with an event for each that never was before, and which of them are done, all at one moment.</summary>
    public async Task NoteOpened(MemberId member, IReadOnlyCollection<Lesson> lessons, IReadOnlyCollection<LessonId> done, Instant at, CancellationToken ct)
    {
        await using var command = source.CreateCommand("""
            with those as (select * from unnest($2, $5, $6) as t(lesson, number, event)),
            opened as (
              insert into openings (member_id, lesson_id, first_at, last_at, done_at)
              select $1, lesson, $4, $4, case when lesson = any($3) then $4 end from those
              on conflict (member_id, lesson_id) do update set last_at = greatest(openings.last_at, excluded.last_at),
                done_at = coalesce(openings.done_at, excluded.done_at)
              returning lesson_id, xmax = 0 as is_first)
            insert into journal (id, member_id, at, kind, event)
            select number, $1, $4, 'opened', event::jsonb from opened join those on lesson = lesson_id where is_first order by number
            """);
        foreach (var value in new object[] { member.Value, lessons.Select(l => l.Id.Value).ToArray(), done.Select(l => l.Value).ToArray(), at,
            lessons.Select(_ => ids.Next()).ToArray(), lessons.Select(l => Written(new Event.Opened(l.Id, l.PieceId))).ToArray() })
            command.Parameters.Add(new() { Value = value });
        await command.ExecuteNonQueryAsync(ct);
    }

    /// <summary>How a piece with places stands, and whether the member is in it.</summary>
    public async Task<PlaceState> Places(PieceId piece, MemberId? member, CancellationToken ct)
    {
        await using var command = source.CreateCommand("""
            select count(*) filter (where not waiting), count(*) filter (where waiting), coalesce(bool_or(member_id = $2 and not waiting), false),
                coalesce(bool_or(member_id = $2 and waiting), false)
            from piece_places where piece_id = $1
            """);
        command.Parameters.Add(new() { Value = piece.Value });
        command.Parameters.Add(new() { Value = member?.Value ?? 0 });
        await using var r = await command.ExecuteReaderAsync(ct);
        await r.ReadAsync(ct);
        return new((int)r.GetInt64(0), (int)r.GetInt64(1), r.GetBoolean(2), r.GetBoolean(3));
    }

    /// <summary>Marks a lesson as done, with an event the first time; or takes the mark back.</summary>
    public async Task MarkDone(MemberId member, LessonId lesson, bool done, Instant at, Event.Finished finished, CancellationToken ct)
    {
        await using var command = source.CreateCommand(done
            ? """
              with marked as (
                insert into openings (member_id, lesson_id, first_at, last_at, done_at) values ($1, $2, $3, $3, $3)
                on conflict (member_id, lesson_id) do update set done_at = excluded.done_at where openings.done_at is null returning 1)
              insert into journal (id, member_id, at, kind, event) select $4, $1, $3, 'finished', $5::jsonb from marked
              """
            : "update openings set done_at = null where member_id = $1 and lesson_id = $2");
        command.Parameters.Add(new() { Value = member.Value });
        command.Parameters.Add(new() { Value = lesson.Value });
        if (done)
        {
            command.Parameters.Add(new() { Value = at });
            command.Parameters.Add(new() { Value = ids.Next() });
            command.Parameters.Add(new() { Value = Written(finished) });
        }
        await command.ExecuteNonQueryAsync(ct);
    }

    static string Written(Event e) => JsonSerializer.Serialize(e, CoreJson.Options);

    /// <summary>Notes how far a recording was played, or that a follow-along was finished.</summary>
    public async Task<PlayedState> NotePlayed(MemberId member, LessonId lesson, BlockId block, int position, double share, int times, Instant at,
        CancellationToken ct)
    {
        await using var command = source.CreateCommand("""
            insert into played (member_id, block_id, lesson_id, position, share, times, at) values ($1, $2, $3, $4, $5, $6, $7)
            on conflict (member_id, block_id) do update set position = excluded.position, share = greatest(played.share, excluded.share),
                times = played.times + excluded.times, lesson_id = excluded.lesson_id, at = excluded.at
            returning position, share, times
            """);
        foreach (var value in new object[] { member.Value, block.Value, lesson.Value, position, share, times, at })
            command.Parameters.Add(new() { Value = value });
        await using var r = await command.ExecuteReaderAsync(ct);
        await r.ReadAsync(ct);
        return new(r.GetInt32(0), r.GetDouble(1), r.GetInt32(2));
    }

    static void Add(NpgsqlBatch batch, string sql, params ReadOnlySpan<object> parameters)
    {
        var command = new NpgsqlBatchCommand(sql);
        foreach (var p in parameters) command.Parameters.Add(new() { Value = p });
        batch.BatchCommands.Add(command);
    }
}
