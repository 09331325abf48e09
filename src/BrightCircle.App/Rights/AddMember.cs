using BrightCircle.App.Billing;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Rights;

/// <summary>The team adds a person by hand.</summary>
public sealed class AddMember(BrightContext db, Grants grants, Memberships door, Tell tell, IClock clock)
{
    public async Task<Result<MemberId>> Do(TeamActor by, string? name, string? email, CancellationToken ct)
    {
        by.NeedSupport();
        if (string.IsNullOrWhiteSpace(name) || name.Trim().Length > 120) return Result.Refused("A name is needed, of 120 letters at most.", "Name");
        if (!EmailAddress.TryRead(email, out var address)) return Result.Refused("That doesn’t look like an email address.", "Email");
        var normal = EmailAddress.Normalise(address);
        if (await db.Users.AnyAsync(a => a.NormalizedEmail == normal, ct)) return Taken;
        var at = clock.GetCurrentInstant();
        var m = grants.Arrive(name.Trim(), address, at);
        tell.Of(m.Member, new Event.Added(), at, by);
        await door.Leave([m], at, ct);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Taken;
        }
        return m.Member.Id;
    }

    static Result Taken => Result.Refused("Somebody with this address is here already.", "Email");
}
