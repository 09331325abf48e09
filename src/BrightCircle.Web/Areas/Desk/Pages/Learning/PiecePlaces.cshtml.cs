using BrightCircle.App.Learning;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>Who has a place in a piece, and who waits.</summary>
public sealed class PiecePlacesModel(BrightContext db, PiecePlaces places) : DeskPage
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
        Rows = [.. (await db.PiecePlaces.AsNoTracking().Where(p => p.PieceId == piece.Id).OrderBy(p => p.Waiting).ThenBy(p => p.At).Take(500).Join(db.Members, p => p.MemberId, m => m.Id, (p, m) => new { Place = p, m.Name }).ToListAsync(Ct)).OrderBy(x => x.Place.Waiting).ThenBy(x => x.Place.At).Select(x => (x.Place, x.Name))];
        var counts = await db.PiecePlaces.Where(p => p.PieceId == piece.Id).GroupBy(p => p.Waiting).Select(g => new { Waiting = g.Key, N = g.Count() }).ToListAsync(Ct);
        (Taken, Waiting) = (counts.FirstOrDefault(c => !c.Waiting)?.N ?? 0, counts.FirstOrDefault(c => c.Waiting)?.N ?? 0);
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
