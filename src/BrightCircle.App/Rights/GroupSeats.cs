using System.Security.Cryptography;
using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Rights;

/// <summary>A group as its holder sees it.</summary>
/// <param name="Names">Of those who took a seat.</param>
public sealed record GroupView(Holding Holding, IReadOnlyList<GroupSeat> Seats, IReadOnlyDictionary<MemberId, string> Names)
{
    public int Free => Math.Max(0, Holding.Seats!.Value - Seats.Count);
}

/// <summary>
/// A plan that one person holds for a group: they invite people to its seats, and free a seat for somebody else. A seat is open as long as the group's
/// holding is.
/// </summary>
public sealed class GroupSeats(BrightContext db, Ids ids, Memberships door, Books books, Grants grants, Catalogue catalogue, AccountLetters letters,
    IClock clock)
{
    /// <summary>Seats that aren't free: taken, or offered.</summary>
    IQueryable<GroupSeat> Used(HoldingId holding) => db.GroupSeats.Where(s => s.HoldingId == holding && s.FreedAt == null);

    public async Task<GroupView?> Find(MemberId holder, HoldingId id, CancellationToken ct)
    {
        var holding = await db.Holdings.AsNoTracking().Include(h => h.Facts).FirstOrDefaultAsync(h => h.Id == id && h.MemberId == holder
            && h.Seats != null, ct);
        if (holding is null) return null;
        var seats = await Used(id).AsNoTracking().OrderBy(s => s.InvitedAt).ToListAsync(ct);
        var people = seats.Where(s => s.MemberId is not null).Select(s => s.MemberId!.Value).ToArray();
        return new(holding, seats, await db.Members.Where(m => people.Contains(m.Id)).ToDictionaryAsync(m => m.Id, m => m.Name, ct));
    }

    /// <summary>Offers a seat by letter. Whether the address is known here isn't told.</summary>
    public Task<Result> Invite(MemberId holder, HoldingId id, string? email, CancellationToken ct) => door.Change(holder, async (m, at) =>
    {
        if (m.Find(id) is not { Seats: { } seats } holding) return Result.Refused("This group isn’t yours.");
        if (!holding.IsHeldAt(at)) return Result.Refused("What the group holds isn’t open now.");
        if (!EmailAddress.TryRead(email, out var address)) return Result.Refused("That doesn’t look like an email address.", "Email");
        var used = await Used(id).ToListAsync(ct);
        if (used.Any(s => string.Equals(s.Email, address,
            StringComparison.OrdinalIgnoreCase))) return Result.Refused("They have a seat, or the letter, already.", "Email");
        if (used.Count >= seats) return Result.Refused("All seats are taken or offered. Free one first.", "Email");
        if (!await letters.MayWriteTo(EmailAddress.Normalise(address), at,
            ct)) return Result.Refused("Too many letters went there just now. Try again in an hour.", "Email");
        var seat = new GroupSeat
        {
            Id = ids.Next(),
            HoldingId = id,
            Email = address,
            Code = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(16)),
            InvitedAt = at
        };
        db.Add(seat);
        db.Letters.Add(new()
        {
            Id = ids.Next(),
            Kind = LetterKind.Seat,
            ToAddress = address,
            Fields = new() { ["by"] = m.Member.Name, ["plan"] = catalogue.Now.PlanName(holding.PlanId), ["seat_path"] = $"/seat/{seat.Code}" },
            PlanId = holding.PlanId,
            Key = $"seat-{seat.Id}",
            CreatedAt = at,
        });
        return Result.Done;
    }, ct);

    /// <summary>Frees a seat: whoever sat there loses what it gave, and only that.</summary>
    public async Task<Result> Free(MemberId holder, HoldingId id, long seat, CancellationToken ct)
    {
        var row = await db.GroupSeats.AsNoTracking().FirstOrDefaultAsync(s => s.Id == seat && s.HoldingId == id && s.FreedAt == null, ct);
        if (row is null || !await db.Holdings.AnyAsync(h => h.Id == id && h.MemberId == holder, ct)) return Result.Refused("This seat is free already.");
        if (row.MemberId is not { } sits)
        {
            var now = clock.GetCurrentInstant();
            var freed = await db.GroupSeats.Where(s => s.Id == seat && s.FreedAt == null && s.MemberId == null)
                .ExecuteUpdateAsync(u => u.SetProperty(s => s.FreedAt, now), ct);
            return freed == 1 ? Result.Done : Result.Refused("They have just taken it. Look again.");
        }
        return await door.Change(sits, async (m, at) =>
        {
            var one = await db.GroupSeats.SingleAsync(s => s.Id == seat, ct);
            if (one.FreedAt is not null) return Result.Refused("This seat is free already.");
            one.FreedAt = at;
            foreach (var h in m.Holdings.Where(h => h.Source == HoldingSource.Seat && h.Through == id.Value)) books.End(m, h, EndReason.SeatFreed, at);
            return Result.Done;
        }, ct);
    }

    /// <summary>An invitation by its address; null where there is none that counts.</summary>
    public async Task<(GroupSeat Seat, PlanId Plan, string By)?> ByCode(string code, CancellationToken ct)
    {
        var seat = await db.GroupSeats.AsNoTracking().FirstOrDefaultAsync(s => s.Code == code && s.FreedAt == null, ct);
        if (seat is null) return null;
        var group = await db.Holdings.Where(h => h.Id == seat.HoldingId).Join(db.Members, h => h.MemberId, m => m.Id, (h, m) => new { h.PlanId, m.Name })
            .SingleAsync(ct);
        return (seat, group.PlanId, group.Name);
    }

    /// <summary>
    /// Takes a seat: as who is signed in, else as the person behind the address it was sent to. The letter proves that address.
    /// </summary>
    /// <returns>Whose it is now.</returns>
    public async Task<Result<MemberId>> Take(string code, MemberId? member, string? name, CancellationToken ct)
    {
        if (await ByCode(code, ct) is not { } found) return Result.Refused("This seat isn’t kept for you any more.");
        var normal = EmailAddress.Normalise(found.Seat.Email);
        var account = member is null ? await db.Users.FirstOrDefaultAsync(a => a.NormalizedEmail == normal, ct) : null;
        if (account is { Role: not null }) return Result.Refused("This is the address of one of the team, who see everything anyway.");
        var who = member ?? (account is { } known ? new MemberId(known.Id) : null);
        name = name?.Trim() ?? "";
        if (who is null && name.Length is 0 or > 120) return Result.Refused("Tell us your name, in 120 letters at most.", "Name");
        MemberId sits = default;
        var done = await door.Do(who is { } w ? [w] : [], async () =>
        {
            var at = clock.GetCurrentInstant();
            var seat = (await db.GroupSeats.FromSql($"select * from group_seats where id = {found.Seat.Id} for update").ToListAsync(ct))[0];
            if (seat.FreedAt is not null || seat.MemberId is not null) return Result.Refused("This seat is taken.");
            var group = await db.Holdings.AsNoTracking().Include(h => h.Facts).SingleAsync(h => h.Id == seat.HoldingId, ct);
            if (!group.IsHeldAt(at)) return Result.Refused("What the group holds isn’t open any more.");
            if (group.MemberId == who) return Result.Refused("It is your own group; the seats are for others.");
            var m = who is { } id ? (await door.Enter([id], ct))[id] : grants.Arrive(name, seat.Email, at, group.PlanId);
            var given = grants.Give(m, new(group.PlanId, HoldingSource.Seat, AllAtOnce: group.AllAtOnce, Through: group.Id.Value, Quietly: true), at);
            if (!given.Ok) return Result.Refused(given.Refusal!);
            (seat.MemberId, seat.TakenAt, sits) = (m.Member.Id, at, m.Member.Id);
            await door.Leave([m], at, ct);
            return Result.Done;
        }, ct);
        if (!done.Ok) return Result.Refused(done.Refusal!, done.Field);
        if (member is null)
            await db.Users.Where(a => a.Id == sits.Value && !a.EmailConfirmed).ExecuteUpdateAsync(u => u.SetProperty(a => a.EmailConfirmed, true), ct);
        return sits;
    }
}

/// <summary>A group's holding is over: so are its seats.</summary>
public sealed class EndSeats(BrightContext db, Memberships door, Books books) : IDueHandler
{
    public DueKind Kind => DueKind.EndSeats;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        foreach (var item in items)
        {
            var group = new HoldingId(item.Row.SubjectId);
            if (await db.Holdings.AnyAsync(h => h.Id == group && !h.IsOver, ct)) continue;
            var sit = await db.Holdings.Where(h => h.Source == HoldingSource.Seat && h.Through == item.Row.SubjectId && !h.IsOver).Select(h => h.MemberId)
                .Distinct().ToListAsync(ct);
            var people = await door.Enter(sit, ct);
            foreach (var m in people.Values)
                foreach (var h in m.Holdings.Where(h => h.Source == HoldingSource.Seat && h.Through == item.Row.SubjectId))
                    books.End(m, h, EndReason.GroupOver, item.Moment);
            await door.Leave([.. people.Values], item.Moment, ct);
            happened.Add("seats ended", people.Count);
        }
    }
}
