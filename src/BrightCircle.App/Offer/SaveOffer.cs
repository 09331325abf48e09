using BrightCircle.App.House;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Offer;

/// <summary>A tier as the form has it.</summary>
public sealed record PlanDraft(string? Name, int Rank, string? Description, IReadOnlyList<Inclusion> Promise);

/// <summary>How a price is paid, as the form has it.</summary>
public enum PriceKind { Free, Once, Recurring }

/// <summary>A price as the form has it: what was typed, not yet understood.</summary>
public sealed record PriceDraft(string? Name, string? Button, PriceKind Kind, string? Amount, int Count, PeriodUnit Unit, bool HasTrial, int TrialCount, PeriodUnit TrialUnit, string? TrialAmount);

public sealed class SaveOffer(BrightContext db, Ids ids, Catalogue catalogue, IClock clock)
{
    public async Task<Result<PlanId>> Plan(TeamActor by, PlanId? id, PlanDraft draft, CancellationToken ct)
    {
        by.NeedOwner();
        var name = draft.Name?.Trim() ?? "";
        if (name.Length is 0 or > 80) return Result.Refused("A tier needs a name of 80 letters at most.", "Name");
        if (draft.Rank is < 1 or > 100) return Result.Refused("The rank is a number from 1 to 100; a higher tier has the higher number.", "Rank");
        if (catalogue.Now.Plans.Any(p => p.Id != id && string.Equals(p.Name, name, StringComparison.CurrentCultureIgnoreCase))) return Result.Refused($"There is a tier called {name} already.", "Name");
        foreach (var i in draft.Promise)
        {
            if (i.Covers is Coverage.OnShelf s && !catalogue.Now.ShelfById.ContainsKey(s.Shelf)) return Result.Refused("One of the shelves is gone. Choose again.", "Promise");
            if (i.Covers is Coverage.OneLesson l && !catalogue.Now.LessonById.ContainsKey(l.Lesson)) return Result.Refused("One of the lessons is gone. Choose again.", "Promise");
            if (i.Covers is Coverage.OneModule m && !catalogue.Now.Pieces.Any(x => x.Outline.Modules.Any(y => y.Id == m.Module))) return Result.Refused("One of the modules is gone. Choose again.", "Promise");
            if (i.Covers is Coverage.OneTally t && !catalogue.Now.TallyById.ContainsKey(t.Tally)) return Result.Refused("One of the tallies is gone. Choose again.", "Promise");
            if (i.Covers is Coverage.OnePiece p && !catalogue.Now.PieceById.ContainsKey(p.Piece)) return Result.Refused("One of the pieces is gone. Choose again.", "Promise");
        }
        var plan = id is { } known ? await db.Plans.SingleAsync(p => p.Id == known, ct) : db.Add(new Plan { Id = ids.Next<PlanId>(), CreatedAt = clock.GetCurrentInstant() }).Entity;
        (plan.Name, plan.Rank, plan.Description, plan.Promise) = (name, draft.Rank, draft.Description?.Trim() ?? "", [.. draft.Promise.Distinct()]);
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return plan.Id;
    }

    /// <summary>Understands what was typed.</summary>
    public static Result<PriceTerms> Read(PriceDraft d, CatalogueSnapshot now)
    {
        if (d.Kind == PriceKind.Free) return new PriceTerms.Free();
        if (!Money.TryParse(d.Amount, now.Currency, now.Culture, out var amount)) return Result.Refused($"The amount is a number like {Example(now)}.", "Amount");
        if (amount.IsZero) return Result.Refused("An amount of nothing is a free price: choose “free”.", "Amount");
        if (d.Kind == PriceKind.Once) return new PriceTerms.OnePayment(amount);
        if (d.Count is < 1 or > 60) return Result.Refused("Every 1 to 60 days, weeks, months or years.", "Count");
        Trial? trial = null;
        if (d.HasTrial)
        {
            if (d.TrialCount is < 1 or > 90) return Result.Refused("A trial lasts 1 to 90 days, weeks or months.", "TrialCount");
            if (!Money.TryParse(string.IsNullOrWhiteSpace(d.TrialAmount) ? "0" : d.TrialAmount, now.Currency, now.Culture, out var trialPrice)) return Result.Refused($"The trial’s price is 0 or a number like {Example(now)}.", "TrialAmount");
            trial = new(new(d.TrialCount, d.TrialUnit), trialPrice);
        }
        return new PriceTerms.Recurring(amount, new(d.Count, d.Unit), trial);
    }

    static string Example(CatalogueSnapshot now) => new Money(18 * now.Currency.MinorPerMajor, now.Currency).Major.ToString("F" + now.Currency.Decimals, now.Culture);

    /// <summary>Adds a price. Terms never change afterwards: another price is added, and the old one archived.</summary>
    public async Task<Result<PriceId>> AddPrice(TeamActor by, PlanId plan, PriceDraft draft, CancellationToken ct)
    {
        by.NeedOwner();
        var now = catalogue.Now;
        if (!now.PlanById.TryGetValue(plan, out var of)) return Result.Refused("This tier isn’t here any more.");
        var terms = Read(draft, now);
        if (!terms.Ok) return Result.Refused(terms.Refusal!, terms.Field);
        var name = string.IsNullOrWhiteSpace(draft.Name) ? Say.Price(terms.Value!, now.Culture) : draft.Name.Trim();
        if (name.Length > 80) return Result.Refused("The name is too long; 80 letters are the most.", "Name");
        var button = string.IsNullOrWhiteSpace(draft.Button) ? $"Join {of.Name}" : draft.Button.Trim();
        if (button.Length > 60) return Result.Refused("The button’s words are too long; 60 letters are the most.", "Button");
        var price = new Price { Id = ids.Next<PriceId>(), PlanId = plan, Name = name, Button = button, Terms = terms.Value!, Code = CodeFor(of, terms.Value!), CreatedAt = clock.GetCurrentInstant() };
        db.Add(price);
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return price.Id;
    }

    /// <summary>Takes a price off the offer, or puts it back. Those who have it keep it.</summary>
    public async Task<Result> Archive(TeamActor by, PriceId id, bool archived, CancellationToken ct)
    {
        by.NeedOwner();
        var price = await db.Prices.FirstOrDefaultAsync(p => p.Id == id, ct);
        if (price is null) return Result.Refused("This price isn’t here any more.");
        price.ArchivedAt = archived ? price.ArchivedAt ?? clock.GetCurrentInstant() : null;
        await db.SaveChangesAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    /// <summary>The last part of a join link: the tier and the interval, and a number where that is taken.</summary>
    string CodeFor(Plan plan, PriceTerms terms)
    {
        var stem = new string([.. plan.Name.ToLowerInvariant().Where(c => c is >= 'a' and <= 'z' or >= '0' and <= '9')]);
        if (stem.Length == 0) stem = "tier";
        if (stem.Length > 24) stem = stem[..24];
        var code = terms switch
        {
            PriceTerms.Free => stem,
            PriceTerms.OnePayment => stem + "-once",
            PriceTerms.Recurring r => $"{stem}-{(r.Every.Count == 1 ? "" : r.Every.Count)}{r.Every.UnitWord}{(r.Every.Count == 1 ? "" : "s")}",
            _ => throw new InvalidOperationException($"No such terms: {terms}"),
        };
        var free = code;
        for (var n = 2; catalogue.Now.Prices.Any(p => p.Code == free); n++) free = $"{code}-{n}";
        return free;
    }
}
