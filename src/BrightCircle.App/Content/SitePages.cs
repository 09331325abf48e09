using BrightCircle.App.Catalogues;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <param name="Version">The version the editor had.</param>
public sealed record SitePageDraft(string? Title, string? Slug, string? Description, FileId? Picture, IReadOnlyList<Block> Sections, bool IsPublic,
    int Version);

/// <summary>The pages the owner writes.</summary>
public sealed class SitePages(BrightContext db, Ids ids, Catalogue catalogue, IndexContent index, Deeds deeds, IClock clock)
{
    /// <summary>Makes a page, empty and not public; of a kind of which there is one only, finds that.</summary>
    public async Task<Result<long>> Make(TeamActor by, SitePageKind kind, PlanId? plan, PriceId? price, CancellationToken ct)
    {
        by.NeedEditor();
        var now = catalogue.Now;
        (plan, price) = (kind is SitePageKind.Plan or SitePageKind.Join ? plan : null, kind == SitePageKind.Confirmation ? price : null);
        if (kind is SitePageKind.Plan or SitePageKind.Join && (plan is not { } p || !now.PlanById.ContainsKey(p))
            || kind == SitePageKind.Confirmation && (price is not { } q || !now.PriceById.ContainsKey(q)))
            return Result.Refused("Choose for what it is.");
        if (kind != SitePageKind.Free && now.Pages.FirstOrDefault(x => x.Kind == kind && x.PlanId == plan && x.PriceId == price) is { } known) return known.Id;
        var title = kind switch
        {
            SitePageKind.Front => "The front",
            SitePageKind.Plan => now.PlanName(plan),
            SitePageKind.Join => $"Beside joining {now.PlanName(plan)}",
            SitePageKind.Confirmation => $"After joining {now.PlanName(now.PriceById[price!.Value].PlanId)}: {now.PriceById[price.Value].Name}",
            SitePageKind.Free => "New page" + (now.Pages.Count(x => x.Kind == SitePageKind.Free) is > 0 and var n ? $" {n + 1}" : ""),
            _ => throw new ArgumentOutOfRangeException(nameof(kind), kind, "No such page."),
        };
        var page = new SitePage
        {
            Id = ids.Next(),
            Kind = kind,
            PlanId = plan,
            PriceId = price,
            Title = title,
            Version = 1,
            ChangedAt = clock.GetCurrentInstant(),
            ChangedBy = by.Name
        };
        if (kind == SitePageKind.Free) page.Slug = FreeSlug(title, now);
        if (kind == SitePageKind.Plan)
            page.Sections = [new Block.Text("") { Id = ids.Next<BlockId>() }, new Block.Inside(null) { Id = ids.Next<BlockId>() },
                new Block.Prices(null) { Id = ids.Next<BlockId>() }];
        db.Add(page);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused("Somebody made it just now. Look again.");
        }
        await catalogue.Changed(ct);
        return page.Id;
    }

    static string FreeSlug(string title, CatalogueSnapshot now)
    {
        var slug = SitePage.SlugOf(title);
        if (slug.Length == 0) slug = "page";
        for (var n = 1; ; n++)
        {
            var free = n == 1 ? slug : $"{slug}-{n}";
            if (now.Pages.All(p => p.Slug != free)) return free;
        }
    }

    /// <returns>The version that is saved.</returns>
    public async Task<Result<int>> Save(TeamActor by, long id, SitePageDraft draft, CancellationToken ct)
    {
        by.NeedEditor();
        var (title, slug, about) = (draft.Title?.Trim() ?? "", draft.Slug?.Trim().ToLowerInvariant() ?? "", draft.Description?.Trim() ?? "");
        if (title.Length is 0 or > SitePage.LongestTitle) return Result.Refused($"A page needs a title of {SitePage.LongestTitle} letters at most.", "Title");
        if (about.Length > SitePage.LongestDescription) return Result.Refused($"That is too long; {SitePage.LongestDescription} letters are the most.",
            "Description");
        if (ContentLimits.Beyond(draft.Sections) is { } beyond) return Result.Refused(beyond);
        if (draft.Sections.Any(b => b is Block.Practice or Block.Follow or Block.CheckIn or Block.Timer or Block.Live))
            return Result.Refused("On a page stand texts, pictures, videos, links, voices, questions, what’s inside and prices.");
        var now = catalogue.Now;
        foreach (var plan in draft.Sections.Select(b => b switch { Block.Inside i => i.Plan, Block.Prices p => p.Plan, _ => null }).OfType<PlanId>())
            if (!now.PlanById.ContainsKey(plan)) return Result.Refused("One of the plans isn’t here any more. Choose again.");
        FileId[] files = [.. draft.Sections.SelectMany(b => b.UsedFiles()).Concat(draft.Picture is { } p ? [p] : []).Distinct()];
        if (files.Length > 0 && await db.Files.CountAsync(f => files.Contains(f.Id), ct) < files.Length)
            return Result.Refused("One of the files isn’t here any more. Choose another one.");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        if (await db.SitePages.FirstOrDefaultAsync(p => p.Id == id, ct) is not { } page) return Result.Refused("This page isn’t here any more.");
        if (page.Version != draft.Version)
            return Result.Refused($"{page.ChangedBy} saved this page meanwhile. Open it again in another window, and put the two together here.");
        if (page.Kind == SitePageKind.Free)
        {
            if (!SitePage.IsSlug(slug)) return Result.Refused("An address has small letters, digits and dashes between them, like about-us.", "Slug");
            if (now.Pages.Any(p => p.Id != id && p.Slug == slug)) return Result.Refused("Another page has this address already.", "Slug");
            page.Slug = slug;
        }
        if (draft.IsPublic && !page.IsPublic && BlockRules.Problems(draft.Sections) is [var first, ..])
            return Result.Refused($"It can’t be public yet. {first.Text}");
        if (draft.IsPublic != page.IsPublic) deeds.Note(by, draft.IsPublic ? $"made the page “{title}” public" : $"took the page “{title}” back to a draft",
            $"/desk/pages/{id}");
        (page.Title, page.Description, page.Picture, page.Sections, page.IsPublic) = (title, about, draft.Picture, draft.Sections, draft.IsPublic);
        (page.Version, page.ChangedAt, page.ChangedBy) = (page.Version + 1, clock.GetCurrentInstant(), by.Name);
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateConcurrencyException)
        {
            return Result.Refused("Somebody saved this page meanwhile. Open it again in another window, and put the two together here.");
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            return Result.Refused("Another page has this address already.", "Slug");
        }
        await index.Page(page, ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return page.Version;
    }

    public async Task<Result> Remove(TeamActor by, long id, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.SitePages.Where(p => p.Id == id).ExecuteDeleteAsync(ct) == 0) return Result.Refused("This page isn’t here any more.");
        await db.FileUses.Where(u => u.User == FileUser.Page && u.UserId == id).ExecuteDeleteAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }
}
