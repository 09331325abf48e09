using BrightCircle.App.Content;
using BrightCircle.App.Releases;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>A piece's outline: its modules and lessons, moved, copied, published; and its release.</summary>
[RequestFormLimits(ValueCountLimit = 20_000)]
public sealed class PieceModel(LessonPatterns patterns, SavePiece save, AddModule addModule, RenameModule renameModule, AddLesson addLesson,
    ReorderOutline reorder,
    DuplicateLesson duplicateLesson, DuplicateModule duplicateModule, DuplicatePiece duplicatePiece, MoveLessons move, ChangeLessons change, Trash trash,
    ReleaseContent release) : DeskPage
{
    public override string Place => "shelves";
    public Piece Piece { get; private set; } = null!;
    public IReadOnlyList<LessonPattern> Patterns { get; private set; } = [];
    public Instant? OpensAt => Piece.ReleasedAt is null ? Piece.OpensAt : null;
    public IReadOnlyList<Lesson> Drafts => [.. Piece.Outline.Lessons.Where(l => l.State == PieceState.Draft)];
    public string Outline => Piece.Outline.Lessons.Count == 0 ? "nothing in it yet" : Count(Piece.Outline.Lessons.Count, "lesson")
        + (Piece.Outline.Modules.Count() is > 0 and var m ? $" in {Count(m, Piece.ModuleWord.ToLowerInvariant())}" : "")
        + (Piece.Minutes is { } min ? $", {Say.Length(min)}" : "");

    public async Task<IActionResult> OnGet(long id)
    {
        if (!Find(id)) return NotFound();
        Patterns = await patterns.List(Ct);
        return Page();
    }

    bool Find(long id)
    {
        if (!Now.PieceById.TryGetValue(new(id), out var piece)) return false;
        Piece = piece;
        return true;
    }

    IActionResult Done(Result r, string told)
    {
        Tell(r.Ok ? told : r.Refusal!);
        return Redirect($"/desk/pieces/{Piece.Id.Value}");
    }

    public async Task<IActionResult> OnPostAddModule(long id, string? title) => !Find(id) ? NotFound()
        : await addModule.Do(Actor, Piece.Id, title, Ct) is var r
        && r.Ok ? Redirect($"/desk/pieces/{id}#module-{r.Value.Value}") : Done(Result.Refused(r.Refusal!), "");
    public async Task<IActionResult> OnPostRenameModule(long id, long module, string? title) => !Find(id) ? NotFound()
        : Done(await renameModule.Do(Actor, new(module), title, Ct), "Renamed.");

    public async Task<IActionResult> OnPostAddLesson(long id, long? module, string? title, long? pattern)
    {
        if (!Find(id)) return NotFound();
        var made = await addLesson.Do(Actor, Piece.Id, module is { } m ? new ModuleId(m) : null, title, pattern, Ct);
        if (!made.Ok) return Done(Result.Refused(made.Refusal!), "");
        return Redirect($"/desk/lessons/{made.Value.Value}");
    }

    /// <summary>The order as dragging leaves it: "m12:5,6,7;m13:8" with m0 for the lessons before the first module.</summary>
    public async Task<IActionResult> OnPostOrder(long id, string? order)
    {
        if (!Find(id)) return NotFound();
        var groups = new List<OutlineOrder.Group>();
        foreach (var part in (order ?? "").Split(';', StringSplitOptions.RemoveEmptyEntries))
        {
            var (head, rest) = part.Split(':') is [var h, var r] ? (h, r) : ("", "");
            if (!long.TryParse(head.TrimStart('m'), out var m)) return BadRequest();
            groups.Add(new(m == 0 ? null : new ModuleId(m),
                [.. rest.Split(',', StringSplitOptions.RemoveEmptyEntries).Select(x => new LessonId(long.TryParse(x, out var n) ? n : 0))]));
        }
        var done = await reorder.Do(Actor, Piece.Id, new([.. groups.Where(g => g.Module is not null || g.Lessons.Count > 0)]), Ct);
        if (!Request.Headers.ContainsKey("HX-Request") && !Request.Headers.ContainsKey("X-Drag")) return Done(done, "The order is saved.");
        return done.Ok ? new OkResult() : new ConflictObjectResult(done.Refusal);
    }

    public async Task<IActionResult> OnPostStep(long id, long? lesson, long? module, int by)
    {
        if (!Find(id)) return NotFound();
        var r = lesson is { } l ? await reorder.Lesson(Actor, new(l), by, Ct) : await reorder.Module(Actor, new(module ?? 0), by, Ct);
        if (!r.Ok) Tell(r.Refusal!);
        return Redirect($"/desk/pieces/{id}#{(lesson is { } x ? "lesson-" + x : "module-" + module)}");
    }

    public async Task<IActionResult> OnPostDuplicate(long id, long? lesson, long? module)
    {
        if (!Find(id)) return NotFound();
        if (lesson is { } l)
        {
            var copy = await duplicateLesson.Do(Actor, new(l), Ct);
            Tell(copy.Ok ? $"The copy is called “{Get<Catalogue>().Now.LessonById[copy.Value].Title}”, and is a draft." : copy.Refusal!);
            return Redirect($"/desk/pieces/{id}" + (copy.Ok ? $"#lesson-{copy.Value.Value}" : ""));
        }
        if (module is { } m)
        {
            var copy = await duplicateModule.Do(Actor, new(m), Ct);
            Tell(copy.Ok ? "Copied with its lessons, as drafts." : copy.Refusal!);
            return Redirect($"/desk/pieces/{id}" + (copy.Ok ? $"#module-{copy.Value.Value}" : ""));
        }
        var whole = await duplicatePiece.Do(Actor, Piece.Id, Ct);
        Tell(whole.Ok ? "This is the copy: drafts, in no edition yet." : whole.Refusal!);
        return Redirect($"/desk/pieces/{(whole.Ok ? whole.Value.Value : id)}");
    }

    public async Task<IActionResult> OnPostTrash(long id, long? module)
    {
        if (!Find(id)) return NotFound();
        if (module is { } m) return Done(await trash.PutModule(Actor, new(m), Ct), "It is in the trash for thirty days, with its lessons.");
        var gone = await trash.PutPiece(Actor, Piece.Id, Ct);
        Tell(gone.Ok ? $"“{Piece.Title}” is in the trash for thirty days." : gone.Refusal!);
        return Redirect(gone.Ok ? "/desk/shelves" : $"/desk/pieces/{id}");
    }

    public async Task<IActionResult> OnPostPublish(long id, bool inside)
    {
        if (!Find(id)) return NotFound();
        var done = await save.Publish(Actor, Piece.Id, inside, Ct);
        Tell(!done.Ok ? done.Refusal! : done.Value!.Drafts.Count == 0 ? "It is ready, with everything in it."
            : $"It is ready. {Count(done.Value.Drafts.Count, "lesson")} {(done.Value.Drafts.Count == 1 ? "stays a draft" : "stay drafts")}: {string.Join(", "
                + $"", done.Value.Drafts.Take(5).Select(l => $"“{l.Title}”"))}{(done.Value.Drafts.Count > 5 ? " …" : "")}.");
        return Redirect($"/desk/pieces/{id}");
    }

    public async Task<IActionResult> OnPostUnpublish(long id) => !Find(id) ? NotFound()
        : Done(await save.Unpublish(Actor, Piece.Id, Ct), "It is a draft again.");
    public async Task<IActionResult> OnPostWithdraw(long id) => !Find(id) ? NotFound()
        : Done(await release.Withdraw(Actor, Piece.Id, Ct), "It is closed again, and a draft. What members did in it is kept.");

    /// <param name="when">"now", or "then" for the typed day.</param>
    public async Task<IActionResult> OnPostOpen(long id, string? at, bool dated, string? when)
    {
        if (!Find(id)) return NotFound();
        LocalDateTime? local = null;
        if (when != "now")
        {
            if (string.IsNullOrWhiteSpace(at)) return Done(Result.Refused("Say the day it is released on."), "");
            if (!LocalInput.TryReadMoment(at, out var typed)) return Done(Result.Refused("That isn’t a day and a time."), "");
            local = typed;
        }
        return Done(await release.Open(Actor, Piece.Id, local, dated, Ct), local is null ? "It is released in a moment." : "It is released then, by itself.");
    }

    public async Task<IActionResult> OnPostNotOpen(long id) =>
        !Find(id) ? NotFound() : Done(await release.Cancel(Actor, Piece.Id, Ct), "It isn’t released by itself any more.");

    /// <summary>For whom something changes: worked out when somebody asks for it, before it is done.</summary>
    public async Task<IActionResult> OnGetEffect(long id, bool withdraw)
    {
        if (!Find(id)) return NotFound();
        return Partial("_Effect", (await release.Effect([Piece.Id], withdraw, Ct), withdraw));
    }

    public async Task<IActionResult> OnPostBulk(long id, long[] lesson, string? action, int? minutes, string? to)
    {
        if (!Find(id)) return NotFound();
        if (lesson.Length == 0) return Done(Result.Refused("Select some lessons first."), "");
        if (!ModelState.IsValid) return Done(Result.Refused("Minutes are a whole number."), "");
        LessonId[] chosen = [.. lesson.Select(l => new LessonId(l))];
        if (action == "move")
        {
            // "piece" or "piece/module"
            var parts = (to ?? "").Split('/');
            if (!long.TryParse(parts[0], out var piece)) return Done(Result.Refused("Choose where they go."), "");
            ModuleId? module = parts.Length > 1 && long.TryParse(parts[1], out var m) ? new ModuleId(m) : null;
            return Done(await move.Do(Actor, chosen, new(piece), module, Ct), $"{Count(chosen.Length, "lesson")} moved.");
        }
        if (!Enum.TryParse<BulkAction>(action, out var what)) return Done(Result.Refused("Choose what to do with them."), "");
        var done = await change.Do(Actor, chosen, what, minutes, Ct);
        return Done(done.Ok ? Result.Done : Result.Refused(done.Refusal!),
            done.Ok ? $"{Count(done.Value!.Done, "lesson")}: {what switch
            {
                BulkAction.Publish => "ready",
                BulkAction.Unpublish => "drafts again",
                BulkAction.Minutes => $"{minutes} minutes each",
                BulkAction.TeaserOn => "open to everybody now",
                BulkAction.TeaserOff => "for members again",
                BulkAction.Delete => "in the trash for thirty days",
            }}. {string.Join(" ", done.Value.Left.Take(6))}".Trim() : "");
    }
}
