using BrightCircle.App.Files;
using BrightCircle.App.Settings;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class SettingsModel(SetUpSite setUp, SavePicture pictures, FilesToChoose choose) : DeskPage
{
    public override string Place => "settings";
    public SiteDraft Draft { get; private set; } = null!;

    public FileField Logo { get; private set; } = null!;

    async Task Lists() => Logo = new("Logo", "Logo", "Sign", [FileKind.Picture], Draft.Logo is > 0 and { } l ? new FileId(l) : null,
        await choose.Do(Draft.Logo is > 0 and { } c ? [new FileId(c)] : [], FileKind.Picture, 60, Ct), []);

    public async Task OnGet()
    {
        var s = Now.Site!;
        Draft = new(s.Name, s.Tagline, s.About, s.ZoneId, s.Currency.Code, s.HelpAddress, s.Colour, s.Culture, s.BusinessName, s.BusinessAddress,
            s.ArrivalPlanId?.Value, s.Logo?.Value, string.Join(", ", s.RetryDays), s.OffersOnLeaving);
        await Lists();
    }

    public async Task<IActionResult> OnPost(SiteDraft draft, IFormFile? picture)
    {
        ModelState.Clear();
        Draft = draft;
        await Lists();
        string? address = null;
        if (picture is { Length: > 0 })
        {
            await using var upload = picture.OpenReadStream();
            var kept = await pictures.Save(upload, picture.Length, Ct);
            if (!kept.Ok)
            {
                Refuse(kept.Refusal!, kept.Field);
                return Page();
            }
            address = kept.Value;
        }
        var done = await setUp.Change(Actor, draft, address, Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("Saved.");
        return Redirect("/desk/settings");
    }
}
