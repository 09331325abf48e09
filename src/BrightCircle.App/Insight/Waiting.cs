using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Community;
using BrightCircle.Core;
using NodaTime;
using Npgsql;

namespace BrightCircle.App.Insight;

/// <summary>How many wait for a person, by where at the Desk they are dealt with.</summary>
/// <param name="Questions">Asked under lessons and neither answered nor settled.</param>
/// <param name="Sheets">Handed in, with answers a person reads.</param>
/// <param name="Letters">Refused for good, and nobody has seen to it.</param>
/// <param name="Tasks">For members, and nobody has done it.</param>
/// <param name="Payments">To look at: a dispute, a sum that isn’t what was asked, a first payment that failed.</param>
/// <param name="Messages">Members who wrote and wait for an answer.</param>
/// <param name="Reports">Said not to belong, or waiting to be seen, and nobody has looked at it: in the spaces that whoever asks keeps.</param>
public sealed record WaitingCounts(int Questions, int Sheets, int Letters, int Payments, int Tasks, int Messages, int Reports);

/// <summary>Who waits for the team. Asked for by every page of the Desk, so an answer is kept for a few seconds, or until somebody on this node does
/// something.</summary>
public sealed class Waiting(NpgsqlDataSource source, Catalogue catalogue, IWallClock wall)
{
    /// <summary>What makes a question wait, in SQL.</summary>
    public const string OpenQuestion = "answers_id is null and settled_at is null and hidden_at is null";
    public const string SheetToRead = "waiting > 0";
    public const string UndeliveredLetter = "state = 'Refused' and set_aside_at is null";
    public const string PaymentToLookAt = "settled_at is null";
    public const string OpenTask = "done_at is null";
    public const string OpenDialogue = "state = 'Open'";
    public const string OpenReport = "settled_at is null";
    public const string HeldPost = "held is not null";

    /// <summary>How much is said not to belong, and how much waits to be seen, in each space, in SQL.</summary>
    internal const string ReportedInSpaces = $"select t.space_id, count(*)::int from talk_reports r join talk_posts p on p.id = r.post_id "
        + $"join talk_threads t on t.id = p.thread_id where r.{OpenReport} group by t.space_id";
    internal const string HeldInSpaces = $"select t.space_id, count(*)::int from talk_posts p join talk_threads t on t.id = p.thread_id "
        + $"where p.{HeldPost} group by t.space_id";

    static readonly Duration Kept = Duration.FromSeconds(15);
    /// <param name="Counts">Without what is in spaces.</param>
    sealed record Known(Instant At, WaitingCounts Counts, IReadOnlyList<(SpaceId Space, int Count)> InSpaces);
    volatile Known? known;

    public void Forget() => known = null;

    /// <param name="by">For whom: hosts of some spaces see to those.</param>
    public async Task<WaitingCounts> Counts(TeamActor by, CancellationToken ct)
    {
        var k = await All(ct);
        return k.Counts with { Reports = Keeping.Sum(catalogue.Now, by, k.InSpaces) };
    }

    async Task<Known> All(CancellationToken ct)
    {
        var now = wall.Moment;
        if (known is { } k && now - k.At < Kept) return k;
        await using var batch = source.CreateBatch();
        batch.BatchCommands.Add(new($"""
            select (select count(*) from lesson_questions where {OpenQuestion})::int, (select count(*) from sheet_tries where {SheetToRead})::int,
              (select count(*) from letters where {UndeliveredLetter})::int, (select count(*) from payments_to_look_at where {PaymentToLookAt})::int,
              (select count(*) from team_tasks where {OpenTask})::int, (select count(*) from dialogues where {OpenDialogue})::int
            """));
        batch.BatchCommands.Add(new($"{ReportedInSpaces} union all {HeldInSpaces}"));
        await using var r = await batch.ExecuteReaderAsync(ct);
        await r.ReadAsync(ct);
        var counts = new WaitingCounts(r.GetInt32(0), r.GetInt32(1), r.GetInt32(2), r.GetInt32(3), r.GetInt32(4), r.GetInt32(5), 0);
        await r.NextResultAsync(ct);
        var inSpaces = new List<(SpaceId, int)>();
        while (await r.ReadAsync(ct)) inSpaces.Add((new(r.GetInt64(0)), r.GetInt32(1)));
        return known = new(now, counts, inSpaces);
    }
}
