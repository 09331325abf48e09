using BrightCircle.App.Content;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.Web.Areas.Desk.Pages;

public sealed class PieceNewModel(LessonPatterns patterns, SavePiece save) : DeskPage
{
    public override string Place => "shelves";
    public long? Shelf { get; private set; }
    public long? Edition { get; private set; }
    public IReadOnlyList<LessonPattern> Patterns { get; private set; } = [];

    public async Task OnGet(long? shelf, long? edition)
    {
        (Shelf, Edition) = (shelf, edition);
        Patterns = await patterns.List(Ct);
    }

    public async Task<IActionResult> OnPost(string? title, long? shelf, long? edition, string? summary, long? pattern)
    {
        var made =
            await save.New(Actor, new(title, shelf is { } s ? new ShelfId(s) : null, edition is { } e ? new EditionId(e) : null, summary, Pattern: pattern),
            Ct);
        if (made.Ok) return Redirect($"/desk/pieces/{made.Value.Value}");
        Refuse(made.Refusal!, made.Field);
        await OnGet(shelf, edition);
        return Page();
    }
}
