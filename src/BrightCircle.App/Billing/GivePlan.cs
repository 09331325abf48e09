using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>The team gives a plan without payment, for ever or until the end of a day. It ends nothing else that is held.</summary>
public sealed class GivePlan(BrightContext db, Ids ids, Memberships door, Catalogue catalogue, Tell tell)
{
    /// <summary>Null where there is no such member.</summary>
    public Task<string?> NameOf(MemberId id, CancellationToken ct) => db.Members.Where(m => m.Id == id).Select(m => m.Name).FirstOrDefaultAsync(ct);

    public Task<Result> Do(TeamActor by, MemberId to, PlanId plan, LocalDate? until, string? note, CancellationToken ct,
        bool allAtOnce = false)
    {
        by.NeedSupport();
        var now = catalogue.Now;
        if (!now.PlanById.TryGetValue(plan, out var given)) return Task.FromResult(Result.Refused("Choose what to give.", "Plan"));
        if (note?.Length > 400) return Task.FromResult(Result.Refused("The note is too long; 400 letters are the most.", "Note"));
        if (until is { Year: < 2000 or > 2200 }) return Task.FromResult(Result.Refused("Choose a day within reason.", "Until"));
        var ends = until is { } day ? now.Calendar.At(day.PlusDays(1).AtMidnight()) : (Instant?)null;
        return door.Change(to, (m, at) => Task.FromResult(Give(by, m, given, until, ends, note, allAtOnce, at)), ct);
    }

    Result Give(TeamActor by, Membership m, Plan plan, LocalDate? until, Instant? ends, string? note, bool allAtOnce, Instant at)
    {
        if (ends <= at) return Result.Refused("A gift ends in the future, or never.", "Until");
        if (m.Held(plan.Id, at) is not null) return Result.Refused($"{m.Member.Name} holds {plan.Name} already.", "Plan");
        var holding = new Holding
        {
            Id = ids.Next<HoldingId>(),
            MemberId = m.Member.Id,
            PlanId = plan.Id,
            Source = HoldingSource.Gift,
            StartsAt = at,
            Agreement = Agreement.ForNothing(at, catalogue.Now.Calendar.Zone.Id),
            PromiseNumber = plan.PromiseNumber,
            AllAtOnce = allAtOnce,
            Note = string.IsNullOrWhiteSpace(note) ? null : note.Trim(),
        };
        db.Add(holding);
        m.Holdings.Add(holding);
        db.HoldingFacts.Add(holding.Given(at, ends));
        tell.Of(m.Member, new Event.Given(holding.Id, plan.Id, until), at, by);
        return Result.Done;
    }
}
