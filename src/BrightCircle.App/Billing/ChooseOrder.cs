using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Billing;

/// <summary>What a buyer decides on the last page before paying: what comes beside it, and that they agree to the owner's terms.</summary>
public sealed class ChooseOrder(BrightContext db, Catalogue catalogue)
{
    /// <summary>Takes what is offered beside it along, or leaves it.</summary>
    public async Task Extra(JoinReview review, bool ticked, CancellationToken ct)
    {
        PriceId[] extras = ticked && review.Extra is { } extra ? [extra.Price.Id] : [];
        if (review.Checkout.Extras.SequenceEqual(extras)) return;
        var c = await db.Checkouts.FirstAsync(x => x.Id == review.Checkout.Id, ct);
        c.Extras = extras;
        await db.SaveChangesAsync(ct);
    }

    /// <summary>Notes where the buyer lives, where that decides how they can pay.</summary>
    public async Task Country(JoinReview review, string? country, CancellationToken ct)
    {
        var known = Countries.NameOf(country) is null ? null : country!.ToUpperInvariant();
        if (!review.AsksCountry || review.Checkout.Country == known) return;
        var c = await db.Checkouts.FirstAsync(x => x.Id == review.Checkout.Id, ct);
        c.Country = known;
        await db.SaveChangesAsync(ct);
    }

    /// <summary>Notes which version of the terms was agreed to, and keeps its words.</summary>
    /// <param name="version">Of the words the buyer had before them.</param>
    /// <returns>A refusal where they didn't agree, or the words changed meanwhile.</returns>
    public async Task<Result> Agree(long checkout, bool agreed, int? version, CancellationToken ct)
    {
        if (ReviewJoin.TermsOf(catalogue.Now) is not { } terms) return Result.Done;
        if (!agreed) return Result.Refused($"Please read “{terms.Title}”, and tick that you agree.", "Agreed");
        if (version != terms.Version) return Result.Refused($"“{terms.Title}” was changed while you were here. Please look again before you agree.", "Agreed");
        var c = await db.Checkouts.FirstAsync(x => x.Id == checkout, ct);
        (c.TermsPageId, c.TermsVersion) = (terms.Id, terms.Version);
        await db.SaveChangesAsync(ct);
        await Keep(terms, ct);
        return Result.Done;
    }

    async Task Keep(SitePage terms, CancellationToken ct)
    {
        if (await db.TermsTexts.AnyAsync(t => t.PageId == terms.Id && t.Version == terms.Version, ct)) return;
        db.Add(new TermsText { PageId = terms.Id, Version = terms.Version, Title = terms.Title, Sections = terms.Sections, From = terms.ChangedAt });
        try
        {
            await db.SaveChangesAsync(ct);
        }
        catch (DbUpdateException e) when (Unique.Violated(e))
        {
            // Another buyer agreed first; the words are kept.
            db.ChangeTracker.Clear();
        }
    }
}
