using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Offer;

/// <param name="Live">How many hold the plan by each version, the newest first.</param>
/// <param name="Versions">What was promised before, the oldest first.</param>
/// <param name="Moves">The latest acts of moving people to another version, the newest first.</param>
public sealed record PromisePast(IReadOnlyList<(int Version, int Holders)> Live, IReadOnlyList<PromiseVersion> Versions, IReadOnlyList<PromiseMove> Moves);

/// <summary>What became of a plan's promises: one round trip.</summary>
public sealed class PromiseHistory(BrightContext db, Catalogue catalogue)
{
    public async Task<PromisePast> Of(PlanId plan, CancellationToken ct)
    {
        var trip = new OneTrip(db);
        var live = MemberReader.Versions(trip, plan);
        var moves = trip.List(db.PromiseMoves.AsNoTracking().Where(m => m.PlanId == plan).OrderByDescending(m => m.At).ThenByDescending(m => m.Id).Take(10));
        await trip.Ask(ct);
        return new(live.Value, catalogue.Now.PlanById[plan].Earlier, moves.Value);
    }
}
