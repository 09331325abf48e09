using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>A module at the end of a piece.</summary>
public sealed class AddModule(BrightContext db, Ids ids, OutlineWork work)
{
    public async Task<Result<ModuleId>> Do(TeamActor by, PieceId id, string? title, CancellationToken ct)
    {
        by.NeedEditor();
        if (await work.Known(id, ct) is not { } piece) return OutlineWork.Gone;
        var modules = (await work.Outline(id, ct)).Modules.ToList();
        var name = title?.Trim() is { Length: > 0 } t ? t : modules.Count == 0 ? $"{piece.ModuleWord} 1"
            : NextName.After(modules[^1].Title, [.. modules.Select(m => m.Title)]);
        if (name.Length > 160) return Result.Refused("The name is too long; 160 letters are the most.", "Title");
        var module =
            db.Add(new Module { Id = ids.Next<ModuleId>(), PieceId = id, Title = name, Position = modules.Count == 0 ? 1 : modules.Max(m => m.Position) + 1 })
            .Entity;
        await work.Done(piece, ct);
        return module.Id;
    }
}
