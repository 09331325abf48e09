using BrightCircle.Core.Content;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Which promises open a module.</summary>
public sealed class ModulePromiseModel : DeskPage
{
    public override string Place => "shelves";
    public Piece Piece { get; private set; } = null!;
    public Module Module { get; private set; } = null!;

    public IActionResult OnGet(long id, long module)
    {
        if (!Now.Content.ModuleById.TryGetValue(new(module), out var found) || found.Piece.Id.Value != id) return NotFound();
        (Piece, Module) = found;
        return Page();
    }
}
