using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>The team puts a member's name or address right. A new address is proved by the link in a letter that goes to it.</summary>
public sealed class CorrectMember(BrightContext db, Tell tell, AccountLetters letters, IClock clock, Wake wake)
{
    public async Task<Result> Do(TeamActor by, MemberId id, string? name, string? email, CancellationToken ct)
    {
        by.NeedSupport();
        if (string.IsNullOrWhiteSpace(name) || name.Trim().Length > 120) return Result.Refused("A name is needed, of 120 letters at most.", "Name");
        if (!EmailAddress.TryRead(email, out var address)) return Result.Refused("That doesn’t look like an email address.", "Email");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Database.ExecuteSqlAsync($"select 1 from members where id = {id.Value} for no key update", ct);
        if (await db.Members.FirstOrDefaultAsync(m => m.Id == id, ct) is not { } member
            || await db.Users.FirstOrDefaultAsync(a => a.Id == id.Value, ct) is not { } account)
            return Result.Refused("This person isn’t here any more.");
        var (oldName, oldEmail) = (member.Name, member.Email);
        if (oldName == name.Trim() && oldEmail == address) return Result.Refused("That is how it stands already.");
        var normal = EmailAddress.Normalise(address);
        if (await db.Users.AnyAsync(a => a.NormalizedEmail == normal && a.Id != account.Id, ct)) return Taken;
        var at = clock.GetCurrentInstant();
        (member.Name, member.Email, account.Name) = (name.Trim(), address, name.Trim());
        if (account.NormalizedEmail != normal)
        {
            (account.Email, account.NormalizedEmail, account.UserName, account.NormalizedUserName) = (address, normal, address, normal);
            // What was sent to the old address opens nothing any more, and nobody is signed in by it.
            (account.EmailConfirmed, account.SecurityStamp) = (false, PeopleData.NewStamp());
            await db.SignInLinks.Where(l => l.AccountId == account.Id && l.UsedAt == null && l.ExpiresAt > at)
                .ExecuteUpdateAsync(u => u.SetProperty(l => l.ExpiresAt, at), ct);
            letters.Confirm(account, at);
        }
        tell.Of(member, new Event.Corrected(oldName, oldEmail, member.Name, member.Email), at, by);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Taken;
        }
        await transaction.CommitAsync(ct);
        wake.Up();
        return Result.Done;
    }

    static Result Taken => Result.Refused("Somebody else has this address.", "Email");
}
