using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>A pause for a stated time, by the member within what their price allows, or by the team; and its end before that.</summary>
public sealed class PausePlan(BrightContext db, Memberships door, Tell tell, Catalogue catalogue)
{
    /// <param name="day">The day on which it goes on.</param>
    public Task<Result> Do(MemberId member, HoldingId id, LocalDate day, TeamActor? by, CancellationToken ct)
    {
        by?.NeedSupport();
        return door.Change(member, (m, at) =>
        {
            if (m.Find(id) is not { } holding) return Task.FromResult(Result.Refused("This membership isn’t here."));
            var rule = catalogue.Now.PriceOf(holding)?.Pause;
            if (Pausing.Refuses(holding, day, rule, by is not null, at) is { } no) return Task.FromResult(Result.Refused(no.Words(by is null ? rule : null),
                "Until"));
            var pause = Pausing.Preview(holding, day, at);
            db.HoldingFacts.Add(holding.Paused(at, pause.Until));
            tell.Of(m.Member, new Event.Paused(holding.Id, holding.PlanId, pause.Until, pause.PaidThrough), at, by);
            return Task.FromResult(Result.Done);
        }, ct);
    }

    /// <summary>Goes on now: only the days it had move what is paid.</summary>
    public Task<Result> Resume(MemberId member, HoldingId id, TeamActor? by, CancellationToken ct)
    {
        by?.NeedSupport();
        return door.Change(member, (m, at) =>
        {
            if (m.Find(id) is not { } holding
                || holding.StateAt(at) != HoldingState.Paused) return Task.FromResult(Result.Refused("There is no pause to end."));
            db.HoldingFacts.Add(holding.Resumed(at));
            tell.Of(m.Member, new Event.PauseOver(holding.Id, holding.PlanId, Early: true, holding.PaidThrough(at)!.Value), at, by);
            return Task.FromResult(Result.Done);
        }, ct);
    }
}
