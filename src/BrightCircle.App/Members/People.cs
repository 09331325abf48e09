using BrightCircle.App.Billing;
using BrightCircle.App.House;
using BrightCircle.App.Letters;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>Addresses as people type them.</summary>
public static class EmailAddress
{
    public static bool TryRead(string? typed, out string email)
    {
        email = typed?.Trim() ?? "";
        return email.Length is > 2 and <= 254 && !email.Contains(' ') && MimeKit.MailboxAddress.TryParse(email, out var parsed)
            && parsed.Address == email && parsed.Domain.Contains('.') && !parsed.Domain.EndsWith('.');
    }

    /// <summary>As accounts are looked up: the same for every way of writing capitals.</summary>
    public static string Normalise(string email) => email.Trim().ToUpperInvariant();
}

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
        SecurityStamp = Guid.NewGuid().ToString("N"),
        ConcurrencyStamp = Guid.NewGuid().ToString("N"),
        LockoutEnabled = true,
    };
}

/// <summary>What the team does for one person by hand: add, give, end.</summary>
public sealed class CareForMember(BrightContext db, Ids ids, Books books, Catalogue catalogue, IClock clock, Wake wake)
{
    public async Task<Result<MemberId>> Add(TeamActor by, string? name, string? email, CancellationToken ct)
    {
        by.NeedSupport();
        if (string.IsNullOrWhiteSpace(name) || name.Trim().Length > 120) return Result.Refused("A name is needed, of 120 letters at most.", "Name");
        if (!EmailAddress.TryRead(email, out var address)) return Result.Refused("That doesn’t look like an email address.", "Email");
        var normal = EmailAddress.Normalise(address);
        if (await db.Users.AnyAsync(a => a.NormalizedEmail == normal, ct)) return Result.Refused("Somebody with this address is here already.", "Email");
        var at = clock.GetCurrentInstant();
        var member = db.AddPerson(ids, name.Trim(), address, at);
        books.Restand(member, [], at);
        books.Journal(member.Id, at, JournalKind.Team, "was added by hand", by);
        await db.SaveChangesAsync(ct);
        return member.Id;
    }

    /// <summary>Gives a plan without payment, for ever or until the end of a day.</summary>
    public async Task<Result> Give(TeamActor by, MemberId to, PlanId plan, LocalDate? until, string? note, CancellationToken ct)
    {
        by.NeedSupport();
        var now = catalogue.Now;
        var at = clock.GetCurrentInstant();
        if (!now.PlanById.TryGetValue(plan, out var given)) return Result.Refused("Choose what to give.", "Plan");
        var ends = until is { } day ? now.Calendar.At(day.PlusDays(1).AtMidnight()) : (Instant?)null;
        if (ends <= at) return Result.Refused("A gift ends in the future, or never.", "Until");
        if (note?.Length > 400) return Result.Refused("The note is too long; 400 letters are the most.", "Note");

        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var member = await db.Members.FromSql($"select * from members where id = {to.Value} for update").SingleAsync(ct);
        var all = await db.Holdings.Where(h => h.MemberId == to).Include(h => h.Facts).ToListAsync(ct);
        if (all.Any(h => h.PlanId == plan && h.StateAt(at) is not (HoldingState.Over or HoldingState.NotYet))) return Result.Refused($"{member.Name} holds {given.Name} already.", "Plan");
        var holding = new Holding { Id = ids.Next<HoldingId>(), MemberId = to, PlanId = plan, Source = HoldingSource.Gift, StartsAt = at, Anchor = at, Note = string.IsNullOrWhiteSpace(note) ? null : note.Trim() };
        db.Add(holding);
        all.Add(holding);
        db.HoldingFacts.Add(HoldingFact.Given(ids.Next<HoldingFactId>(), holding.Id, at, ends));
        if (ends is { } end) books.Due(DueKind.EndHolding, holding.Id.Value, end, $"end-{holding.Id.Value}-{end.ToUnixTimeSeconds()}");
        books.Journal(to, at, JournalKind.GaveGift, $"was given {given.Name}{(until is { } u ? " until " + u.ToString("d MMMM uuuu", now.Culture) : "")}", by);
        new Letterbox(db, ids, catalogue).Welcome(member, given, null, holding.Id, at, by.Name);
        books.Restand(member, all, at);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>Ends a holding now. What it opened closes; nothing is paid back by this alone.</summary>
    public async Task<Result> End(TeamActor by, HoldingId id, CancellationToken ct)
    {
        by.NeedSupport();
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.DropDue(id, ct);
        var subjects = await db.LoadSubjects([id], catalogue.Now, ct);
        if (!subjects.TryGetValue(id, out var s)) return Result.Refused("This holding isn’t here any more.");
        if (s.Holding.StateAt(at) == HoldingState.Over) return Result.Refused("It has ended already.");
        books.End(s.Member, s.Holding, s.All, EndReason.EndedByTeam, at, by);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }
}

/// <summary>What a member decides about their own membership.</summary>
public sealed class OwnMembership(BrightContext db, Ids ids, Books books, Catalogue catalogue, IClock clock, Wake wake)
{
    /// <summary>Leaves: open to the end of the paid time, never charged again. Where nothing is paid ahead it ends at once.</summary>
    public async Task<Result> Leave(MemberId member, HoldingId id, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.DropDue(id, ct);
        var subjects = await db.LoadSubjects([id], catalogue.Now, ct);
        if (!subjects.TryGetValue(id, out var s) || s.Member.Id != member) return Result.Refused("This membership isn’t yours.");
        var plan = catalogue.Now.PlanById[s.Holding.PlanId];
        switch (s.Holding.StateAt(at))
        {
            case HoldingState.Active or HoldingState.Trial when s.Holding.PaidThrough(at) is { } until && until > at:
                var leaving = HoldingFact.Leaving(ids.Next<HoldingFactId>(), id, at, until);
                db.HoldingFacts.Add(leaving);
                books.Due(DueKind.EndHolding, id.Value, until, $"end-{id.Value}-{until.ToUnixTimeSeconds()}-{leaving.Id.Value}");
                books.Journal(member, at, JournalKind.Left, $"left {plan.Name}; open until {catalogue.Now.Calendar.Date(until).ToString("d MMMM uuuu", catalogue.Now.Culture)}");
                new Letterbox(db, ids, catalogue).Ending(s.Member, plan, leaving);
                books.Restand(s.Member, s.All, at);
                break;
            case HoldingState.Active or HoldingState.Trial or HoldingState.Grace:
                books.Journal(member, at, JournalKind.Left, $"left {plan.Name}");
                books.End(s.Member, s.Holding, s.All, EndReason.Left, at);
                break;
            case HoldingState.Ending:
                return Result.Refused("You’ve already left; it runs to the end of the paid time.");
            default:
                return Result.Refused("It has ended already.");
        }
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        wake.Up();
        return Result.Done;
    }

