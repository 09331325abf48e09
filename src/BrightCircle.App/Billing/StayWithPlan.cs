using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;

namespace BrightCircle.App.Billing;

/// <summary>A member takes a leaving back while the paid time still runs: it renews as if nothing had been said.</summary>
public sealed class StayWithPlan(BrightContext db, Memberships door, Tell tell)
{
    public Task<Result> Do(MemberId member, HoldingId id, CancellationToken ct) => door.Change(member, (m, at) =>
    {
        if (m.Find(id) is not { } holding) return Task.FromResult(Result.Refused("This membership isn’t yours."));
        if (holding.StateAt(at) != HoldingState.Ending) return Task.FromResult(Result.Refused("There is no leaving to take back."));
        db.HoldingFacts.Add(holding.Staying(at));
        tell.Of(m.Member, new Event.Stayed(holding.Id, holding.PlanId), at);
        return Task.FromResult(Result.Done);
    }, ct);
}
