using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>A module again, with its lessons.</summary>
public sealed class DuplicateModule(BrightContext db, Ids ids, OutlineWork work)
{
    /// <summary>A module with its lessons, behind it, as drafts.</summary>
    public async Task<Result<ModuleId>> Do(TeamActor by, ModuleId id, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Modules.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id && m.TrashedAt == null, ct) is not { } module
            || await work.Known(module.PieceId, ct) is not { } piece) return OutlineWork.Gone;
        var outline = await work.Outline(piece.Id, ct);
        await using var transaction = await db.Database.BeginTransactionAsync(ct);
        var copy =
            db.Add(new Module
            {
                Id = ids.Next<ModuleId>(),
                PieceId = piece.Id,
                Title = NextName.After(module.Title, [.. outline.Modules.Select(m => m.Title)]),
                Position = int.MaxValue
            }).Entity;
        await db.SaveChangesAsync(ct);
        foreach (var l in outline.Parts.First(p => p.Module?.Id == id).Lessons) await work.Copy(l, piece, copy.Id, l.Position, l.Title, by, ct);
        await db.SaveChangesAsync(ct);
        var order = (await work.Outline(piece.Id, ct)).Order;
        await work.Put(piece, order.MoveModule(copy.Id, outline.Modules.ToList().FindIndex(m => m.Id == id) + 1), ct, transaction);
        return copy.Id;
    }
}
