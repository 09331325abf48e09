using BrightCircle.App.Content;
using BrightCircle.App.Files;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using BrightCircle.Web.Areas.Desk.Blocks;
using BrightCircle.Web.House;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Desk.Pages;

/// <summary>The editor of one lesson: one form, in which a button can add, move or take out blocks; saved as it is typed where scripts run.</summary>
[RequestFormLimits(ValueCountLimit = 20_000, ValueLengthLimit = 4 * 1024 * 1024)]
public sealed class DeskLessonModel(FilesToChoose choose, LessonPatterns patterns, OpenLesson open, SaveLesson save, SplitLesson split,
    DuplicateLesson duplicateLesson, MergeLesson merge,
    Trash trash, EditingNow editing, RichText rich,
    Ids ids) : DeskPage
{
    const int RecentFiles = 60;

    public override string Place => "shelves";
    public Lesson Lesson { get; private set; } = null!;
    public Piece Piece { get; private set; } = null!;
    public LessonDraft Draft { get; private set; } = null!;
    public IReadOnlyList<BlockProblem> Problems { get; private set; } = [];
    public IReadOnlyDictionary<string, Mistake> Wrong { get; private set; } = new Dictionary<string, Mistake>();
    public IReadOnlyDictionary<FileId, StoredFile> Files { get; private set; } = new Dictionary<FileId, StoredFile>();
    public IReadOnlyList<StoredFile> Recent { get; private set; } = [];
    public IReadOnlyList<string> Others { get; private set; } = [];
    public LessonSaved.Overtaken? Overtaken { get; private set; }
    public string? SavedNote { get; private set; }
    public bool PartOnly { get; private set; }
    public Lesson? Before => Piece.Outline.Before(Lesson.Id, _ => true);
    public Lesson? After => Piece.Outline.After(Lesson.Id, _ => true);

    public IEnumerable<BlockEdit> Edits => Draft.Blocks.Select(
        (b, i) => new BlockEdit(Lesson.Id, b, i + 1, Draft.Blocks.Count, Files, Recent, Problems, Wrong, Now.Tallies, Now.Site!.DocumentKinds));

    public async Task<IActionResult> OnGet(long id)
    {
        if (!Find(id)) return NotFound();
        if (await open.Do(Actor, Lesson.Id, RecentFiles, Ct) is not { } opened) return NotFound();
        (Draft, Others) = (opened.Draft, opened.Others);
        Problems = BlockRules.Problems(Draft.Blocks);
        Choose(opened.Files);
        return Page();
    }

    bool Find(long id)
    {
        if (!Now.LessonById.TryGetValue(new(id), out var lesson)) return false;
        (Lesson, Piece) = (lesson, Now.PieceOf(lesson));
        return true;
    }

    async Task Lists()
    {
        var used = Draft.Blocks.SelectMany(b => b.UsedFiles()).Distinct().ToArray();
        Choose(await choose.Do(used, null, RecentFiles, Ct));
    }

    void Choose(IReadOnlyList<StoredFile> files)
    {
        Files = files.ToDictionary(f => f.Id);
        Recent = [.. files.OrderByDescending(f => f.Id.Value).Take(RecentFiles)];
    }

    /// <summary>Saves; with "do" also what the pressed button says. Asked by a script for the blocks alone, or for a few facts while typing.</summary>
    public async Task<IActionResult> OnPost(long id, [FromForm(Name = "do")] string? action, string? title, string? minutes, bool teaser, DoneWhen doneWhen,
        long? edition, bool ready, int version)
    {
        if (!Find(id)) return NotFound();
        action ??= "save";
        var read = new BlockForm(Request.Form, rich);
        var blocks = read.Read();
        int? length = null;
        if (!string.IsNullOrWhiteSpace(minutes))
        {
            if (int.TryParse(minutes.Trim(), out var m)) length = m;
            else read.Wrong["Minutes"] = new("Minutes are a whole number.", minutes);
        }
        if (action == "publish") ready = true;
        Draft = new(title, length, teaser, doneWhen, edition is { } e ? new EditionId(e) : null, ready || Lesson.ReleasedAt is not null,
            read.Wrong.Count > 0 ? blocks : BlockForm.Act(blocks, action, ids.Next<BlockId>), version);
        Wrong = read.Wrong;
        var quiet = Request.Headers["X-Autosave"] == "1";
        PartOnly = Request.Headers.ContainsKey("HX-Request");
        if (Wrong.Count > 0)
        {
            if (quiet) return new JsonResult(new { wrong = Wrong.ToDictionary(w => w.Key, w => w.Value.Why) }) { StatusCode = 422 };
            foreach (var (field, mistake) in Wrong.Where(w => !w.Key.StartsWith("b-", StringComparison.Ordinal))) Refuse(mistake.Why, field);
            Refuse("Something can’t be read yet; it is marked below. Nothing was lost and nothing was saved.");
            return await Again();
        }
        switch (await save.Do(Actor, Lesson.Id, Draft, Ct))
        {
            case LessonSaved.Done done:
                Problems = done.Problems;
                Draft = Draft with { Version = done.Version };
                if (quiet)
                    return new JsonResult(new
                    {
                        version = done.Version,
                        at = Now.Calendar.Local(done.At).ToString("HH:mm", Now.Culture),
                        problems = done.Problems.Select(p => new { block = p.Block.Value, text = p.Text })
                    });
                if (action.StartsWith("split:", StringComparison.Ordinal) && long.TryParse(action.AsSpan(6), out var at))
                {
                    var second = await split.Do(Actor, Lesson.Id, new(at), null, Ct);
                    Tell(second.Ok ? "The rest stands in a lesson of its own now; this is it." : second.Refusal!);
                    return Go($"/desk/lessons/{(second.Ok ? second.Value.Value : Lesson.Id.Value)}");
                }
                if (PartOnly)
                {
                    SavedNote = $"saved {Now.Calendar.Local(done.At).ToString("HH:mm", Now.Culture)}";
                    return await Again();
                }
                Tell(action == "publish" ? "It is ready." : "Saved.");
                var anchor = action.Split(':') is [_, var block, ..] && long.TryParse(block, out _) ? "#block-" + block : "";
                return Redirect($"/desk/lessons/{Lesson.Id.Value}{anchor}");
            case LessonSaved.Refused refused:
                if (quiet) return new JsonResult(new { wrong = new Dictionary<string, string> { [refused.Field ?? ""] = refused.Why } }) { StatusCode = 422 };
                Refuse(refused.Why, refused.Field);
                Draft = Draft with { Ready = Lesson.Ready };
                return await Again();
            case LessonSaved.Overtaken overtaken:
                if (quiet) return new JsonResult(new { overtaken = overtaken.By, at = Now.Calendar.Local(overtaken.At).ToString("HH:mm", Now.Culture) })
                { StatusCode = 409 };
                Overtaken = overtaken;
                return await Again();
            default: throw new InvalidOperationException();
        }
    }

    async Task<IActionResult> Again()
    {
        if (Problems.Count == 0) Problems = BlockRules.Problems(Draft.Blocks);
        await Lists();
        return PartOnly ? Partial("_LessonForm", this) : Page();
    }

    IActionResult Go(string path)
    {
        if (!PartOnly) return Redirect(path);
        Response.Headers["HX-Redirect"] = path;
        return new EmptyResult();
    }

    public async Task<IActionResult> OnPostBeat(long id)
    {
        if (!Find(id)) return NotFound();
        Others = await editing.Beat(Actor, Lesson.Id, Ct);
        return Partial("_EditingToo", Others);
    }

    public async Task<IActionResult> OnPostDuplicate(long id)
    {
        if (!Find(id)) return NotFound();
        var copy = await duplicateLesson.Do(Actor, Lesson.Id, Ct);
        Tell(copy.Ok ? "This is the copy, a draft." : copy.Refusal!);
        return Redirect(copy.Ok ? $"/desk/lessons/{copy.Value.Value}" : $"/desk/lessons/{id}");
    }

    public async Task<IActionResult> OnPostMerge(long id)
    {
        if (!Find(id)) return NotFound();
        var into = Before;
        var merged = await merge.Do(Actor, Lesson.Id, Ct);
        Tell(merged.Ok ? $"Both are one lesson now. “{Lesson.Title}” is in the trash, empty." : merged.Refusal!);
        return Redirect($"/desk/lessons/{(merged.Ok ? into!.Id.Value : id)}");
    }

    public async Task<IActionResult> OnPostPattern(long id, string? name)
    {
        if (!Find(id)) return NotFound();
        var kept = await patterns.Keep(Actor, Lesson.Id, name, Ct);
        Tell(kept.Ok ? $"New lessons can start from “{name?.Trim()}” now." : kept.Refusal!);
        return Redirect($"/desk/lessons/{id}");
    }

    public async Task<IActionResult> OnPostTrash(long id)
    {
        if (!Find(id)) return NotFound();
        var gone = await trash.PutLesson(Actor, Lesson.Id, Ct);
        Tell(gone.Ok ? $"“{Lesson.Title}” is in the trash for thirty days." : gone.Refusal!);
        return Redirect($"/desk/pieces/{Piece.Id.Value}");
    }
}
