using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Offer;

/// <param name="Live">How many hold the plan by each version, the newest first.</param>
/// <param name="Versions">What was promised before, the oldest first.</param>
/// <param name="Moves">The latest acts of moving people to another version, the newest first.</param>
public sealed record PromisePast(IReadOnlyList<(int Version, int Holders)> Live, IReadOnlyList<PromiseVersion> Versions, IReadOnlyList<PromiseMove> Moves);

/// <summary>What became of a plan's promises.</summary>
public sealed class PromiseHistory(BrightContext db, MemberReader reader)
{
    public async Task<PromisePast> Of(PlanId plan, CancellationToken ct) => new(await reader.Versions(plan, ct),
        await db.PromiseVersions.AsNoTracking().Where(v => v.Plan == plan).OrderBy(v => v.Number).ToListAsync(ct),
        await db.PromiseMoves.AsNoTracking().Where(m => m.PlanId == plan).OrderByDescending(m => m.At).ThenByDescending(m => m.Id).Take(10).ToListAsync(ct));
}
