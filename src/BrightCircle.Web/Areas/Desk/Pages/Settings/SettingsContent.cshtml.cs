using BrightCircle.App.Settings;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class SettingsContentModel(ContentSettings settings) : DeskPage
{
    public override string Place => "content-settings";
    public string Language { get; private set; } = "";
    public string Kinds { get; private set; } = "";
    public IReadOnlyList<CadenceTarget> Cadence { get; private set; } = [];

    public IReadOnlyList<VideoHost> Hosts { get; private set; } = [];

    public void OnGet() =>
        (Language, Kinds, Cadence, Hosts) = (Now.Site!.Language, string.Join(", ", Now.Site.DocumentKinds), Now.Site.Cadence, Now.Site.VideoHosts);

    public async Task<IActionResult> OnPost(string? language, string? documentKinds, int?[] count, CadenceUnit[] what, long?[] shelf,
        string?[] host, string?[] link, string?[] embed)
    {
        ModelState.Clear();
        (Language, Kinds) = (language ?? "", documentKinds ?? "");
        Cadence = [.. count.Select((c, i) => (c, i)).Where(x => x.c is not null && x.i < what.Length)
            .Select(x => new CadenceTarget(x.c!.Value, what[x.i], x.i < shelf.Length ? shelf[x.i] : null))];
        static string At(string?[] all, int i) => i < all.Length ? all[i]?.Trim() ?? "" : "";
        Hosts = [.. host.Select((h, i) => new VideoHost(h?.Trim() ?? "", At(link, i), At(embed, i)))
            .Where(h => h.Host.Length + h.Link.Length + h.Embed.Length > 0)];
        var done = await settings.Save(Actor, new(language, documentKinds, Cadence, Hosts), Ct);
        if (!done.Ok)
        {
            Refuse(done.Refusal!, done.Field);
            return Page();
        }
        Tell("Saved.");
        return Redirect("/desk/settings/content");
    }
}
