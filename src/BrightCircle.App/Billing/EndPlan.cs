using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;

namespace BrightCircle.App.Billing;

/// <summary>The team ends a holding now. What it opened closes; nothing is paid back by this alone.</summary>
public sealed class EndPlan(Memberships door, Books books)
{
    public Task<Result> Do(TeamActor by, MemberId member, HoldingId id, CancellationToken ct)
    {
        by.NeedSupport();
        return door.Change(member, (m, at) =>
        {
            if (m.Find(id) is not { } holding) return Task.FromResult(Result.Refused("This holding isn’t here any more."));
            if (holding.StateAt(at) == HoldingState.Over) return Task.FromResult(Result.Refused("It has ended already."));
            books.End(m, holding, EndReason.EndedByTeam, at, by);
            return Task.FromResult(Result.Done);
        }, ct);
    }
}
