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
        var at = clock.GetCurrentInstant();
        var first = First(of, draft, at);
        if (!first.Ok) return Result.Refused(first.Refusal!, first.Field);
        var terms = first.Value!.Terms;
        Price? old = null;
        if (draft.Replaces != 0)
        {
            old = await db.Prices.FirstOrDefaultAsync(p => p.Id == new PriceId(draft.Replaces) && p.PlanId == plan, ct);
            if (old is null) return Result.Refused("The price it is to take the place of isn’t here any more.");
            if (old.Terms == terms) return Result.Refused("It costs what the old one does. Change the amount, or change the old one’s words.");
        }
        var price = new Price
        {
            Id = ids.Next<PriceId>(),
            PlanId = plan,
            Name = first.Value.Name,
            Button = first.Value.Button,
            Terms = terms,
            Code = old?.Code ?? first.Value.Code,
            Order = old?.Order ?? now.PricesOf(plan).Select(p => p.Order).DefaultIfEmpty(0).Max() + 1,
            CreatedAt = at,
            Text = old?.Text ?? "",
            IsHighlighted = old?.IsHighlighted ?? false,
            Pause = old?.Pause,
            Buyers = old?.Buyers,
            Extra = old?.Extra,
            NotBy = old?.NotBy ?? [],
            AsVoucher = old?.AsVoucher == true && terms is PriceTerms.OnePayment,
            Availability = old?.Availability ?? Availability.OnOffer,
        };
        try
        {
            await using var transaction = await db.Database.BeginTransactionAsync(ct);
            if (old is not null)
            {
                // The new one stands at the old one's link; whoever has the old one keeps it.
                old.Code = FreeCode(old.Code + "-was");
                old.Availability = Availability.Closed;
                await db.SaveChangesAsync(ct);
            }
            db.Add(price);
            await db.SaveChangesAsync(ct);
            await transaction.CommitAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused("Somebody has just added the same price. Look at the list.");
        }
        await catalogue.Changed(ct);
        return price.Id;
    }

    /// <summary>A first price of a plan, as the form has it; it isn’t kept here.</summary>
    internal Result<Price> First(Plan of, PriceDraft draft, Instant at)
    {
        var now = catalogue.Now;
        var terms = draft.Read(now, at);
        if (!terms.Ok) return Result.Refused(terms.Refusal!, terms.Field);
        var wording = PriceWording.Read(draft.Name, draft.Button, of, terms.Value!, now);
        return !wording.Ok ? Result.Refused(wording.Refusal!, wording.Field) : new Price
        {
            Id = ids.Next<PriceId>(),
            PlanId = of.Id,
            Name = wording.Value!.Name,
            Button = wording.Value.Button,
            Terms = terms.Value!,
            Code = CodeFor(of, terms.Value!),
            Order = 1,
            CreatedAt = at,
            Availability = Availability.OnOffer,
        };
    }

    /// <summary>The last part of a join link: the plan and the interval, and a number where that is taken.</summary>
    string CodeFor(Plan plan, PriceTerms terms)
    {
        var stem = new string([.. plan.Name.ToLowerInvariant().Where(c => c is >= 'a' and <= 'z' or >= '0' and <= '9')]);
        if (stem.Length == 0) stem = plan.Word;
        if (stem.Length > 24) stem = stem[..24];
        return FreeCode(stem + Say.CodePart(terms));
    }

    string FreeCode(string code)
    {
        if (code.Length > 36) code = code[..36];
        var free = code;
        for (var n = 2; catalogue.Now.Prices.Any(p => p.Code == free); n++) free = $"{code}-{n}";
        return free;
    }
}

/// <summary>Who may buy at a price, as the form has it.</summary>
public enum BuyersKind { Anybody, Holders, FormerHolders, Newcomers, Listed }

