using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Content;

/// <summary>When a piece and its parts may be opened at all, beside what opens them.</summary>
/// <param name="OpenToAll">Everybody may open it once it is out.</param>
/// <param name="HidesComing">What isn't somebody's turn yet is left out of their outline.</param>
public sealed record PieceWindows(Window? Whole, IReadOnlyDictionary<LessonId, Window> Parts, bool OpenToAll, bool HidesComing);

public sealed class SaveWindows(BrightContext db, Catalogue catalogue)
{
    public async Task<Result> Do(TeamActor by, PieceId id, PieceWindows draft, CancellationToken ct)
    {
        by.NeedEditor();
        foreach (var window in draft.Parts.Values.Append(draft.Whole ?? new()))
            if (Wrong(window) is { } wrong) return Result.Refused(wrong, "Windows");
        var piece = await db.Pieces.FirstOrDefaultAsync(p => p.Id == id && p.TrashedAt == null, ct);
        if (piece is null) return OutlineWork.Gone;
        (piece.Window, piece.OpenToAll, piece.HidesComing) = (Some(draft.Whole), draft.OpenToAll, draft.HidesComing);
        foreach (var l in await db.Lessons.Where(l => l.PieceId == id && l.TrashedAt == null).ToListAsync(ct))
        {
            var window = draft.Parts.TryGetValue(l.Id, out var own) ? Some(own) : null;
            if (l.Window != window) l.Window = window;
        }
        piece.Version++;
        await db.SaveChangesAsync(ct);
        await catalogue.Changed([id], ct);
        return Result.Done;
    }

    static Window? Some(Window? w) => w is null or { From: null, Until: null, Days: null } ? null : w;

    static string? Wrong(Window w) => w switch
    {
        { From: { } from, Until: { } until } when until <= from => "It can’t close before it opens.",
        { Days: < 1 or > Window.MostDays } => $"It closes after 1 to {Window.MostDays} days, or never.",
        _ => null,
    };
}
