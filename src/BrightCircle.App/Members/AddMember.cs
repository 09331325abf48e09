using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>The team adds a person by hand.</summary>
public sealed class AddMember(BrightContext db, Ids ids, Tell tell, IClock clock)
{
    public async Task<Result<MemberId>> Do(TeamActor by, string? name, string? email, CancellationToken ct)
    {
        by.NeedSupport();
        if (string.IsNullOrWhiteSpace(name) || name.Trim().Length > 120) return Result.Refused("A name is needed, of 120 letters at most.", "Name");
        if (!EmailAddress.TryRead(email, out var address)) return Result.Refused("That doesn’t look like an email address.", "Email");
        var normal = EmailAddress.Normalise(address);
        if (await db.Users.AnyAsync(a => a.NormalizedEmail == normal, ct)) return Taken;
        var at = clock.GetCurrentInstant();
        var member = db.AddPerson(ids, name.Trim(), address, at);
        member.Stand(new(Standing.Guest, null), at);
        db.StandingChanges.Add(new() { Id = ids.Next(), MemberId = member.Id, At = at, From = null, To = Standing.Guest });
        tell.Of(member, new Event.Added(), at, by);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Taken;
        }
        return member.Id;
    }

    static Result Taken => Result.Refused("Somebody with this address is here already.", "Email");
}
