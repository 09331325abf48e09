using BrightCircle.App.Letters;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class LetterModel(BrightContext db, LetterModels models, LetterTemplates templates) : DeskPage
{
    public override string Place => "letters";
    public Letter Letter { get; private set; } = null!;
    public RenderedLetter Rendered { get; private set; } = null!;

    public async Task<IActionResult> OnGet(long id)
    {
        if (await db.Letters.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id, Ct) is not { } letter) return NotFound();
        Letter = letter;
        Rendered = templates.Render(letter.Kind.ToString(), models.For(letter, showLink: false));
        return Page();
    }
}
