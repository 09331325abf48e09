using BrightCircle.App.Community;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Member.Pages;

/// <summary>A new thread in a space.</summary>
public sealed class SpaceBeginModel : MemberPage
{
    public override string Place => "spaces";
    public SpaceReader Reader { get; private set; } = null!;
    [BindProperty] public string? Title { get; set; }
    [BindProperty] public string? Body { get; set; }

    bool Find(long id)
    {
        if (Visitor.Talks(Now, new(id), Moment) is not { MayBegin: true } reader) return false;
        Reader = reader;
        return true;
    }

    public IActionResult OnGet(long id) => Find(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPost(long id, [FromServices] Talk talk)
    {
        if (!Find(id)) return NotFound();
        ModelState.Clear();
        var begun = await talk.Begin(Reader, Title, Body, Ct);
        if (begun.Ok) return Redirect($"/spaces/threads/{begun.Value}");
        Refuse(begun.Refusal!, begun.Field);
        return Page();
    }
}
