using BrightCircle.App.Catalogues;
using BrightCircle.App.Files;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Settings;

/// <param name="Culture">How numbers and dates are written; null keeps it, or takes what suits the currency.</param>
/// <param name="BusinessName">Who sells, for receipts; the site’s name where it is empty.</param>
public sealed record SiteDraft(string? Name, string? Tagline, string? About, string? ZoneId, string? Currency, string? HelpAddress, int Colour,
    string? Culture = null, string? BusinessName = null, string? BusinessAddress = null, long? ArrivalPlan = null, long? Logo = null,
        string? RetryDays = null, bool OffersOnLeaving = false);

/// <summary>The first minutes of a site, and its settings later.</summary>
public sealed class SetUpSite(BrightContext db, Ids ids, Catalogue catalogue, FileUsing uses, UserManager<Account> accounts, IClock clock)
{
    /// <summary>Makes the owner's account and the site. Works once.</summary>
    public async Task<Result<Account>> Do(string? ownerName, string? ownerEmail, string? password, SiteDraft site, bool demo, CancellationToken ct)
    {
        if (string.IsNullOrWhiteSpace(ownerName)) return Result.Refused("Tell us your name.", "OwnerName");
        if (!EmailAddress.TryRead(ownerEmail, out var email)) return Result.Refused("That doesn’t look like an email address.", "OwnerEmail");
        if (Check(site, zoneAndCurrency: true) is { } wrong) return wrong;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.Database.ExecuteSqlAsync($"select pg_advisory_xact_lock(815001)", ct);
        if (await db.Sites.AnyAsync(ct)) return Result.Refused("This site has been set up already. Sign in instead.");
        var account = PeopleData.NewAccount(ids.Next(), ownerName.Trim(), email, TeamRole.Owner);
        var made = await accounts.CreateAsync(account, password ?? "");
        if (!made.Succeeded) return Result.Refused(string.Join(" ", made.Errors.Select(e => e.Description)), "Password");
        // A site of one's own begins as a rehearsal.
        var s = new Site
        {
            SetUpAt = clock.GetCurrentInstant(),
            IsDemo = demo,
            IsTrial = !demo,
            ZoneId = site.ZoneId!,
            Currency = new(site.Currency!),
            Culture = Cultures.For(new(site.Currency!))
        };
        Take(s, site, email);
        db.Add(s);
        await db.SaveChangesAsync(ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return account;
    }

    /// <summary>Changes the settings. Zone and currency stay: periods and ledger rest on them.</summary>
    public async Task<Result> Change(TeamActor by, SiteDraft draft, string? newPicture, CancellationToken ct)
    {
        by.NeedOwner();
        if (Check(draft, zoneAndCurrency: false) is { } wrong) return wrong;
        FileId? logo = draft.Logo is > 0 and { } l ? new FileId(l) : null;
        if (logo is { } wanted && !await db.Files.AnyAsync(f => f.Id == wanted && f.Kind == FileKind.Picture, ct))
            return Result.Refused("That picture isn’t here any more. Choose another one.", "Logo");
        PlanId? arrival = draft.ArrivalPlan is > 0 and { } p ? new PlanId(p) : null;
        if (arrival is { } plan && !catalogue.Now.PlanById.ContainsKey(plan)) return Result.Refused("That plan isn’t here any more.", "ArrivalPlan");
        var s = await db.Sites.SingleAsync(ct);
        Take(s, draft, s.HelpAddress);
        if (ReadDays(draft.RetryDays) is not { } days)
            return Result.Refused("Days after the first failure, rising, with commas between: 1, 3, 5, 7. The last is at most 60.", "RetryDays");
        if (days.Length > 0) s.RetryDays = days;
        s.ArrivalPlanId = arrival;
        s.Logo = logo;
        s.OffersOnLeaving = draft.OffersOnLeaving;
        if (newPicture is not null) s.Picture = newPicture;
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        await db.SaveChangesAsync(ct);
        await uses.OfSite(s, ct);
        await transaction.CommitAsync(ct);
        await catalogue.Changed(ct);
        return Result.Done;
    }

    public async Task SetPicture(string picture, CancellationToken ct)
    {
        await db.Sites.ExecuteUpdateAsync(u => u.SetProperty(s => s.Picture, picture), ct);
        await catalogue.Changed(ct);
    }

    /// <returns>Null for what isn't days; none for what isn't said.</returns>
    static int[]? ReadDays(string? typed)
    {
        if (string.IsNullOrWhiteSpace(typed)) return [];
        var days = new List<int>();
        foreach (var part in typed.Split([',', ';', ' '], StringSplitOptions.RemoveEmptyEntries))
            if (int.TryParse(part, System.Globalization.NumberStyles.None, System.Globalization.CultureInfo.InvariantCulture, out var day)) days.Add(day);
            else return null;
        return Core.Billing.FailedPaymentRule.AreDays(days) ? [.. days] : null;
    }

    static void Take(Site s, SiteDraft d, string fallbackHelp)
    {
        (s.Name, s.Tagline, s.About, s.Colour) = (d.Name!.Trim(), d.Tagline?.Trim() ?? "", d.About?.Trim() ?? "", d.Colour);
        s.HelpAddress = string.IsNullOrWhiteSpace(d.HelpAddress) ? fallbackHelp : d.HelpAddress.Trim();
        (s.BusinessName, s.BusinessAddress) = (d.BusinessName?.Trim() ?? s.BusinessName,
            d.BusinessAddress?.Trim().ReplaceLineEndings("\n") ?? s.BusinessAddress);
        if (d.Culture is not null) s.Culture = d.Culture;
    }

    static Result? Check(SiteDraft d, bool zoneAndCurrency)
    {
        if (string.IsNullOrWhiteSpace(d.Name) || d.Name.Trim().Length > 80) return Result.Refused("The site needs a name of 80 letters at most.", "Name");
        if (d.Tagline?.Length > 200) return Result.Refused("The line under the name is too long; 200 letters are the most.", "Tagline");
        if (zoneAndCurrency && (d.ZoneId is null || DateTimeZoneProviders.Tzdb.GetZoneOrNull(d.ZoneId) is null))
            return Result.Refused("Choose a time zone.", "ZoneId");
        if (zoneAndCurrency && !Currency.IsKnown(d.Currency)) return Result.Refused("Choose a currency.", "Currency");
        if (d.Colour is < 1 or > 8) return Result.Refused("Choose one of the eight colours.", "Colour");
        if (!string.IsNullOrWhiteSpace(d.HelpAddress) && !EmailAddress.TryRead(d.HelpAddress, out _))
            return Result.Refused("The help address doesn’t look like an email address.", "HelpAddress");
        if (d.Culture is not null && !Cultures.All.ContainsKey(d.Culture)) return Result.Refused("Choose how numbers and dates are written.", "Culture");
        if (d.BusinessName?.Trim().Length > 120) return Result.Refused("That name is too long; 120 letters are the most.", "BusinessName");
        if (d.BusinessAddress?.Trim().Length > 400) return Result.Refused("That address is too long; 400 letters are the most.", "BusinessAddress");
        return null;
    }
}
