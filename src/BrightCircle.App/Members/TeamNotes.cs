using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>What the team wants to remember of a member. Only the team sees it.</summary>
public sealed class TeamNotes(BrightContext db, Ids ids, IClock clock)
{
    public const int MostText = 4000;

    public async Task<Result> Add(TeamActor by, MemberId member, string? text, CancellationToken ct)
    {
        NeedRole(by);
        text = text?.Trim() ?? "";
        if (text.Length is 0 or > MostText) return Result.Refused(text.Length == 0 ? "Write something first." : $"{MostText:N0} letters are the most.", "Note");
        if (!await db.Members.AnyAsync(m => m.Id == member, ct)) return Result.Refused("This person isn’t here any more.");
        db.Add(new TeamNote { Id = ids.Next(), MemberId = member, Text = text, At = clock.GetCurrentInstant(), By = by.Name });
        await db.SaveChangesAsync(ct);
        return Result.Done;
    }

    /// <summary>Takes a note away: the owner any, everybody else their own.</summary>
    public async Task<Result> Remove(TeamActor by, MemberId member, long id, CancellationToken ct)
    {
        NeedRole(by);
        var gone = await db.TeamNotes.Where(n => n.Id == id && n.MemberId == member && (by.Role == TeamRole.Owner || n.By == by.Name)).ExecuteDeleteAsync(ct);
        return gone > 0 ? Result.Done : Result.Refused("This note isn’t here any more, or somebody else wrote it.");
    }

    static void NeedRole(TeamActor by) => by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Host, TeamRole.Support);
}
