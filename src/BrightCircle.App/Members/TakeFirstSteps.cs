using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>What newcomers do first, or don't want to do.</summary>
public sealed class TakeFirstSteps(BrightContext db, Ids ids, Tell tell, IClock clock)
{
    /// <summary>A newcomer's words to the team, once: they stand in the journal, and as a task that somebody answers.</summary>
    public async Task<Result> SayHello(MemberId member, string? text, CancellationToken ct)
    {
        text = text?.Trim().ReplaceLineEndings(" ") ?? "";
        if (text.Length is 0 or > FirstSteps.MostHello) return Result.Refused($"Write a few words, {FirstSteps.MostHello} letters at most.", "Hello");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Database.ExecuteSqlAsync($"select 1 from members where id = {member.Value} for no key update", ct);
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == member, ct) is not { } person) return Result.Refused("This account isn’t here any more.");
        if (await db.FirstSteps.AnyAsync(s => s.MemberId == member && s.Step == FirstStep.Hello && !s.PutAway, ct))
            return Result.Refused("You’ve said hello already.", "Hello");
        var at = clock.GetCurrentInstant();
        tell.Of(person, new Event.SaidHello(text), at);
        db.Add(new TeamTask { Id = ids.Next(), MemberId = member, Text = $"Says hello: “{text}”", At = at, By = "First steps" });
        await db.SaveChangesAsync(ct);
        await Settle(db, member, FirstStep.Hello, at, false, ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    /// <summary>They don't want to see it any more.</summary>
    /// <param name="step">Null for all.</param>
    public async Task PutAway(MemberId member, FirstStep? step, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        FirstStep[] which = step is { } one ? [one] : Enum.GetValues<FirstStep>();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // What was done stays done.
        var done = await db.FirstSteps.Where(s => s.MemberId == member && !s.PutAway).Select(s => s.Step).ToListAsync(ct);
        foreach (var s in which.Except(done)) await Settle(db, member, s, at, true, ct);
        await transaction.CommitAsync(ct);
    }

    /// <summary>Notes one as done or put away, within the caller's transaction. The last word counts.</summary>
    internal static Task Settle(BrightContext db, MemberId member, FirstStep step, Instant at, bool putAway, CancellationToken ct) =>
        db.Database.ExecuteSqlAsync($"""
            insert into first_steps (member_id, step, at, put_away) values ({member.Value}, {step.ToString()}, {at}, {putAway})
            on conflict (member_id, step) do update set at = excluded.at, put_away = excluded.put_away
            """, ct);
}