/// <summary>What of a price can be changed at any time, as the form has it.</summary>
/// <param name="Code">The last part of its link.</param>
/// <param name="BuyerPlan">Of a list: who holds this plan; 0 for any.</param>
/// <param name="BuyerFrom">Of a list: who joined on this day or later, as ISO 8601.</param>
/// <param name="PauseDays">The longest pause members may take by themselves; 0 for none.</param>
/// <param name="PauseYear">How many days of pause within a year.</param>
/// <param name="ExtraPrice">What is offered beside it where it is paid; 0 for nothing.</param>
/// <param name="NotBy">Ways to pay of the site that aren't for it.</param>
/// <param name="AsVoucher">It can be bought for somebody else.</param>
public sealed record PriceWords(string? Name, string? Button, Availability Availability = Availability.OnOffer, string? Text = null, string? Code = null,
    bool IsHighlighted = false, BuyersKind Buyers = BuyersKind.Anybody, long[]? BuyerPlans = null, int PauseDays = 0, int PauseYear = 0,
    long ExtraPrice = 0, string? ExtraWords = null, PayWay[]? NotBy = null, bool AsVoucher = false, string? BuyerSearch = null,
    Standing? BuyerStanding = null, long BuyerPlan = 0, string? BuyerFrom = null, string? BuyerTo = null)
{
    public static PriceWords Of(Price p) => new(p.Name, p.Button, p.Availability, p.Text, p.Code, p.IsHighlighted, p.Buyers switch
    {
        null => BuyersKind.Anybody,
        BuyerRule.Holders => BuyersKind.Holders,
        BuyerRule.FormerHolders => BuyersKind.FormerHolders,
        BuyerRule.Newcomers => BuyersKind.Newcomers,
        BuyerRule.Listed => BuyersKind.Listed,
        _ => throw new InvalidOperationException($"No such rule: {p.Buyers}"),
    }, [.. (p.Buyers switch
    {
        null or BuyerRule.Newcomers or BuyerRule.Listed => [],
        BuyerRule.Holders h => h.Plans,
        BuyerRule.FormerHolders f => f.Plans,
        _ => throw new InvalidOperationException($"No such rule: {p.Buyers}"),
    }).Select(x => x.Value)],
        p.Pause?.MostDays ?? 0, p.Pause?.DaysAYear ?? 0, p.Extra?.Price.Value ?? 0, p.Extra?.Words, [.. p.NotBy], p.AsVoucher)
    {
        BuyerSearch = ListOf(p)?.Search,
        BuyerStanding = ListOf(p)?.Standing,
        BuyerPlan = ListOf(p)?.Plan?.Value ?? 0,
        BuyerFrom = LocalInput.Write(ListOf(p)?.From),
        BuyerTo = LocalInput.Write(ListOf(p)?.To),
    };

    static MemberFilter? ListOf(Price p) => (p.Buyers as BuyerRule.Listed)?.Filter;

    /// <summary>The list of members it is for, as it is typed.</summary>
    internal Result<MemberFilter> ReadList(CatalogueSnapshot now)
    {
        if (!LocalInput.TryReadDay(BuyerFrom, out var from)) return Result.Refused("That isn’t a day.", "BuyerFrom");
        if (!LocalInput.TryReadDay(BuyerTo, out var to)) return Result.Refused("That isn’t a day.", "BuyerTo");
        var list = new MemberFilter(string.IsNullOrWhiteSpace(BuyerSearch) ? null : BuyerSearch.Trim(), BuyerStanding,
            BuyerPlan == 0 ? null : new PlanId(BuyerPlan), from, to);
        return list.IsEverybody ? Result.Refused("Say which members: nothing is chosen, so it would be all of them.", "BuyerSearch")
            : list.Search?.Length > 120 ? Result.Refused("That is too long; 120 letters are the most.", "BuyerSearch")
            : list.Plan is { } held && !now.PlanById.ContainsKey(held) ? Result.Refused("That plan isn’t here any more.", "BuyerPlan")
            : to < from ? Result.Refused("The second day is before the first.", "BuyerTo") : list;
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
