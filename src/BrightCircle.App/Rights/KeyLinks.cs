using System.Security.Cryptography;
using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Rights;

/// <summary>A key link as it is made.</summary>
/// <param name="LastDay">The last day on which it can be used.</param>
/// <param name="OpenUntil">The last day that what it gives is open.</param>
public sealed record KeyLinkDraft(PlanId Plan, string? Name, string? PaidElsewhere, int? Most, LocalDate? LastDay, LocalDate? OpenUntil, bool AllAtOnce);

/// <param name="Used">How often it was used.</param>
public sealed record KeyLinkRow(KeyLink Link, int Used);

/// <summary>Links that give a plan to whoever has them.</summary>
public sealed class KeyLinks(BrightContext db, Ids ids, Catalogue catalogue, Memberships door, Grants grants, AccountLetters letters,
    Deeds deeds, IClock clock)
{
    CatalogueSnapshot Now => catalogue.Now;

    public async Task<IReadOnlyList<KeyLinkRow>> All(CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var links = trip.List(db.KeyLinks.AsNoTracking().OrderByDescending(k => k.MadeAt).Take(200));
        var used = trip.List(db.Holdings.Where(h => h.Source == HoldingSource.Key).GroupBy(h => h.Through!.Value).Select(g => new
        {
            g.Key,
            Count = g.Count()
        }));
        await trip.Ask(ct);
        var by = used.Value.ToDictionary(u => u.Key, u => u.Count);
        return [.. links.Value.Select(l => new KeyLinkRow(l, by.GetValueOrDefault(l.Id)))];
    }

    /// <summary>A link with those who used it, the newest first.</summary>
    public async Task<(KeyLink Link, IReadOnlyList<(MemberId Id, string Name, Instant At)> Users)?> Find(long id, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var link = trip.List(db.KeyLinks.AsNoTracking().Where(k => k.Id == id));
        var users = trip.List(db.Holdings.Where(h => h.Source == HoldingSource.Key && h.Through == id).OrderByDescending(h => h.StartsAt).Take(500)
            .Join(db.Members, h => h.MemberId, m => m.Id, (h, m) => new { m.Id, m.Name, h.StartsAt }));
        await trip.Ask(ct);
        return link.Value is [var found] ? (found, [.. users.Value.Select(u => (u.Id, u.Name, u.StartsAt))]) : null;
    }

    public async Task<Result<long>> Make(TeamActor by, KeyLinkDraft draft, CancellationToken ct)
    {
        by.NeedSupport();
        var at = clock.GetCurrentInstant();
        if (new Grant(draft.Plan, HoldingSource.Key, Until: draft.OpenUntil).Wrong(Now) is { } wrong) return wrong;
        if (draft.Name?.Trim().Length > 120) return Result.Refused("That name is too long; 120 letters are the most.", "Name");
        if (draft.PaidElsewhere?.Trim().Length > 120) return Result.Refused("That is too long; 120 letters are the most.", "PaidElsewhere");
        if (draft.Most is < 1 or > 100_000) return Result.Refused("It can be used 1 to 100,000 times, or as often as anybody likes.", "Most");
        if (draft.LastDay is { Year: < 2000 or > 2200 }) return Result.Refused("Choose a day within reason.", "LastDay");
        var ends = draft.LastDay is { } day ? Now.Calendar.At(day.PlusDays(1).AtMidnight()) : (Instant?)null;
        if (ends <= at) return Result.Refused("Its last day is over already.", "LastDay");
        if (draft.OpenUntil is { } last && Now.Calendar.At(last.PlusDays(1).AtMidnight()) <= at)
            return Result.Refused("What it gives would be over already.", "OpenUntil");
        var link = new KeyLink
        {
            Id = ids.Next(),
            Code = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(10)),
            PlanId = draft.Plan,
            Name = draft.Name?.Trim() ?? "",
            PaidElsewhere = draft.PaidElsewhere?.Trim() ?? "",
            Most = draft.Most,
            EndsAt = ends,
            OpenUntil = draft.OpenUntil,
            AllAtOnce = draft.AllAtOnce,
            MadeAt = at,
            MadeBy = by.Name,
        };
        db.Add(link);
        deeds.Note(by, $"made a key link for {Now.PlanName(draft.Plan)}", $"/desk/keys/{link.Id}");
        await db.SaveChangesAsync(ct);
        return link.Id;
    }

    /// <summary>It can't be used any more. Who used it keeps what they have.</summary>
    public async Task<Result> Revoke(TeamActor by, long id, CancellationToken ct)
    {
        by.NeedSupport();
        var at = clock.GetCurrentInstant();
        var n = await db.KeyLinks.Where(k => k.Id == id && k.RevokedAt == null).ExecuteUpdateAsync(u => u.SetProperty(k => k.RevokedAt, at), ct);
        if (n == 0) return Result.Refused("It was taken back already.");
        await deeds.Write(by, "took a key link back", $"/desk/keys/{id}", ct);
        return Result.Done;
    }

    /// <summary>A link by the last part of its address; null where there is none.</summary>
    public Task<KeyLink?> ByCode(string code, CancellationToken ct) => db.KeyLinks.AsNoTracking().FirstOrDefaultAsync(k => k.Code == code, ct);

    /// <summary>Why a link can't be used now; null where it can.</summary>
    public async Task<string?> Closed(KeyLink link, CancellationToken ct)
    {
        if (link.IsOver(clock.GetCurrentInstant())) return "This link isn’t good any more.";
        return link.Most is { } most && await db.Holdings.CountAsync(h => h.Source == HoldingSource.Key && h.Through == link.Id, ct) >= most
            ? "This link has been used as often as it may be." : null;
    }

    /// <summary>A member uses a link. The last use goes to one of two who press at once.</summary>
    public Task<Result> Use(KeyLink link, MemberId member, CancellationToken ct) => door.Change(member, (m, at) => Take(link, m, at, false, ct), ct);

    /// <summary>
    /// Somebody who isn't signed in uses a link. What it gives waits for them behind a letter, which proves the address; nothing tells whether it was known.
    /// </summary>
    public async Task<Result> Use(KeyLink link, string? name, string? email, CancellationToken ct)
    {
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > 120) return Result.Refused("Tell us your name, in 120 letters at most.", "Name");
        if (!EmailAddress.TryRead(email, out var address))
            return Result.Refused("That doesn’t look like an email address. It needs the form name@example.com.", "Email");
        var normal = EmailAddress.Normalise(address);
        var now = clock.GetCurrentInstant();
        if (!await letters.MayWriteTo(normal, now, ct)) return Result.Done;
        var account = await db.Users.AsNoTracking().FirstOrDefaultAsync(a => a.NormalizedEmail == normal, ct);
        if (account is { Role: null })
        {
            // Theirs already: they come in by letter, and press there themselves.
            letters.HasAccount(account, $"/key/{link.Code}", now);
            await db.SaveChangesAsync(ct);
            return Result.Done;
        }
        if (account is not null) return Result.Done;
        return await door.Do([], async () =>
        {
            var at = clock.GetCurrentInstant();
            var m = grants.Arrive(name, address, at, link.PlanId);
            var done = await Take(link, m, at, true, ct);
            if (done.Ok) await door.Leave([m], at, ct);
            return done;
        }, ct);
    }

    async Task<Result> Take(KeyLink link, Membership m, Instant at, bool isNew, CancellationToken ct)
    {
        // Whoever comes second waits here, and counts the first.
        var row = (await db.KeyLinks.FromSql($"select * from key_links where id = {link.Id} for update").AsNoTracking().ToListAsync(ct))[0];
        if (row.IsOver(at)) return Result.Refused("This link isn’t good any more.");
        if (row.Most is { } most && await db.Holdings.CountAsync(h => h.Source == HoldingSource.Key && h.Through == link.Id, ct) >= most)
            return Result.Refused("This link has been used as often as it may be.");
        // The welcome letter of somebody new is their way in; who is signed in is there already.
        var length = row.PriceId is { } bought ? Now.PriceById[bought].Terms.Access?.EndFrom(at, Now.Calendar) : null;
        var until = length is { } end ? Now.Calendar.Date(end) : row.OpenUntil;
        var given = grants.Give(m, new(row.PlanId, HoldingSource.Key, Until: until, AllAtOnce: row.AllAtOnce, Note: row.Name.Length > 0
            ? row.Name : null,
            Through: row.Id, Quietly: !isNew), at);
        return given.Ok ? Result.Done : Result.Refused(given.Refusal!);
    }
}
