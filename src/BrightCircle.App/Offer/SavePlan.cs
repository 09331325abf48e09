using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Offer;

/// <summary>A plan as the form has it. Its kind is chosen once.</summary>
/// <param name="Rank">Of a tier, from 1; a pass has none.</param>
/// <param name="StartPath">Where its holders come to when they sign in; empty for their home, null leaves it.</param>
/// <param name="StartPiece">What its holders start with; 0 for nothing, null leaves it.</param>
/// <param name="GroupLink">Where its holders meet elsewhere; empty for nowhere, null leaves it and what is said beside it.</param>
/// <param name="Promise">Of a new plan; later it is changed by <see cref="SavePromise"/>.</param>
public sealed record PlanDraft(string? Name, int Rank, string? Description, IReadOnlyList<Inclusion> Promise, PlanKind Kind = PlanKind.Tier,
    Availability Availability = Availability.OnOffer, string? StartPath = null, long? StartPiece = null,
    string? GroupLink = null, string? GroupWords = null);

/// <summary>Makes a plan, or changes what it is called and who may take it.</summary>
public sealed class SavePlan(BrightContext db, Ids ids, Catalogue catalogue, IClock clock)
{
    public async Task<Result<PlanId>> Do(TeamActor by, PlanId? id, PlanDraft draft, CancellationToken ct)
    {
        by.NeedOwner();
        var now = catalogue.Now;
        var known = id is { } i ? now.PlanById.GetValueOrDefault(i) : null;
        if (id is not null && known is null) return Result.Refused("This plan isn’t here any more.");
        var kind = known?.Kind ?? draft.Kind;
        var word = kind == PlanKind.Tier ? "tier" : "pass";
        var name = draft.Name?.Trim() ?? "";
        if (name.Length is 0 or > 80) return Result.Refused($"A {word} needs a name of 80 letters at most.", "Name");
        if (kind == PlanKind.Tier && draft.Rank is < 1 or > 100)
            return Result.Refused("The rank is a number from 1 to 100; a higher tier has the higher number.", "Rank");
        if (draft.Description?.Length > 2000) return Result.Refused("The description is too long; 2,000 letters are the most.", "Description");
        var start = draft.StartPath?.Trim() ?? "";
        if (start.Length > 0 && (!Core.Content.DoorwayWish.IsPage(start) || start[0] != '/'))
            return Result.Refused("Write a path of this site, like /pages/hello.", "StartPath");
        if (draft.StartPiece is > 0 and var piece && !now.PieceById.ContainsKey(new(piece)))
            return Result.Refused("This piece isn’t here any more.", "StartPiece");
        var (group, words) = (draft.GroupLink?.Trim() ?? "", draft.GroupWords?.Trim() ?? "");
        if (group.Length > Plan.MostGroupLink || group.Length > 0 && !(Uri.TryCreate(group, UriKind.Absolute, out var to) && to.Scheme == Uri.UriSchemeHttps))
            return Result.Refused("Write the whole address, beginning with https://.", "GroupLink");
        if (words.Length > Plan.MostGroupWords) return Result.Refused($"{Plan.MostGroupWords} letters are the most.", "GroupWords");
        if (now.Plans.FirstOrDefault(p => p.Id != id && string.Equals(p.Name, name, StringComparison.CurrentCultureIgnoreCase)) is { } other)
            return Result.Refused($"There is a {other.Word} called {name} already.", "Name");
        if (known is null && PromiseRules.Wrong(now, draft.Promise, id) is { } wrong) return Result.Refused(wrong, "Promise");
        var plan = id is not null ? await db.Plans.SingleAsync(p => p.Id == id, ct) : db.Add(new Plan
        {
            Id = ids.Next<PlanId>(),
            Kind = kind,
            CreatedAt = clock.GetCurrentInstant(),
            PromiseFrom = clock.GetCurrentInstant(),
            Promise = [.. draft.Promise.Distinct()],
        }).Entity;
        (plan.Name, plan.Rank, plan.Description) = (name, kind == PlanKind.Tier ? draft.Rank : 0, draft.Description?.Trim() ?? "");
        plan.Availability = draft.Availability;
        if (draft.StartPath is not null) plan.StartPath = start;
        if (draft.StartPiece is { } first) plan.StartPieceId = first > 0 ? new PieceId(first) : null;
        if (draft.GroupLink is not null) (plan.GroupLink, plan.GroupWords) = (group, words);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused($"There is a plan called {name} already.", "Name");
        }
        await catalogue.Changed(ct);
        return plan.Id;
    }
}
