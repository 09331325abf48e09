using BrightCircle.App.Content;
using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class ShelfModel(SaveContent content) : DeskPage
{
    public override string Place => "shelves";
    public Shelf? Shelf { get; private set; }
    public ShelfDraft Draft { get; private set; } = null!;

    public IActionResult OnGet(string id)
    {
        if (!Find(id)) return NotFound();
        Draft = Shelf is null ? new("", "", Now.Shelves.Count % 8 + 1, "") : new(Shelf.Name, Shelf.Mark, Shelf.Colour, Shelf.Description);
        return Page();
    }

    public async Task<IActionResult> OnPost(string id, ShelfDraft draft)
    {
        if (!Find(id)) return NotFound();
        Draft = draft;
        var saved = await content.Shelf(Actor, Shelf?.Id, draft, Ct);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, saved.Field);
            return Page();
        }
        Tell($"{draft.Name} is saved.");
        return Redirect(Now.Pieces.Count == 0 ? "/desk" : "/desk/shelves");
    }

    bool Find(string id)
    {
        if (id == "new") return true;
        Shelf = long.TryParse(id, out var n) ? Now.ShelfById.GetValueOrDefault(new(n)) : null;
        return Shelf is not null;
    }
}
