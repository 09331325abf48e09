using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Data;

namespace BrightCircle.App.Billing;

/// <summary>The owner waives what a standstill of the site left uncharged.</summary>
public sealed class WaiveOpen(BrightContext db, Memberships door, Tell tell)
{
    public Task<Result> Do(TeamActor by, MemberId member, HoldingId id, CancellationToken ct)
    {
        by.NeedOwner();
        return door.Change(member, (m, at) =>
        {
            if (m.Find(id) is not { } holding || Obligations.Of(holding, at).Open is not { } open)
                return Task.FromResult(Result.Refused("Nothing is open there."));
            db.HoldingFacts.Add(holding.Waived(at));
            tell.Of(m.Member, new Event.OpenWaived(holding.Id, holding.PlanId, open), at, by);
            return Task.FromResult(Result.Done);
        }, ct);
    }
}
