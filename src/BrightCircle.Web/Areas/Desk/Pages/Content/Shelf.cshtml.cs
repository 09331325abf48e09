using BrightCircle.App.Content;
using BrightCircle.App.Files;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class ShelfModel(FilesToChoose choose, SaveShelf save) : DeskPage
{
    public override string Place => "shelves";
    public Shelf? Shelf { get; private set; }
    public ShelfDraft Draft { get; private set; } = null!;
    public FileField Cover { get; private set; } = null!;

    public async Task<IActionResult> OnGet(long? id)
    {
        if (!Find(id)) return NotFound();
        Draft = Shelf is null ? new("", "", Now.Shelves.Count % 8 + 1, "") : new(Shelf.Name, Shelf.Mark, Shelf.Colour, Shelf.Description, Shelf.Cover);
        await Lists();
        return Page();
    }

    async Task Lists() => Cover = new("Cover", "Cover", "Cover", [FileKind.Picture], Draft.Cover,
        await choose.Do(Draft.Cover is { } c ? [c] : [], FileKind.Picture, 60, Ct), []);

    public async Task<IActionResult> OnPost(long? id, string? name, string? mark, int colour, string? description, long? cover)
    {
        if (!Find(id)) return NotFound();
        Draft = new(name, mark, colour, description, cover is { } c ? new FileId(c) : null);
        var saved = await save.Do(Actor, Shelf?.Id, Draft, Ct);
        if (!saved.Ok)
        {
            Refuse(saved.Refusal!, saved.Field);
            await Lists();
            return Page();
        }
        Tell($"{name} is saved.");
        return Redirect(Now.Pieces.Count == 0 ? "/desk" : "/desk/shelves");
    }

    public async Task<IActionResult> OnPostRemove(long? id)
    {
        if (!Find(id) || Shelf is null) return NotFound();
        var done = await save.Remove(Actor, Shelf.Id, Ct);
        Tell(done.Ok ? $"{Shelf.Name} is taken down." : done.Refusal!);
        return Redirect(done.Ok ? "/desk/shelves" : $"/desk/shelves/{id}/edit");
    }

    bool Find(long? id)
    {
        if (id is null) return true;
        Shelf = Now.ShelfById.GetValueOrDefault(new(id.Value));
        return Shelf is not null;
    }
}
