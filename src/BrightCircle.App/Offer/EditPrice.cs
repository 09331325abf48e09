using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Offer;

/// <summary>What can be changed about a price at any time: its words, its place among the others, and who may take it. Its terms never.</summary>
public sealed class EditPrice(BrightContext db, Catalogue catalogue)
{
    public async Task<Result> Words(TeamActor by, PriceId id, string? name, string? button, Availability availability, CancellationToken ct)
    {
        by.NeedOwner();
        var price = await db.Prices.FirstOrDefaultAsync(p => p.Id == id, ct);
        if (price is null || !catalogue.Now.PlanById.TryGetValue(price.PlanId, out var plan)) return Gone;
        var wording = PriceWording.Read(name, button, plan, price.Terms, catalogue.Now);
        if (!wording.Ok) return Result.Refused(wording.Refusal!, wording.Field);
        (price.Name, price.Button, price.Availability) = (wording.Value!.Name, wording.Value.Button, availability);
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>One place up (−1) or down (1) among its plan's prices.</summary>
    public async Task<Result> Move(TeamActor by, PriceId id, int by1, CancellationToken ct)
    {
        by.NeedOwner();
        if (by1 is not (1 or -1)) return Result.Refused("One place up or down.");
        var price = await db.Prices.FirstOrDefaultAsync(p => p.Id == id, ct);
        if (price is null) return Gone;
        var all = await db.Prices.Where(p => p.PlanId == price.PlanId).OrderBy(p => p.Order).ThenBy(p => p.Id).ToListAsync(ct);
        var at = all.IndexOf(price);
        if (at + by1 >= 0 && at + by1 < all.Count) (all[at], all[at + by1]) = (all[at + by1], all[at]);
        for (var i = 0; i < all.Count; i++) all[i].Order = i + 1;
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    static Result Gone => Result.Refused("This price isn’t here any more.");
}
