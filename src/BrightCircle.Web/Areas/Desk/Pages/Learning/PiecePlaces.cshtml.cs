using BrightCircle.App.Learning;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Who has a place in a piece, and who waits.</summary>
public sealed class PiecePlacesModel(PiecePlaces places) : DeskPage
{
    public override string Place => "shelves";
    public Piece Piece { get; private set; } = null!;
    public IReadOnlyList<(PiecePlace Place, string Name)> Rows { get; private set; } = [];
    /// <summary>Over all; the list shows the first 500.</summary>
    public int Taken { get; private set; }
    public int Waiting { get; private set; }

    public async Task<IActionResult> OnGet(long id)
    {
        if (!Now.PieceById.TryGetValue(new(id), out var piece)) return NotFound();
        Piece = piece;
        (Rows, Taken, Waiting) = await places.List(piece.Id, 500, Ct);
        return Page();
    }

    public async Task<IActionResult> OnPost(long id, long member)
    {
        Actor.NeedEditor();
        await places.GiveUp(new(member), new(id), Ct);
        Tell("The place is free; whoever waited longest has it.");
        return Redirect($"/desk/pieces/{id}/places");
    }
}