    /// <summary>Takes a leaving back while the paid time still runs: it renews as if nothing had been said.</summary>
    public async Task<Result> Stay(MemberId member, HoldingId id, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var subjects = await db.LoadSubjects([id], catalogue.Now, ct);
        if (!subjects.TryGetValue(id, out var s) || s.Member.Id != member) return Result.Refused("This membership isn’t yours.");
        if (s.Holding.StateAt(at) != HoldingState.Ending) return Result.Refused("There is no leaving to take back.");
        await db.DueWork.Where(d => d.Kind == DueKind.EndHolding && d.SubjectId == id.Value).ExecuteDeleteAsync(ct);
        db.HoldingFacts.Add(HoldingFact.Staying(ids.Next<HoldingFactId>(), id, at));
        if (s.Holding.PaidThrough(at) is { } next && s.Price.Terms is Core.Billing.PriceTerms.Recurring terms)
        {
            var turn = 0;
            while (catalogue.Now.Calendar.Boundary(s.Holding.Anchor, terms.Every, turn) < next) turn++;
            books.DueRenewal(id, next, turn);
        }
        books.Journal(member, at, JournalKind.Stayed, $"stays with {catalogue.Now.PlanName(s.Holding.PlanId)} after all");
        books.Restand(s.Member, s.All, at);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        return Result.Done;
    }

    public async Task SetWantsNews(MemberId member, bool wants, CancellationToken ct) =>
        await db.Members.Where(m => m.Id == member).ExecuteUpdateAsync(u => u.SetProperty(m => m.WantsNews, wants), ct);

    /// <summary>Says in which zone the member's days are; null for the site's own.</summary>
    public async Task<Result> SetZone(MemberId member, string? zoneId, CancellationToken ct)
    {
        if (zoneId is { } z && DateTimeZoneProviders.Tzdb.GetZoneOrNull(z) is null) return Result.Refused("There is no such time zone. Choose one from the list.", "Zone");
        await db.Members.Where(m => m.Id == member).ExecuteUpdateAsync(u => u.SetProperty(m => m.ZoneId, zoneId), ct);
        return Result.Done;
    }
}

/// <summary>Personal links that sign in once.</summary>
public sealed class SignInByLink(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, SignInTokens tokens, Books books, Wake wake)
{
    /// <summary>Sends a link, if there is such an account. Whoever asks is not told whether there is.</summary>
    public async Task Request(string email, string returnPath, CancellationToken ct)
    {
        var normal = EmailAddress.Normalise(email);
        var account = await db.Users.AsNoTracking().FirstOrDefaultAsync(a => a.NormalizedEmail == normal, ct);
        if (account is null) return;
        var member = await db.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == new MemberId(account.Id), ct);
        new Letterbox(db, ids, catalogue).SignIn(member, account, returnPath, clock.GetCurrentInstant());
        await db.SaveChangesAsync(ct);
        wake.Up();
    }

    /// <summary>Uses a link up. Two browsers with the same link: one gets in.</summary>
    /// <returns>The account and where to go, or null where the link is not good (any more).</returns>
    public async Task<(Account Account, string ReturnPath)?> Use(string token, CancellationToken ct)
    {
        if (tokens.ReadSignIn(token) is not { } id) return null;
        var at = clock.GetCurrentInstant();
        var used = await db.SignInLinks.Where(l => l.Id == id && l.UsedAt == null && l.ExpiresAt > at).ExecuteUpdateAsync(u => u.SetProperty(l => l.UsedAt, at), ct);
        if (used == 0) return null;
        var link = await db.SignInLinks.AsNoTracking().SingleAsync(l => l.Id == id, ct);
        var account = await db.Users.SingleAsync(a => a.Id == link.AccountId, ct);
        account.EmailConfirmed = true;
        if (account.Role is null) books.Journal(new(account.Id), at, JournalKind.SignedIn, "signed in by link");
        await db.SaveChangesAsync(ct);
        return (account, link.ReturnPath);
    }

    /// <summary>Whether a link would still work, for the page that asks to go on.</summary>
    public async Task<bool> IsGood(string token, CancellationToken ct)
    {
        if (tokens.ReadSignIn(token) is not { } id) return false;
        var at = clock.GetCurrentInstant();
        return await db.SignInLinks.AnyAsync(l => l.Id == id && l.UsedAt == null && l.ExpiresAt > at, ct);
    }
}
