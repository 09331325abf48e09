using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A letter of the house for the frame beside the form.</summary>
public sealed class HouseLetterAsModel(ChangeLetter change, ShowHouseLetter show, LetterPictures pictures, MemberReader people) : DeskPage
{
    public override string Place => "house-letters";

    static HouseLetter? Find(string kind) => Enum.TryParse<LetterKind>(kind, out var k) ? HouseLetters.Of(k) : null;

    public async Task<IActionResult> OnGet(string kind, long? plan)
    {
        Mailings.NeedRole(Actor);
        if (Find(kind) is not { } house) return NotFound();
        var of = plan is { } p ? new PlanId(p) : (PlanId?)null;
        var letter = (await show.As(house, Now.People.TextFor(house.Kind, of), of, null, Actor, Ct)).Letter;
        return LetterFrame.Of(HttpContext, await pictures.Shown(letter, Ct), null);
    }

    /// <summary>As it is typed.</summary>
    public async Task<IActionResult> OnPost(string kind, long? plan, string? subject, string? preheader, string? body, string? @as, string? look,
        long? picture)
    {
        Mailings.NeedRole(Actor);
        if (Find(kind) is not { } house) return NotFound();
        var of = plan is { } p ? new PlanId(p) : (PlanId?)null;
        if (change.Read(house, of, new(subject, preheader, body, 0,
            LetterPicker.Of(picture))) is not { Ok: true, Value: { } read }) return LetterFrame.Of(HttpContext, null, look);
        var whom = string.IsNullOrWhiteSpace(@as) ? null : await people.Find(@as, Ct) is { IsTeam: false } member ? member : null;
        return LetterFrame.Of(HttpContext, await pictures.Shown((await show.As(house, read, of, whom?.MemberId, Actor, Ct)).Letter, Ct), look);
    }
}
