using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Billing;

/// <summary>A member leaves: open to the end of the paid time, never charged again. Where nothing is paid ahead it ends at once.</summary>
public sealed class LeavePlan(BrightContext db, Memberships door, Books books, Tell tell)
{
    /// <param name="why">What they say of it; nothing where they don't.</param>
    public Task<Result> Do(MemberId member, HoldingId id, CancellationToken ct, string? why = null) =>
        door.Change(member, (m, at) => Task.FromResult(Leave(m, id, at, string.IsNullOrWhiteSpace(why) ? null : Bounded.To(why.Trim(), 400))), ct);

    /// <summary>Whether somebody about to leave is shown what they could do instead: once for a holding, and that is noted.</summary>
    public async Task<bool> ShowOffers(MemberId member, HoldingId id, CancellationToken ct)
    {
        Task<bool> Was() => db.Journal.AnyAsync(j => j.MemberId == member && j.Kind == "leave-offered"
            && j.At >= db.Holdings.Where(h => h.Id == id).Select(h => h.StartsAt).First(), ct);
        if (await Was()) return false;
        var shown = false;
        await door.Change(member, async (m, at) =>
        {
            if (m.Find(id) is not { } holding || await Was()) return Result.Refused("It was shown.");
            tell.Of(m.Member, new Event.LeaveOffered(holding.Id, holding.PlanId), at);
            shown = true;
            return Result.Done;
        }, ct);
        return shown;
    }

    Result Leave(Membership m, HoldingId id, NodaTime.Instant at, string? why)
    {
        if (m.Find(id) is not { } holding) return Result.Refused("This membership isn’t yours.");
        switch (holding.StateAt(at))
        {
            case HoldingState.Ending: return Result.Refused("You’ve already left; it runs to the end of the paid time.");
            case HoldingState.Over or HoldingState.NotYet: return Result.Refused("It has ended already.");
            case HoldingState.Active or HoldingState.Trial or HoldingState.Grace or HoldingState.Paused or HoldingState.Closed: break;
        }
        if (holding.Timeline.Leaving is not null) return Result.Refused("It changes to something else soon. Take that back first, or leave what it "
            + "changes to.");
        if (holding.Agreement.IsInstalments) return Result.Refused("It is paid in instalments: what is agreed is owed, and then it is yours.");
        if (!Leaving.Possible(holding, at)) return Result.Refused("It is paid for good: nothing more is charged, and there is nothing to leave.");
        var until = Leaving.OpenUntil(holding, at);
        // A pause ends with it, and the rest of what was paid runs from here.
        if (holding.StateAt(at) == HoldingState.Paused) db.HoldingFacts.Add(holding.Resumed(at));
        if (until is { } end) db.HoldingFacts.Add(holding.Leaving(at, end));
        tell.Of(m.Member, new Event.Left(holding.Id, holding.PlanId, until, ChangedPlan: false, why), at);
        if (until is null) books.End(m, holding, EndReason.Left, at);
        return Result.Done;
    }
}
