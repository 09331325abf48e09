using BrightCircle.App.Catalogues;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>The order of modules and lessons: as dragged, or one step at a time.</summary>
public sealed class ReorderOutline(BrightContext db, OutlineWork work)
{
    /// <summary>The whole order at once, as dragging leaves it. It has to be of the same modules and lessons: what somebody added meanwhile isn't
    /// lost.</summary>
    public async Task<Result> Do(TeamActor by, PieceId id, OutlineOrder order, CancellationToken ct)
    {
        by.NeedEditor();
        if (await work.Known(id, ct) is not { } piece) return OutlineWork.Gone;
        var now = await work.Outline(id, ct);
        if (!order.SameSetAs(now.Order)) return Result.Refused("Somebody changed this outline meanwhile. Here it is as it stands now; move again.");
        await work.Put(piece, order, ct);
        return Result.Done;
    }

    /// <summary>A lesson one place up or down, past the end of a module into the next.</summary>
    public async Task<Result> Lesson(TeamActor by, LessonId id, int step, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Lessons.AsNoTracking().FirstOrDefaultAsync(l => l.Id == id, ct) is not { } lesson || await work.Known(lesson.PieceId, ct) is not { } piece)
            return OutlineWork.Gone;
        await work.Put(piece, (await work.Outline(piece.Id, ct)).Order.Step(id, Math.Sign(step)), ct);
        return Result.Done;
    }

    public async Task<Result> Module(TeamActor by, ModuleId id, int step, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Modules.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id, ct) is not { } module || await work.Known(module.PieceId, ct) is not { } piece)
            return OutlineWork.Gone;
        var order = (await work.Outline(piece.Id, ct)).Order;
        await work.Put(piece, order.MoveModule(id, order.Modules.ToList().IndexOf(id) + Math.Sign(step)), ct);
        return Result.Done;
    }
}
