using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>A task as it stands in a list.</summary>
public sealed record TaskRow(long Id, MemberId Member, string Name, string Text, Instant At, string By, Instant? DoneAt, string? DoneBy);

/// <summary>What a person of the team is to do for members: written by hand or by a routine, there until somebody says that it is done.</summary>
public sealed class TeamTasks(BrightContext db, Ids ids, IClock clock)
{
    public const int PageSize = 50;

    static void NeedRole(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host, TeamRole.Support);

    /// <summary>The oldest that is open first; of those that are done, the latest first.</summary>
    public async Task<(IReadOnlyList<TaskRow> Rows, int Count)> List(bool done, int page, CancellationToken ct)
    {
        var those = db.TeamTasks.AsNoTracking().Where(t => t.DoneAt != null == done);
        var trip = new OneTrip(db);
        var count = trip.Count(those);
        var rows = trip.List(Rows((done ? those.OrderByDescending(t => t.DoneAt) : those.OrderBy(t => t.At)).ThenBy(t => t.Id)
            .Skip((page - 1) * PageSize).Take(PageSize)));
        await trip.Ask(ct);
        return (rows.Value, count.Value);
    }

    IQueryable<TaskRow> Rows(IQueryable<TeamTask> those) => those.Select(t => new TaskRow(t.Id, t.MemberId,
        db.Members.Where(m => m.Id == t.MemberId).Select(m => m.Name).First(), t.Text, t.At, t.By, t.DoneAt, t.DoneBy));

    /// <summary>What is open for one member.</summary>
    public IQueryable<TaskRow> Of(MemberId member) => Rows(db.TeamTasks.AsNoTracking().Where(t => t.MemberId == member && t.DoneAt == null).OrderBy(t => t.At));

    public async Task<Result> Add(TeamActor by, MemberId member, string? text, CancellationToken ct)
    {
        NeedRole(by);
        text = text?.Trim() ?? "";
        if (text.Length is 0 or > Core.Routines.Step.MostText)
            return Result.Refused($"Say what is to be done, in {Core.Routines.Step.MostText} letters at most.", "Task");
        if (!await db.Members.AnyAsync(m => m.Id == member, ct)) return Result.Refused("This person isn’t here any more.");
        db.Add(new TeamTask { Id = ids.Next(), MemberId = member, Text = text, At = clock.GetCurrentInstant(), By = by.Name });
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>Somebody has done it. Whoever says so second changes nothing.</summary>
    public async Task<Result> Done(TeamActor by, long id, CancellationToken ct)
    {
        NeedRole(by);
        var (at, name) = (clock.GetCurrentInstant(), by.Name);
        var done = await db.TeamTasks.Where(t => t.Id == id && t.DoneAt == null)
            .ExecuteUpdateAsync(s => s.SetProperty(t => t.DoneAt, at).SetProperty(t => t.DoneBy, name), ct);
        return done > 0 ? Result.Done : Result.Refused("It was done already.");
    }

    /// <summary>It isn't done after all.</summary>
    public async Task<Result> Reopen(TeamActor by, long id, CancellationToken ct)
    {
        NeedRole(by);
        var done = await db.TeamTasks.Where(t => t.Id == id && t.DoneAt != null)
            .ExecuteUpdateAsync(s => s.SetProperty(t => t.DoneAt, (Instant?)null).SetProperty(t => t.DoneBy, (string?)null), ct);
        return done > 0 ? Result.Done : Result.Refused("It is open already.");
    }
}
