using BrightCircle.App.Settings;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class SettingsContentModel(ContentSettings settings) : DeskPage
{
    public override string Place => "settings";
    public string Language { get; private set; } = "";
    public string Kinds { get; private set; } = "";
    public IReadOnlyList<CadenceTarget> Cadence { get; private set; } = [];

    public void OnGet() => (Language, Kinds, Cadence) = (Now.Site!.Language, string.Join(", ", Now.Site.DocumentKinds), Now.Site.Cadence);

    public async Task<IActionResult> OnPost(string? language, string? documentKinds, int?[] count, CadenceUnit[] what, long?[] shelf)
    {
        ModelState.Clear();
        (Language, Kinds) = (language ?? "", documentKinds ?? "");
        Cadence = [.. count.Select((c, i) => (c, i)).Where(x => x.c is not null && x.i < what.Length).Select(x => new CadenceTarget(x.c!.Value, what[x.i], x.i < shelf.Length ? shelf[x.i] : null))];
        var done = await settings.Save(Actor, new(language, documentKinds, Cadence), Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("Saved.");
        return Redirect("/desk/settings/content");
    }
}
