using BrightCircle.Core.Members;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Members;

public static class PeopleData
{
    /// <summary>An account and the member behind it, under one number. The unique address is the database's to hold.</summary>
    public static Member AddPerson(this BrightContext db, Ids ids, string name, string email, Instant at)
    {
        var id = ids.Next();
        db.Users.Add(NewAccount(id, name, email, null));
        var member = new Member { Id = new(id), Name = name, Email = email, JoinedAt = at };
        db.Add(member);
        return member;
    }

    public static Account NewAccount(long id, string name, string email, TeamRole? role) => new()
    {
        Id = id,
        Name = name,
        Role = role,
        UserName = email,
        NormalizedUserName = EmailAddress.Normalise(email),
        Email = email,
        NormalizedEmail = EmailAddress.Normalise(email),
        EmailConfirmed = role is not null,
        SecurityStamp = NewStamp(),
        ConcurrencyStamp = NewStamp(),
        LockoutEnabled = true,
    };

    public static string NewStamp() => Guid.NewGuid().ToString("N");
}
