using BrightCircle.App.Access;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Offer;

/// <summary>A promise as it is edited.</summary>
/// <param name="PaceOf">The pace of those who hold the plan through a price, instead of the lines'.</param>
/// <param name="BasedOn">The number of the version it was made from.</param>
public sealed record PromiseDraft(IReadOnlyList<Inclusion> Lines, IReadOnlyDictionary<PriceId, Pace> PaceOf, int BasedOn);

/// <summary>
/// Gives a plan another promise, for those who join from now on. What was promised before stays as a version, and whoever holds the plan lives by theirs
/// until they are moved. While nobody ever held the plan, there is only the one.
/// </summary>
public sealed class SavePromise(BrightContext db, Catalogue catalogue, Deeds deeds, IClock clock)
{
    /// <returns>The number of the promise that counts from now on.</returns>
    public async Task<Result<int>> Do(TeamActor by, PlanId id, PromiseDraft draft, CancellationToken ct)
    {
        by.NeedOwner();
        var now = catalogue.Now;
        if (!now.PlanById.ContainsKey(id)) return Result.Refused("This plan isn’t here any more.");
        if (PromiseRules.Wrong(now, draft.Lines, id) is { } wrong) return Result.Refused(wrong, "Promise");
        foreach (var (price, pace) in draft.PaceOf)
            if (!now.PriceById.TryGetValue(price, out var p) || p.PlanId != id) return Result.Refused("One of the prices is gone.", "Promise");
            else if (PaceLimits.Wrong(pace) is { } wrongPace) return Result.Refused(wrongPace, "Promise");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var plan = (await db.Plans.FromSql($"select * from plans where id = {id.Value} for update").ToListAsync(ct))[0];
        if (plan.PromiseNumber != draft.BasedOn)
            return Result.Refused("Somebody changed this promise meanwhile. Open it again; what you wrote is still in this window.", "Promise");
        var at = clock.GetCurrentInstant();
        var before = new PromiseVersion(id, plan.PromiseNumber, plan.PromiseFrom, plan.Promise, plan.PaceOf);
        var after = new PromiseVersion(id, plan.PromiseNumber + 1, at, [.. draft.Lines.Distinct()], draft.PaceOf);
        if (before.SaysWhat(after)) return plan.PromiseNumber;
        if (await db.Holdings.AnyAsync(h => h.PlanId == id, ct))
        {
            db.PromiseVersions.Add(before);
            plan.PromiseNumber = after.Number;
        }
        deeds.Note(by, $"changed what {plan.Name} promises, for those who join from then on", $"/desk/tiers/{id.Value}/promise");
        (plan.Promise, plan.PaceOf, plan.PromiseFrom) = (after.Promise, after.PaceOf, at);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return plan.PromiseNumber;
    }
}
