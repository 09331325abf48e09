using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Settings;

/// <summary>A way to pay as it is set up.</summary>
/// <param name="Days">How long its money may take; nothing for a card.</param>
/// <param name="Countries">Where it is offered, by name or by two letters, with commas; empty for everywhere.</param>
public sealed record WayDraft(PayWay Way, bool On, string? Name, string? Words, int Days, bool OpensAtOnce, string? Countries = null);

/// <param name="Usual">The way that is marked first.</param>
/// <param name="Terms">The page that buyers agree to; 0 for none.</param>
public sealed record MoneyDraft(IReadOnlyList<WayDraft> Ways, PayWay Usual, long Terms, OwnerLetterWhen Sale, OwnerLetterWhen Failure, OwnerLetterWhen Dispute);

/// <summary>How buyers pay, what they agree to, and what the owner hears of it.</summary>
public sealed class MoneySettings(BrightContext db, Ids ids, Catalogue catalogue, Deeds deeds, IClock clock)
{
    public MoneyDraft AsSet
    {
        get
        {
            var site = catalogue.Now.Site!;
            return new([.. Enum.GetValues<PayWay>().Select(way => site.Ways.FirstOrDefault(w => w.Way == way) is { } w
                    ? new WayDraft(way, true, w.Name, w.Words, w.Days, w.OpensAtOnce, Countries.Show(w.Countries))
                    : new WayDraft(way, false, catalogue.Now.WayName(way), "", 14, false))],
                site.Ways.Select(w => w.Way).FirstOrDefault(), site.TermsPageId ?? 0, site.OwnerLetters.Sale, site.OwnerLetters.Failure,
                    site.OwnerLetters.Dispute);
        }
    }

    public async Task<Result> Save(TeamActor by, MoneyDraft draft, CancellationToken ct)
    {
        by.NeedOwner();
        var ways = new List<WayOffered>();
        foreach (var w in draft.Ways.Where(w => w.On).OrderBy(w => w.Way != draft.Usual).ThenBy(w => w.Way))
        {
            if (!Enum.IsDefined(w.Way) || ways.Any(x => x.Way == w.Way)) return Result.Refused("There is no such way to pay.");
            var (name, words) = (w.Name?.Trim() ?? "", w.Words?.Trim().ReplaceLineEndings("\n") ?? "");
            if (name.Length is 0 or > WayOffered.LongestName)
                return Result.Refused($"It needs a name as buyers read it, of {WayOffered.LongestName} letters at most.", $"Name{w.Way}");
            if (words.Length > WayOffered.LongestWords) return Result.Refused($"That is too long; {WayOffered.LongestWords} letters are the most.",
                $"Words{w.Way}");
            var countries = Countries.Read(w.Countries, out var unknown);
            if (unknown is not null) return Result.Refused($"“{unknown}” isn’t a country we know. Its English name, or its two letters.", $"Countries{w.Way}");
            if (w.Way == PayWay.Card)
            {
                ways.Add(new(PayWay.Card, name) { Countries = countries });
                continue;
            }
            if (words.Length == 0) return Result.Refused("Say what to do: the account to transfer to, or where to pay.", $"Words{w.Way}");
            if (w.Days is < 1 or > WayOffered.MostDays) return Result.Refused($"From 1 to {WayOffered.MostDays} days.", $"Days{w.Way}");
            ways.Add(new(w.Way, name, words, w.Days, w.OpensAtOnce) { Countries = countries });
        }
        if (ways.Count == 0) return Result.Refused("Offer one way to pay at least.");
        if (draft.Terms != 0 && !catalogue.Now.Pages.Any(p => p.Id == draft.Terms && p.Kind == SitePageKind.Free && p.IsPublic))
            return Result.Refused("Choose one of your own pages that is public.", "Terms");
        if (!Enum.IsDefined(draft.Sale) || !Enum.IsDefined(draft.Failure) || !Enum.IsDefined(draft.Dispute)) return Result.Refused("Choose when we write.");
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var site = await db.Sites.SingleAsync(ct);
        (site.Ways, site.TermsPageId) = (ways, draft.Terms == 0 ? null : draft.Terms);
        site.OwnerLetters = site.OwnerLetters with { Sale = draft.Sale, Failure = draft.Failure, Dispute = draft.Dispute };
        deeds.Note(by, "changed how buyers pay and what they agree to", "/desk/settings/money");
        await db.SaveChangesAsync(ct);
        if (site.OwnerLetters.HasDaily)
            await OwnerMorning.PutNext(db, ids, catalogue.Now.Calendar, clock.GetCurrentInstant(), ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }
}
