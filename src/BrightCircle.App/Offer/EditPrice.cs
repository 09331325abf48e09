using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Offer;

/// <summary>What can be changed about a price at any time: its words, its place among the others, and who may take it. Its terms never.</summary>
public sealed class EditPrice(BrightContext db, Catalogue catalogue)
{
    public async Task<Result> Words(TeamActor by, PriceId id, PriceWords words, CancellationToken ct)
    {
        by.NeedOwner();
        var price = await db.Prices.FirstOrDefaultAsync(p => p.Id == id, ct);
        if (price is null || !catalogue.Now.PlanById.TryGetValue(price.PlanId, out var plan)) return Gone;
        var wording = PriceWording.Read(words.Name, words.Button, plan, price.Terms, catalogue.Now);
        if (!wording.Ok) return Result.Refused(wording.Refusal!, wording.Field);
        if (words.Text?.Trim().Length > 300) return Result.Refused("That sentence is too long; 300 letters are the most.", "Text");
        var code = (words.Code ?? "").Trim().ToLowerInvariant();
        if (code.Length == 0) code = price.Code;
        if (code.Length > 40 || code.Any(c => c is not (>= 'a' and <= 'z' or >= '0' and <= '9' or '-')) || code.StartsWith('-') || code.EndsWith('-'))
            return Result.Refused("A link has up to 40 small letters, digits and dashes between them.", "Code");
        if (code is "back" || catalogue.Now.Prices.Any(p => p.Id != id && p.Code == code)) return Result.Refused("Another price has this link.", "Code");
        if (words.PauseDays is < 0 or > Core.Billing.Pausing.Longest) return Result.Refused($"A pause lasts at most {Core.Billing.Pausing.Longest} days.",
            "PauseDays");
        if (words.PauseDays > 0 && words.PauseYear is not 0 && (words.PauseYear < words.PauseDays || words.PauseYear > 366))
            return Result.Refused("Within a year at least as long as one pause, and at most 366 days.", "PauseYear");
        PlanId[] plans = [.. (words.BuyerPlans ?? []).Select(p => new PlanId(p)).Where(catalogue.Now.PlanById.ContainsKey)];
        if (words.Buyers is BuyersKind.Holders or BuyersKind.FormerHolders && plans.Length == 0) return Result.Refused("Of which plan?", "BuyerPlans");
        MemberFilter? list = null;
        if (words.Buyers == BuyersKind.Listed)
        {
            var read = words.ReadList(catalogue.Now);
            if (!read.Ok) return Result.Refused(read.Refusal!, read.Field);
            list = read.Value;
        }
        CheckoutExtra? extra = null;
        if (words.ExtraPrice != 0)
        {
            if (!catalogue.Now.PriceById.TryGetValue(new(words.ExtraPrice), out var beside)) return Result.Refused("That price isn’t here any more.",
                "ExtraPrice");
            if (CheckoutExtra.Refuses(beside, catalogue.Now.PlanById[beside.PlanId], price) is { } no) return Result.Refused(no, "ExtraPrice");
            if (words.ExtraWords?.Trim().Length > CheckoutExtra.LongestWords)
                return Result.Refused($"That is too long; {CheckoutExtra.LongestWords} letters are the most.", "ExtraWords");
            extra = new(beside.Id, words.ExtraWords?.Trim() ?? "");
        }
        PayWay[] notBy = [.. (words.NotBy ?? []).Where(Enum.IsDefined).Distinct().Order()];
        if (price.Terms.NeedsCard && catalogue.Now.Site!.Ways.All(w => notBy.Contains(w.Way))) return Result.Refused("One way to pay has to be left.", "NotBy");
        if (words.AsVoucher && price.Terms is not PriceTerms.OnePayment) return Result.Refused("A voucher is paid once.", "AsVoucher");
        (price.Extra, price.NotBy, price.AsVoucher) = (extra, notBy, words.AsVoucher);
        (price.Name, price.Button, price.Availability) = (wording.Value!.Name, wording.Value.Button, words.Availability);
        (price.Text, price.Code, price.IsHighlighted) = (words.Text?.Trim() ?? "", code, words.IsHighlighted);
        price.Pause = words.PauseDays == 0 ? null : new(words.PauseDays, words.PauseYear == 0 ? Math.Max(words.PauseDays, 366) : words.PauseYear);
        price.Buyers = words.Buyers switch
        {
            BuyersKind.Anybody => null,
            BuyersKind.Holders => new BuyerRule.Holders(plans),
            BuyersKind.FormerHolders => new BuyerRule.FormerHolders(plans),
            BuyersKind.Newcomers => new BuyerRule.Newcomers(),
            BuyersKind.Listed => new BuyerRule.Listed(list!),
            _ => throw new InvalidOperationException($"No such kind: {words.Buyers}"),
        };
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused("Another price has this link.", "Code");
        }
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
