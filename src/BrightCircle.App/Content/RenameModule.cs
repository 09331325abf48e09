using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>Another name for a module.</summary>
public sealed class RenameModule(BrightContext db, OutlineWork work)
{
    public async Task<Result> Do(TeamActor by, ModuleId id, string? title, CancellationToken ct)
    {
        by.NeedEditor();
        var name = title?.Trim() ?? "";
        if (name.Length is 0 or > 160) return Result.Refused("It needs a name of 160 letters at most.", "Title");
        if (await db.Modules.FirstOrDefaultAsync(m => m.Id == id && m.TrashedAt == null, ct) is not { } module
            || await work.Known(module.PieceId, ct) is not { } piece) return OutlineWork.Gone;
        module.Title = name;
        await work.Done(piece, ct);
        return Result.Done;
    }
}
