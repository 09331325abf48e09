using System.Globalization;
using BrightCircle.App.Access;
using BrightCircle.App.Files;
using BrightCircle.App.Learning;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Learning;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using Microsoft.AspNetCore.Mvc;

namespace BrightCircle.Web.Areas.Front.Pages;

/// <summary>One lesson of a course to read, and all that is done in lessons, wherever they are read.</summary>
[RequestFormLimits(ValueCountLimit = 5_000)]
public sealed class LessonModel(MemberReader reader, FileLinks links, TakePart part, Tallies tallies, AskAndAnswer ask) : BrightPage
{
    public override bool KeptOffline => Doorway is null;
    public Piece Piece { get; private set; } = null!;
    public Lesson Lesson { get; private set; } = null!;
    public LessonView? View { get; private set; }
    public Doorway? Doorway { get; private set; }

    bool Find(long id)
    {
        if (!Now.LessonById.TryGetValue(new(id), out var lesson)) return false;
        (Lesson, Piece) = (lesson, Now.PieceOf(lesson));
        return Decide(lesson).IsKnown;
    }

    public async Task<IActionResult> OnGet(long id, string? price)
    {
        if (!Find(id)) return NotFound();
        if (!Piece.IsCourse) return RedirectPreserveMethod(PathOf(Piece));
        var decision = Decide(Lesson);
        // Places are taken on the piece's own page.
        if (decision.Rule == AccessRule.NoPlace) return Redirect(PathOf(Piece) + "#place");
        if (!decision.IsOpen)
        {
            Doorway = Doorway.For(this, Piece, Lesson, price);
            if (Doorway.Answer(HttpContext) is { } elsewhere) return elsewhere;
            Doorway = await Doorway.WithExtract(reader, Lesson, Ct);
            return Page();
        }
        View = await LessonLoader.Load(this, reader, links, Piece, Lesson, []);
        return View is null ? NotFound() : Page();
    }

    /// <summary>Who may do something here: decided for this lesson, now.</summary>
    bool May(long id, [System.Diagnostics.CodeAnalysis.NotNullWhen(true)] out LessonReader? by)
    {
        by = Find(id) ? Visitor.Reads(Now, Lesson.Id, Moment) : null;
        return by is not null;
    }

    public async Task<IActionResult> OnPostDone(long id, bool done)
    {
        if (!May(id, out var by)) return NotFound();
        var marked = await part.MarkDone(by, done, Ct);
        if (!marked.Ok) Tell(marked.Refusal!);
        if (!done || !marked.Ok) return Redirect(PathOf(Lesson));
        if (Piece.IsCourse) return Redirect(Piece.Outline.After(Lesson.Id, l => Decide(l).IsOpen) is { } next ? PathOf(next) : PathOf(Piece) + "#end");
        var siblings = Piece.EditionId is { } e ? Now.PartsOf[e].Where(p => p.Id == Piece.Id || Decide(p).IsOpen).ToList() : [Piece];
        var at = siblings.FindIndex(p => p.Id == Piece.Id);
        return Redirect(at + 1 < siblings.Count ? PathOf(siblings[at + 1]) : "/me");
    }

    /// <summary>The team tries something here, as itself or through somebody's eyes: it is answered, and leaves no trace.</summary>
    bool Tries(long id) => Visitor.IsTeam && Find(id) && Decide(Lesson).IsOpen;

    async Task<IActionResult> Tried(Func<LessonReading, LessonReading>? tried, IReadOnlyDictionary<(BlockId, string), string>? wrong = null,
        (BlockId, Dictionary<string, string>)? typed = null)
    {
        View = await LessonLoader.Load(this, reader, links, Piece, Lesson, [], wrong, typed, tried);
        return View is null ? NotFound() : Page();
    }

    async Task<IActionResult> TrySheet(long block, string? act)
    {
        // What stands there already gives way to an empty sheet with the same answers.
        if (act != "in")
            return await Tried(r => r with
            {
                Drafts = new Dictionary<BlockId, Dictionary<string, Answer>> { [new(block)] = r.Tries.GetValueOrDefault(new BlockId(block))?.Answers ?? [] }
            });
        var answers = ReadAnswers(block);
        return await Tried(r => r.Blocks.OfType<Block.Practice>().FirstOrDefault(b => b.Id.Value == block) is not { } sheet ? r
            : Grading.Grade(sheet.Sheet, answers) is var result ? r with
            {
                Tries = new Dictionary<BlockId, TriesState>
                {
                    [sheet.Id] = new(1, 0, Moment, result.Passed, result.Passed == true, answers, result)
                },
                Drafts = new Dictionary<BlockId, Dictionary<string, Answer>>(),
            } : r);
    }

    async Task<IActionResult> TryForm(long block)
    {
        var (prefix, id) = ($"f-{block}-", new BlockId(block));
        var answers = FormAnswers(prefix);
        var content = await reader.Contents([Lesson.Id], Ct);
        if (content.Blocks.GetValueOrDefault(Lesson.Id)?.OfType<Block.CheckIn>().FirstOrDefault(b => b.Id == id) is not { } form) return NotFound();
        if (FormRules.Wrong(form.Form, answers) is { Count: > 0 } wrong)
            return await Tried(null, wrong.ToDictionary(w => (id, w.Key), w => w.Value), (id, answers));
        var kept = FormRules.Kept(form.Form, answers);
        return await Tried(r => r with { Forms = new Dictionary<BlockId, Dictionary<string, string>> { [id] = kept } });
    }

