using BrightCircle.App.Files;
using BrightCircle.App.Settings;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Identity;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.RateLimiting;
using NodaTime;

namespace BrightCircle.Web.Areas.Front.Pages;

[EnableRateLimiting(WebSetup.SignInLimit)]
public sealed class SetupModel(SetUpSite setUp, SavePicture pictures, SignInManager<Account> signIn) : BrightPage
{
    public static IReadOnlyList<string> Zones { get; } =
        [.. DateTimeZoneProviders.Tzdb.Ids.Where(i => i.Contains('/') && !i.StartsWith("Etc/", StringComparison.Ordinal)
        && !i.StartsWith("SystemV", StringComparison.Ordinal)).Order(StringComparer.Ordinal)];
    public static IReadOnlyList<string> Currencies { get; } = [.. Core.Currency.All.Order(StringComparer.Ordinal)];
    public string ZoneId { get; private set; } = "Europe/London";
    public string Currency { get; private set; } = "GBP";

    public IActionResult OnGet() => Now.Site is null ? Page() : Redirect("/sign-in");

    public async Task<IActionResult> OnPost(string? ownerName, string? ownerEmail, string? password, string? name, string? tagline, string? about,
        string? zoneId, string? currency, IFormFile? picture)
    {
        if (Now.Site is not null) return Redirect("/sign-in");
        (ZoneId, Currency) = (zoneId ?? ZoneId, currency ?? Currency);
        string? address = null;
        if (picture is { Length: > 0 })
        {
            await using var upload = picture.OpenReadStream();
            var saved = await pictures.Save(upload, picture.Length, Ct);
            if (!saved.Ok)
            {
                Refuse(saved.Refusal!, saved.Field);
                return Page();
            }
            address = saved.Value;
        }
        var done = await setUp.Do(ownerName, ownerEmail, password, new(name, tagline, about, zoneId, currency, null, 5), demo: false, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        if (address is not null) await setUp.SetPicture(address, Ct);
        await signIn.SignInAsync(done.Value!, isPersistent: true);
        return Redirect("/desk");
    }
}
