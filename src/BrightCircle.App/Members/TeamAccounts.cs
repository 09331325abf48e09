using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>Somebody of the team.</summary>
/// <param name="CameIn">Has used the letter's link, or signed in some other way.</param>
/// <param name="Shut">Isn't let in any more.</param>
/// <param name="SecondStep">Signs in with a code too.</param>
public sealed record TeamRow(long Id, string Name, string Email, TeamRole Role, bool CameIn, bool Shut, bool SecondStep);

/// <summary>Who helps: invited by letter, with a role that says what they may, and let in no longer when it is over.</summary>
public sealed class TeamAccounts(BrightContext db, Ids ids, AccountLetters letters, Deeds deeds, IClock clock, Wake wake)
{
    public const int Most = 50;

    /// <summary>The owners first, then by name; those who are let in no longer last.</summary>
    public async Task<IReadOnlyList<TeamRow>> List(CancellationToken ct) =>
        [.. (await db.Users.AsNoTracking().Where(a => a.Role != null)
                .Select(a => new { Account = a, Second = db.SecondSteps.Any(s => s.AccountId == a.Id && s.Since != null) }).ToListAsync(ct))
            .Select(a => new TeamRow(a.Account.Id, a.Account.Name, a.Account.Email!, a.Account.Role!.Value, a.Account.EmailConfirmed, a.Account.IsShut,
                a.Second))
            .OrderBy(a => a.Shut).ThenBy(a => a.Role).ThenBy(a => a.Name, StringComparer.CurrentCultureIgnoreCase)];

    /// <summary>What a role may do, to be read before it is given.</summary>
    public static string May(TeamRole role) => role switch
    {
        TeamRole.Owner => "everything: the offer, money and settings too, and who else is in the team",
        TeamRole.Editor => "content, editions, pages, letters to many and routines; answers questions, reads practice sheets",
        TeamRole.Host => "answers questions and reads practice sheets; notes, tags and things to do of members",
        TeamRole.Support => "members: corrects, gives, ends, pauses, notes payments that came; letters that came back; answers questions",
        _ => throw new ArgumentOutOfRangeException(nameof(role), role, "No such role."),
    };

    /// <summary>Makes an account and writes to it. The address may be nobody's yet: a member needs another one for the team.</summary>
    public async Task<Result<long>> Invite(TeamActor by, string? name, string? email, TeamRole role, CancellationToken ct)
    {
        by.NeedOwner();
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > 120) return Result.Refused("Say who it is, in 120 letters at most.", "Name");
        if (!EmailAddress.TryRead(email, out var address)) return Result.Refused("That isn’t an address letters can go to.", "Email");
        if (!Enum.IsDefined(role)) return Result.Refused("Choose what they may do.", "Role");
        if (await db.Users.CountAsync(a => a.Role != null, ct) >= Most) return Result.Refused($"A team of {Most} is the most.");
        var normal = EmailAddress.Normalise(address);
        if (await db.Users.AsNoTracking().FirstOrDefaultAsync(a => a.NormalizedEmail == normal, ct) is { } known)
            return Result.Refused(known.Role is null ? "A member has this address. For the team they need another one."
                : $"{known.Name} is in the team already.", "Email");
        var account = PeopleData.NewAccount(ids.Next(), name, address, role);
        account.EmailConfirmed = false;
        db.Users.Add(account);
        letters.Invite(account, by.Name, May(role), clock.GetCurrentInstant());
        deeds.Note(by, $"invited {name} into the team ({role.ToString().ToLowerInvariant()})", "/desk/settings/team");
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused("Somebody has this address already.", "Email");
        }
        wake.Up();
        return account.Id;
    }

    /// <summary>The same letter once more, with a new link.</summary>
    public Task<Result> InviteAgain(TeamActor by, long id, CancellationToken ct) => Change(by, id, async account =>
    {
        if (account.EmailConfirmed) return Result.Refused($"{account.Name} has been here already, and can sign in.");
        if (!await letters.MayWriteTo(account.NormalizedEmail!, clock.GetCurrentInstant(),
            ct)) return Result.Refused("Enough letters for this hour. Try later.");
        letters.Invite(account, by.Name, May(account.Role!.Value), clock.GetCurrentInstant());
        return Result.Done;
    }, ct);

    public Task<Result> SetRole(TeamActor by, long id, TeamRole role, CancellationToken ct) => Change(by, id, async account =>
    {
        if (!Enum.IsDefined(role)) return Result.Refused("Choose what they may do.");
        if (account.Role == role) return Result.Done;
        if (await LastOwner(account, ct)) return Result.Refused("One owner has to stay.");
        account.Role = role;
        deeds.Note(by, $"made {account.Name} {(role is TeamRole.Owner or TeamRole.Editor ? "an" : "a")} {role.ToString().ToLowerInvariant()}",
            "/desk/settings/team");
        return Result.Done;
    }, ct);

    /// <summary>From this moment on they aren't let in, wherever they are signed in; what they did keeps their name.</summary>
    public Task<Result> Shut(TeamActor by, long id, CancellationToken ct) => Change(by, id, async account =>
    {
        if (account.Id == by.AccountId) return Result.Refused("You can’t shut yourself out. Another owner can.");
        if (await LastOwner(account, ct)) return Result.Refused("One owner has to stay.");
        (account.LockoutEnd, account.SecurityStamp) = (Account.Shut, PeopleData.NewStamp());
        await db.SignInLinks.Where(l => l.AccountId == account.Id && l.UsedAt == null).ExecuteDeleteAsync(ct);
        deeds.Note(by, $"let {account.Name} in no longer", "/desk/settings/team");
        return Result.Done;
    }, ct);

    public Task<Result> LetIn(TeamActor by, long id, CancellationToken ct) => Change(by, id, account =>
    {
        account.LockoutEnd = null;
        deeds.Note(by, $"let {account.Name} in again", "/desk/settings/team");
        return Task.FromResult(Result.Done);
    }, ct);

    async Task<bool> LastOwner(Account account, CancellationToken ct) => account is { Role: TeamRole.Owner, IsShut: false }
        && !(await db.Users.AsNoTracking().Where(a => a.Role == TeamRole.Owner && a.Id != account.Id).ToListAsync(ct)).Any(a => !a.IsShut);

    async Task<Result> Change(TeamActor by, long id, Func<Account, Task<Result>> change, CancellationToken ct)
    {
        by.NeedOwner();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        // One change of the team at a time: of two owners who shut each other out, one stays.
        await db.Database.ExecuteSqlAsync($"select 1 from accounts where role is not null order by id for update", ct);
        if (await db.Users.FirstOrDefaultAsync(a => a.Id == id && a.Role != null,
            ct) is not { } account) return Result.Refused("Nobody of that name is in the team.");
        var done = await change(account);
        if (!done.Ok) return done;
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return done;
    }
}
