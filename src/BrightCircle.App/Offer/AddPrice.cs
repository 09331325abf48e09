using BrightCircle.App.Catalogues;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Offer;

/// <summary>Adds a price. Its terms never change afterwards: another price is added, and the old one closed.</summary>
public sealed class AddPrice(BrightContext db, Ids ids, Catalogue catalogue, IClock clock)
{
    public async Task<Result<PriceId>> Do(TeamActor by, PlanId plan, PriceDraft draft, CancellationToken ct)
    {
        by.NeedOwner();
        var now = catalogue.Now;
        if (!now.PlanById.TryGetValue(plan, out var of)) return Result.Refused("This plan isn’t here any more.");
        var terms = draft.Read(now);
        if (!terms.Ok) return Result.Refused(terms.Refusal!, terms.Field);
        var wording = PriceWording.Read(draft.Name, draft.Button, of, terms.Value!, now);
        if (!wording.Ok) return Result.Refused(wording.Refusal!, wording.Field);
        var price = new Price
        {
            Id = ids.Next<PriceId>(),
            PlanId = plan,
            Name = wording.Value!.Name,
            Button = wording.Value.Button,
            Terms = terms.Value!,
            Code = CodeFor(of, terms.Value!),
            Order = now.PricesOf(plan).Select(p => p.Order).DefaultIfEmpty(0).Max() + 1,
            CreatedAt = clock.GetCurrentInstant(),
        };
        db.Add(price);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused("Somebody has just added the same price. Look at the list.");
        }
        await catalogue.Changed(ct);
        return price.Id;
    }

    /// <summary>The last part of a join link: the plan and the interval, and a number where that is taken.</summary>
    string CodeFor(Plan plan, PriceTerms terms)
    {
        var stem = new string([.. plan.Name.ToLowerInvariant().Where(c => c is >= 'a' and <= 'z' or >= '0' and <= '9')]);
        if (stem.Length == 0) stem = plan.Word;
        if (stem.Length > 24) stem = stem[..24];
        var code = stem + Say.CodePart(terms);
        var free = code;
        for (var n = 2; catalogue.Now.Prices.Any(p => p.Code == free); n++) free = $"{code}-{n}";
        return free;
    }
}

/// <summary>A price's own words.</summary>
public sealed record PriceWording(string Name, string Button)
{
    public static Result<PriceWording> Read(string? name, string? button, Plan plan, PriceTerms terms, CatalogueSnapshot now)
    {
        var called = string.IsNullOrWhiteSpace(name) ? Say.Price(terms, now.Culture) : name.Trim();
        if (called.Length > 80) return Result.Refused("The name is too long; 80 letters are the most.", "Name");
        var words = string.IsNullOrWhiteSpace(button) ? (plan.IsTier ? $"Join {plan.Name}" : $"Get {plan.Name}") : button.Trim();
        if (words.Length > 60)
        {
            if (!string.IsNullOrWhiteSpace(button)) return Result.Refused("The button’s words are too long; 60 letters are the most.", "Button");
            words = words[..60];
        }
        return new PriceWording(called, words);
    }
}
