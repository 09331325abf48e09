using BrightCircle.App.Letters;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class LetterModel(LetterList letters, LetterAsSent asSent) : DeskPage
{
    public override string Place => "letters";
    public Letter Letter { get; private set; } = null!;
    public RenderedLetter Rendered { get; private set; } = null!;
    /// <summary>The address its member has by now, where it is another.</summary>
    public string? OtherAddress { get; private set; }

    /// <summary>What led to it; empty where the letter itself says so.</summary>
    public string Because => HouseLetters.Of(Letter.Kind)?.When ?? "";

    public async Task<IActionResult> OnGet(long id)
    {
        if (await letters.Find(id, Ct) is not { } found) return NotFound();
        (Letter, OtherAddress) = found;
        Rendered = await asSent.Of(Letter, Ct);
        return Page();
    }

    public async Task<IActionResult> OnPostAgain(long id, [FromServices] SendLetterAgain again)
    {
        var sent = await again.Do(Actor, id, Ct);
        Tell(sent.Ok ? "It is on its way." : sent.Refusal!);
        return Redirect($"/desk/letters/{(sent.Ok ? sent.Value : id)}");
    }

    public async Task<IActionResult> OnPostAside(long id, [FromServices] SetLetterAside aside)
    {
        var done = await aside.Do(Actor, id, Ct);
        Tell(done.Value > 0 ? "It is set aside." : "Somebody has seen to it already.");
        return Redirect("/desk/letters?waiting=true");
    }
}
