using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A letter to many as a mail program shows it, by itself, for the frame beside the form. It is never a page of the site: nothing in it
/// runs.</summary>
public sealed class MailingAsModel(Mailings mailings, ShowMailing show, MemberReader people) : DeskPage
{
    // A letter brings its own styles, and its links lead nowhere here.
    const string Policy = "default-src 'none'; style-src 'unsafe-inline'; img-src 'self' data:; frame-ancestors 'self'; sandbox";
    public override string Place => "mailings";

    public async Task<IActionResult> OnGet(long id) => await mailings.Find(id, Ct) is { } mailing ? await Show(mailing, null, null) : NotFound();

    /// <summary>As it is typed.</summary>
    public async Task<IActionResult> OnPost(long id, string? subject, string? preheader, string? body, long? audience, bool plain, string? @as, string? look)
    {
        if (await mailings.Find(id, Ct) is not { } stored) return NotFound();
        var read = mailings.Read(stored, new(subject, preheader, body, audience is { } a ? new AudienceId(a) : null, plain, null, 0));
        return read.Ok ? await Show(read.Value!, @as, look) : Html("");
    }

    async Task<IActionResult> Show(Mailing mailing, string? @as, string? look)
    {
        var whom = string.IsNullOrWhiteSpace(@as) ? null : await people.Find(@as, Ct) is { IsTeam: false } member ? member : null;
        var (_, letter) = await show.As(mailing, whom?.MemberId, Ct);
        return Html(look == "dark" ? LetterTemplates.InTheDark(letter.Html) : letter.Html);
    }

    ContentResult Html(string html)
    {
        HttpContext.Items[Endpoints.OwnPolicy] = Policy;
        return Content(html.Length > 0 ? html : "<!doctype html><html lang=\"en\"><head><title>Plain text</title></head><body></body></html>",
            "text/html; charset=utf-8");
    }
}
