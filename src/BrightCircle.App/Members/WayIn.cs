using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>A link that somebody of the team sends by another way than a letter to a member who can't get in. It is noted who made it, and it is shown
/// once.</summary>
public sealed class WayIn(BrightContext db, Ids ids, SignInTokens tokens, Deeds deeds, IClock clock)
{
    public static readonly Duration Lasts = Duration.FromHours(24);

    public Task<Core.Members.Member?> Find(MemberId id, CancellationToken ct) => db.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, ct);

    /// <returns>The path of the link.</returns>
    public async Task<Result<string>> Make(TeamActor by, MemberId member, CancellationToken ct)
    {
        by.NeedSupport();
        if (await Find(member, ct) is not { IsForgotten: false } person) return Result.Refused("This person isn’t here any more.");
        var at = clock.GetCurrentInstant();
        var link = new SignInLink { Id = ids.Next(), AccountId = member.Value, CreatedAt = at, ExpiresAt = at + Lasts, ReturnPath = "/me" };
        db.SignInLinks.Add(link);
        deeds.Note(by, $"made a way in for {person.Name}", $"/desk/members/{member.Value}");
        await db.SaveChangesAsync(ct);
        return $"/in/{tokens.ForSignIn(link.Id)}";
    }
}
