using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A letter to many for the frame beside the form.</summary>
public sealed class MailingAsModel(Mailings mailings, ShowMailing show, LetterPictures pictures, MemberReader people) : DeskPage
{
    public override string Place => "mailings";

    public async Task<IActionResult> OnGet(long id) => await mailings.Find(id, Ct) is { } mailing ? await Show(mailing, null, null) : NotFound();

    /// <summary>As it is typed.</summary>
    public async Task<IActionResult> OnPost(long id, string? subject, string? preheader, string? body, long? audience, bool plain, string? @as, string? look,
        long? picture)
    {
        if (await mailings.Find(id, Ct) is not { } stored) return NotFound();
        var read = mailings.Read(stored, new(subject, preheader, body, audience is { } a ? new AudienceId(a) : null, plain, null, 0,
            Picture: LetterPicker.Of(picture)));
        return read.Ok ? await Show(read.Value!, @as, look) : LetterFrame.Of(HttpContext, null, look);
    }

    async Task<IActionResult> Show(Mailing mailing, string? @as, string? look)
    {
        var whom = string.IsNullOrWhiteSpace(@as) ? null : await people.Find(@as, Ct) is { IsTeam: false } member ? member : null;
        var (_, letter) = await show.As(mailing, whom?.MemberId, Ct);
        return LetterFrame.Of(HttpContext, await pictures.Shown(letter, Ct), look);
    }
}