    Dictionary<string, string> FormAnswers(string prefix) => Request.Form.Keys.Where(k => k.StartsWith(prefix, StringComparison.Ordinal))
        .ToDictionary(k => k[prefix.Length..],
            k => string.Join('\n', Request.Form[k].Select(v => (v ?? "").Replace("\r\n", "\n", StringComparison.Ordinal))));

    public async Task<IActionResult> OnPostSheet(long id, long block, string? act)
    {
        if (Tries(id)) return await TrySheet(block, act);
        if (!May(id, out var by)) return NotFound();
        if (act == "again") await part.TryAgain(by, new(block), Ct);
        else
        {
            var answers = ReadAnswers(block);
            if (act == "keep")
            {
                var kept = await part.KeepDraft(by, new(block), answers, Ct);
                if (Request.Headers.ContainsKey("X-Autosave")) return kept.Ok ? new OkResult() : BadRequest(kept.Refusal!);
                Tell(kept.Ok ? "Your answers are kept; hand them in when you’re ready." : kept.Refusal!);
            }
            else
            {
                var handed = await part.HandIn(by, new(block), answers, Ct);
                if (!handed.Ok) Tell(handed.Refusal!);
            }
        }
        return Redirect($"{PathOf(Lesson)}#block-{block}");
    }

    /// <summary>Answers from the fields a-KEY (words or chosen options) and o-KEY-PLACE (arranged).</summary>
    Dictionary<string, Answer> ReadAnswers(long block)
    {
        var answers = new Dictionary<string, Answer>();
        var prefix = $"a-{block}-";
        foreach (var key in Request.Form.Keys.Where(k => k.StartsWith(prefix, StringComparison.Ordinal)))
        {
            var values = Request.Form[key];
            var name = key[prefix.Length..];
            var kind = Request.Form[$"k-{block}-{name}"].ToString();
            answers[name] = kind switch
            {
                "chosen" =>
                    new Answer.Chosen([.. values.Select(v => int.TryParse(v, NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : -1)
                    .Where(n => n >= 0)]),
                "arranged" =>
                    new Answer.Arranged([.. values.Select(v => int.TryParse(v, NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n : -1)]),
                _ => new Answer.Written(values.ToString()),
            };
        }
        return answers;
    }

    public async Task<IActionResult> OnPostForm(long id, long block)
    {
        if (Tries(id)) return await TryForm(block);
        if (!May(id, out var by)) return NotFound();
        var prefix = $"f-{block}-";
        var answers = FormAnswers(prefix);
        var wrong = await part.Answer(by, new(block), answers, Ct);
        if (wrong.Count == 0) return Redirect($"{PathOf(Lesson)}?answered={block}#block-{block}");
        View = await LessonLoader.Load(this, reader, links, Piece, Lesson, [], wrong.ToDictionary(w => (new BlockId(block), w.Key), w => w.Value),
            (new BlockId(block), answers));
        return Page();
    }

    public async Task<IActionResult> OnPostNote(long id, string? text)
    {
        if (!May(id, out var by)) return NotFound();
        var kept = await part.KeepNote(by, text, Ct);
        if (Request.Headers.ContainsKey("X-Autosave")) return kept.Ok ? new OkResult() : BadRequest(kept.Refusal!);
        Tell(kept.Ok ? "Your note is kept." : kept.Refusal!);
        return Redirect(PathOf(Lesson) + "#note");
    }

    public async Task<IActionResult> OnPostBookmark(long id, bool on)
    {
        if (!May(id, out var by)) return NotFound();
        await part.SetBookmark(by, on, Ct);
        return Redirect(PathOf(Lesson));
    }

    public async Task<IActionResult> OnPostAsk(long id, string? text, long? answers)
    {
        if (!May(id, out var by)) return NotFound();
        var done = await ask.Ask(by, Visitor.Person!.Confirmed, text, answers, Ct);
        if (!done.Ok) Tell(done.Refusal!);
        return Redirect(PathOf(Lesson) + "#questions");
    }

    /// <summary>"I did it", in the tally that a follow-along of this lesson offers.</summary>
    /// <param name="run">Which run it was done with: a run counts once. Without scripts there is none.</param>
    public async Task<IActionResult> OnPostTally(long id, long block, int? run)
    {
        if (!May(id, out var by) || await part.TallyOf(by, new(block), Ct) is not { } tally
            || TallyReader.With(Now, by, Visitor.Person!.ZoneId, tally) is not { } marks) return NotFound();
        var done = await tallies.Mark(marks, run is { } n ? (new BlockId(block), n) : null, Ct);
        if (Request.Headers.ContainsKey("X-Autosave"))
            return done.Value is { } s ? new JsonResult(new { says = s.Words(), ring = Svg.TallyRing(s.ThisWeek).ToString() }) : BadRequest(done.Refusal!);
        Tell(done.Value is { } now ? $"{Now.TallyById[tally].Name}: {now.Words()}." : done.Refusal!);
        return Redirect($"{PathOf(Lesson)}#block-{block}");
    }

    /// <summary>From scripts: how far a recording was played, or that a follow-along was finished.</summary>
    public async Task<IActionResult> OnPostPlayed(long id, long block, int position, double share, bool finished)
    {
        if (!May(id, out var by)) return NotFound();
        if (finished) return new JsonResult(new { times = await part.FinishRun(by, new(block), Ct) });
        await part.Play(by, new(block), position, share, Ct);
        return new OkResult();
    }
}
