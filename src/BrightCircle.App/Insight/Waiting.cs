using BrightCircle.App.Clock;
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
/// <param name="Reports">Said not to belong, or waiting to be seen, and nobody has looked at it.</param>
public sealed record WaitingCounts(int Questions, int Sheets, int Letters, int Payments, int Tasks, int Messages, int Reports);

/// <summary>Who waits for the team. Asked for by every page of the Desk, so an answer is kept for a few seconds, or until somebody on this node does
/// something.</summary>
public sealed class Waiting(NpgsqlDataSource source, IWallClock wall)
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

    static readonly Duration Kept = Duration.FromSeconds(15);
    sealed record Known(Instant At, WaitingCounts Counts);
    volatile Known? known;

    public void Forget() => known = null;

    public async Task<WaitingCounts> Counts(CancellationToken ct)
    {
        var now = wall.Moment;
        if (known is { } k && now - k.At < Kept) return k.Counts;
        await using var command = source.CreateCommand($"""
            select (select count(*) from lesson_questions where {OpenQuestion})::int, (select count(*) from sheet_tries where {SheetToRead})::int,
              (select count(*) from letters where {UndeliveredLetter})::int, (select count(*) from payments_to_look_at where {PaymentToLookAt})::int,
              (select count(*) from team_tasks where {OpenTask})::int, (select count(*) from dialogues where {OpenDialogue})::int,
              (select count(*) from talk_reports where {OpenReport})::int + (select count(*) from talk_posts where {HeldPost})::int
            """);
        await using var r = await command.ExecuteReaderAsync(ct);
        await r.ReadAsync(ct);
        var counts = new WaitingCounts(r.GetInt32(0), r.GetInt32(1), r.GetInt32(2), r.GetInt32(3), r.GetInt32(4), r.GetInt32(5), r.GetInt32(6));
        known = new(now, counts);
        return counts;
    }
}
