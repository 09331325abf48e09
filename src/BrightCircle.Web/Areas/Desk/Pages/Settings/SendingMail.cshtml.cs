using BrightCircle.App.Letters;
using BrightCircle.App.Settings;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>How letters go out: their signature, what the domain has to say of them, and where what comes back is handed in.</summary>
public sealed class SendingMailModel(MailSigning signing, MailSettings settings, SiteAddress address) : DeskPage
{
    public override string Place => "mail";
    public bool Signs => Now.Site!.SignsMail;
    public bool Counts => Now.Site!.CountsLinks;
    public DnsLine? Line => signing.Line;
    public string From => settings.From;
    public string Domain => signing.Domain;
    public string Server => $"{settings.Host}:{settings.Port}";
    public string HelpAddress => Now.Site!.HelpAddress;
    public string ReportAddress => $"{address.Url}/mail/reports/{signing.ReportKey}";

    /// <summary>What the domain’s lines say; null while they weren’t looked up.</summary>
    public MailLinesFound? Found { get; private set; }

    public async Task OnGet([FromServices] CheckMailLines check, bool look)
    {
        if (look) Found = await check.Do(Ct);
    }

    async Task<IActionResult> Said(Task<App.Result> act, string well)
    {
        var done = await act;
        Tell(done.Ok ? well : done.Refusal!);
        return Redirect("/desk/settings/mail");
    }

    public Task<IActionResult> OnPostKey([FromServices] SetUpSigning setUp) =>
        Said(setUp.MakeKey(Actor, Ct), "Here is the key’s other half. Publish it, and come back in an hour.");
    public Task<IActionResult> OnPostSign([FromServices] SetUpSigning setUp, bool sign) =>
        Said(setUp.Use(Actor, sign, Ct), sign ? "Every letter is signed from now on." : "Letters are signed no longer.");

    public async Task<IActionResult> OnPostCount([FromServices] OpenedLinks links, bool counts)
    {
        await links.Count(Actor, counts, Ct);
        Tell(counts ? "Opened links are counted from now on." : "Opened links are counted no longer.");
        return Redirect("/desk/settings/mail");
    }
}
