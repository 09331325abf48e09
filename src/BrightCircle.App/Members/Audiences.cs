using System.Globalization;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Members;

/// <summary>Who fits a condition just now.</summary>
/// <param name="First">The first of them by name.</param>
public sealed record AudienceLook(int Count, IReadOnlyList<MemberRow> First);

/// <summary>Two audiences beside each other: how many are in one alone, in both, in the other alone.</summary>
public sealed record AudienceDifference(int OnlyFirst, int Both, int OnlySecond);

/// <summary>Conditions under a name, kept and counted live.</summary>
public sealed class Audiences(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, ConditionSql sql)
{
    public const int Sample = 10;

    /// <param name="other">Another to lay beside it; null for none.</param>
    public async Task<(AudienceLook Look, AudienceDifference? Beside)> Look(Condition condition, Condition? other, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var members = sql.Members(condition);
        var count = trip.Count(members);
        var first = trip.List(members.OrderBy(m => m.Name).ThenBy(m => m.Id).Take(Sample).Select(MemberList.Row));
        var both = other is null ? null : trip.Count(sql.Members(new Condition.AllOf([condition, other])));
        var second = other is null ? null : trip.Count(sql.Members(other));
        await trip.Ask(ct);
        return (new(count.Value, first.Value), both is null || second is null ? null
            : new(count.Value - both.Value, both.Value, second.Value - both.Value));
    }

    /// <summary>How many fit each, in one trip.</summary>
    public async Task<IReadOnlyDictionary<AudienceId, int>> Counts(IReadOnlyList<Audience> audiences, CancellationToken ct)
    {
        if (audiences.Count == 0) return new Dictionary<AudienceId, int>();
        var trip = new OneTrip(db);
        var counts = audiences.Select(a => (a.Id, Count: trip.Count(sql.Members(a.Condition)))).ToArray();
        await trip.Ask(ct);
        return counts.ToDictionary(c => c.Id, c => c.Count.Value);
    }

    /// <param name="id">Null for a new one.</param>
    public async Task<Result<AudienceId>> Save(TeamActor by, AudienceId? id, string? name, Condition condition, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Support);
        name = name?.Trim() ?? "";
        if (name.Length is 0 or > Audience.MostName) return Result.Refused($"An audience needs a name of {Audience.MostName} letters at most.", "Name");
        if (ConditionRules.WrongWith(condition, catalogue.Now) is { } wrong) return Result.Refused(wrong, "Condition");
        var audience = id is { } known ? await db.Audiences.FirstOrDefaultAsync(a => a.Id == known, ct)
            : db.Add(new Audience { Id = ids.Next<AudienceId>(), Condition = condition, MadeAt = clock.GetCurrentInstant() }).Entity;
        if (audience is null) return Result.Refused("This audience isn’t here any more.");
        (audience.Name, audience.Condition) = (name, condition);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused($"There is an audience called {name} already.", "Name");
        }
        await catalogue.Changed(ct);
        return audience.Id;
    }

    public async Task<Result> Remove(TeamActor by, AudienceId id, CancellationToken ct)
    {
        by.Need(TeamRole.Owner, TeamRole.Editor, TeamRole.Support);
        if (await db.LetterSeries.FirstOrDefaultAsync(s => s.AudienceId == id, ct) is { } series)
            return Result.Refused($"“{series.Name}” goes to it each week. Choose another for that first.");
        if (catalogue.Now.People.Routines.FirstOrDefault(r => r.Script.Names(id)) is { } routine)
            return Result.Refused($"The routine “{routine.Name}” asks for it. Change that first.");
        if (await db.Coupons.FirstOrDefaultAsync(c => c.AudienceId == id, ct) is { } coupon)
            return Result.Refused($"The coupon {coupon.Code} is for it. Change that first.");
        if (await db.Mailings.AnyAsync(m => m.AudienceId == id, ct)) return Result.Refused("A letter went to it, or will; it stays.");
        if (await db.Audiences.Where(a => a.Id == id).ExecuteDeleteAsync(ct) == 0) return Result.Refused("This audience isn’t here any more.");
        await catalogue.Changed(ct);
        return Result.Done;
    }
}
