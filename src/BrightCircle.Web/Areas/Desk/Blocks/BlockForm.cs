using System.Globalization;
using BrightCircle.App.Content;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Data;
using BrightCircle.Web.House;
using BrightCircle.Web.Parts;
using NodaTime.Text;

namespace BrightCircle.Web.Areas.Desk.Blocks;

/// <summary>What is wrong with a field, and what was typed there: it is shown again as it was.</summary>
public sealed record Mistake(string Why, string Typed);

/// <summary>
/// A lesson's blocks as one form and back. The order of the hidden fields named "order" is the order of the blocks; a block's fields are named b-NUMBER-FIELD.
/// What can't be read is told by the field's name, and nothing is saved then. Of fields that stand there many times (a step's), the name has the row's number
/// after it.
/// </summary>
public sealed partial class BlockForm(IFormCollection form, RichText rich)
{
    public Dictionary<string, Mistake> Wrong { get; } = [];

    /// <summary>The kinds that can be added, as people call them, each with the part of the page that edits it.</summary>
    public static IReadOnlyList<BlockKind> Kinds { get; } =
    [
        new("text", "Text", "bi-fonts", "Text"), new("pictures", "Picture or gallery", "bi-image", "Pictures"),
        new("video", "Video", "bi-film", "Recording"), new("audio", "Audio", "bi-mic", "Recording"),
        new("files", "Files", "bi-paperclip", "Files"), new("links", "Links", "bi-link-45deg", "Links"),
        new("practice", "Practice sheet", "bi-ui-checks", "Practice"), new("follow", "Follow-along", "bi-list-ol", "Follow"),
        new("timer", "Timer", "bi-stopwatch", "Timer"), new("form", "Form", "bi-card-checklist", "CheckIn"),
        new("live", "Live session", "bi-broadcast", "Live"), new("booking", "Booking link", "bi-calendar-plus", "Booking"),
        new("voices", "Words of members", "bi-chat-quote", "Voices"), new("faq", "Questions and answers", "bi-question-circle", "Faq"),
        new("inside", "What’s inside", "bi-collection", "Inside"), new("prices", "Prices", "bi-tags", "Prices"),
    ];

    static readonly string[] OnPages = ["text", "pictures", "video", "links", "booking", "voices", "faq", "inside", "prices"];
    /// <summary>Those of a lesson, and those of a page of the owner's own.</summary>
    public static IReadOnlyList<BlockKind> LessonKinds { get; } = [.. Kinds.Where(k => k.Kind is not ("voices" or "faq" or "inside" or "prices"))];
    public static IReadOnlyList<BlockKind> PageKinds { get; } = [.. Kinds.Where(k => OnPages.Contains(k.Kind))];

    public static BlockKind KindOf(Block block)
    {
        var kind = block switch
        {
            Block.Text => "text",
            Block.Pictures => "pictures",
            Block.Video => "video",
            Block.Audio => "audio",
            Block.Files => "files",
            Block.Links => "links",
            Block.Booking => "booking",
            Block.Live => "live",
            Block.Timer => "timer",
            Block.Practice => "practice",
            Block.Follow => "follow",
            Block.CheckIn => "form",
            Block.Voices => "voices",
            Block.Faq => "faq",
            Block.Inside => "inside",
            Block.Prices => "prices",
            _ => throw new ArgumentOutOfRangeException(nameof(block), block.GetType().Name, "No such kind of block."),
        };
        return Kinds.First(k => k.Kind == kind);
    }

    public static Block New(string kind, BlockId id) => kind switch
    {
        "text" => new Block.Text("") { Id = id },
        "pictures" => new Block.Pictures([]) { Id = id },
        "video" => new Block.Video(Recording.Empty) { Id = id },
        "audio" => new Block.Audio(Recording.Empty) { Id = id },
        "files" => new Block.Files([]) { Id = id },
        "links" => new Block.Links([new("", "", "")]) { Id = id },
        "booking" => new Block.Booking("", "", "") { Id = id },
        "live" => new Block.Live("", null, 60, "", null) { Id = id },
        "timer" => new Block.Timer("", 300) { Id = id },
        "practice" => new Block.Practice(new("", "", [NewQuestion([])], null, 60)) { Id = id },
        "follow" => new Block.Follow(new("", [NewStep], 1, 5, 0, 3, false)) { Id = id },
        "voices" => new Block.Voices([new("", "")]) { Id = id },
        "faq" => new Block.Faq([new("", "")]) { Id = id },
        "inside" => new Block.Inside(null) { Id = id },
        "prices" => new Block.Prices(null) { Id = id },
        "form" => new Block.CheckIn(new("", [NewFormQuestion([])], FormRepeat.Once, "")) { Id = id },
        _ => throw new ArgumentOutOfRangeException(nameof(kind), kind, "No such kind of block."),
    };

    public static FollowStep NewStep { get; } = new("", "", 60, null, 0, null);
    public static Question NewQuestion(IEnumerable<string> taken) => new Question.Single(FreeKey(taken), "", 1, "", []);
    public static FormQuestion NewFormQuestion(IEnumerable<string> taken) => new(FreeKey(taken), FormQuestionKind.Short, "", false, [], null);

    static string FreeKey(IEnumerable<string> taken)
    {
        var n = taken.Select(k => k.Length > 1 && int.TryParse(k.AsSpan(1), NumberStyles.None, CultureInfo.InvariantCulture, out var x) ? x : 0)
            .DefaultIfEmpty().Max() + 1;
        return "q" + n.ToString(CultureInfo.InvariantCulture);
    }

    public IReadOnlyList<Block> Read()
    {
        var blocks = new List<Block>();
        foreach (var raw in form["order"])
            if (long.TryParse(raw, NumberStyles.None, CultureInfo.InvariantCulture, out var id) && blocks.All(b => b.Id.Value != id))
                blocks.Add(ReadOne(new(id)) with { Id = new(id) });
        return blocks;
    }

    string F(BlockId id, string field) => Typed($"b-{id.Value}-{field}");
    string Typed(string name) => form[name].ToString().Replace("\r\n", "\n", StringComparison.Ordinal).Trim();
    IReadOnlyList<string> All(BlockId id, string field) => [.. form[$"b-{id.Value}-{field}"].Select(v => (v ?? "").Trim())];

    int? Number(string name, int? otherwise) => Number(name, Typed(name), otherwise);

    int? Number(string name, string typed, int? otherwise)
    {
        if (typed.Length == 0) return otherwise;
        if (int.TryParse(typed, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n)) return n;
        Wrong[name] = new($"“{typed}” isn’t a whole number.", typed);
        return otherwise;
    }

    PlanId? PlanOf(BlockId id) => long.TryParse(F(id, "plan"), NumberStyles.None, CultureInfo.InvariantCulture, out var n) && n > 0 ? new PlanId(n) : null;
    static FileId? FileOf(string value) => long.TryParse(value, NumberStyles.None, CultureInfo.InvariantCulture, out var n) && n > 0 ? new(n) : null;
    static string? Null(string s) => s.Length == 0 ? null : s;
    static string At(IReadOnlyList<string> list, int i) => i < list.Count ? list[i] : "";

    Block ReadOne(BlockId id)
    {
        var kind = F(id, "kind");
        switch (kind)
        {
            case "text": return new Block.Text(rich.Clean(F(id, "html")));
            case "pictures":
                var (files, alts, captions) = (All(id, "file"), All(id, "alt"), All(id, "caption"));
                return new Block.Pictures([.. files.Select((f, i) => (File: FileOf(f), i)).Where(x => x.File is not null)
                    .Select(x => new Picture(x.File!.Value, At(alts, x.i), At(captions, x.i)))]);
            case "video": return new Block.Video(Recording_(id));
            case "audio": return new Block.Audio(Recording_(id));
            case "files": return new Block.Files([.. All(id, "file").Select(FileOf).Where(f => f is not null).Select(f => f!.Value)]);
            case "links":
                var (titles, urls, notes) = (All(id, "title"), All(id, "url"), All(id, "note"));
                return new Block.Links([.. urls.Select((u, i) => new Link(At(titles, i), u, At(notes, i)))]);
            case "booking": return new Block.Booking(F(id, "title"), F(id, "url"), F(id, "note"));
            case "voices":
                var (words, who) = (All(id, "words"), All(id, "who"));
                return new Block.Voices([.. words.Select((w, i) => new Voice(w.Replace("\r\n", "\n", StringComparison.Ordinal), At(who, i)))]);
            case "faq":
                var (questions, answers) = (All(id, "question"), All(id, "answer"));
                return new Block.Faq([.. questions.Select((q, i) => new Answered(q, At(answers, i).Replace("\r\n", "\n", StringComparison.Ordinal)))]);
            case "inside": return new Block.Inside(PlanOf(id));
            case "prices": return new Block.Prices(PlanOf(id));
            case "live": return Live(id);
            case "timer":
                var seconds = (Number($"b-{id.Value}-minutes", 0) ?? 0) * 60 + (Number($"b-{id.Value}-seconds", 0) ?? 0);
                return new Block.Timer(F(id, "title"), F(id, "mode") == "up" ? null : seconds);
            case "practice":
                return new Block.Practice(
                new(F(id, "title"), F(id, "intro"), [.. Keys(id).Select(k => Question_(id, k))], Number($"b-{id.Value}-tries", null),
                Number($"b-{id.Value}-pass", 60) ?? 60));
            case "follow": return new Block.Follow(Follow(id));
            case "form":
                return new Block.CheckIn(new(
                F(id, "title"), [.. Keys(id).Select(k => FormQuestion_(id, k))], F(id, "repeat") == "week" ? FormRepeat.EveryWeek : FormRepeat.Once,
                F(id, "thanks")));
            default: throw new BadHttpRequestException($"No such kind of block: {kind}");
        }
    }

    IEnumerable<string> Keys(BlockId id) => All(id, "q").Where(k => k.Length is > 0 and < 20 && k.All(char.IsLetterOrDigit)).Distinct();

    Recording Recording_(BlockId id) => new(F(id, "title"), Null(VideoHost.AddressIn(F(id, "url"))), FileOf(F(id, "file")), FileOf(F(id, "poster")),
        F(id, "captions"), F(id, "transcript"));

    Block.Live Live(BlockId id)
    {
        var typed = F(id, "starts");
        var isMoment = LocalInput.TryReadMoment(typed, out var starts);
        if (typed.Length > 0 && !isMoment) Wrong[$"b-{id.Value}-starts"] = new($"“{typed}” isn’t a day and a time.", typed);
        return new(F(id, "title"), isMoment ? starts : null, Number($"b-{id.Value}-minutes", 60) ?? 60, F(id, "url"), Null(F(id, "recording")));
    }

    FollowAlong Follow(BlockId id)
    {
        var (titles, notes, amounts, units, rests, pictures) =
            (All(id, "step-title"), All(id, "step-note"), All(id, "step-amount"), All(id, "step-unit"), All(id, "step-rest"), All(id, "step-picture"));
        var steps = titles.Select((t, i) =>
        {
            // A number that can't be read still leaves it a matter of times or of seconds.
            var amount = Number($"b-{id.Value}-step-amount-{i}", At(amounts, i), At(amounts, i).Length > 0 ? 1 : null);
            var times = At(units, i) == "times";
            var rest = Number($"b-{id.Value}-step-rest-{i}", At(rests, i), 0) ?? 0;
            return new FollowStep(t, At(notes, i), times ? null : amount, times ? amount : null, Math.Clamp(rest, 0, 3600), FileOf(At(pictures, i)));
        });
        return new(F(id, "title"), [.. steps], Number($"b-{id.Value}-rounds", 1) ?? 1, Number($"b-{id.Value}-lead", 0) ?? 0,
            Math.Clamp(Number($"b-{id.Value}-roundrest", 0) ?? 0, 0, 3600), Math.Clamp(Number($"b-{id.Value}-each", 3) ?? 3, 1, 600), F(id, "sounds") == "true",
            long.TryParse(F(id, "tally"), NumberStyles.None, CultureInfo.InvariantCulture, out var tally) ? new TallyId(tally) : null);
    }

    FormQuestion FormQuestion_(BlockId id, string key)
    {
        var name = $"b-{id.Value}-{key}";
        var kind = Enum.TryParse<FormQuestionKind>(Typed(name + "-kind"), out var k) ? k : FormQuestionKind.Short;
        var of = Typed(name + "-if");
        var when = Enum.TryParse<ShowWhen>(Typed(name + "-when"), out var w) ? w : ShowWhen.Is;
        return new(key, kind, Typed(name + "-text"), Typed(name + "-required") == "true",
            Typed(name + "-options").Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries),
            of.Length == 0 ? null : new(of, when, Typed(name + "-value")));
    }

    /// <summary>Does what a button of the editor says, to what was read.</summary>
    public static IReadOnlyList<Block> Act(IReadOnlyList<Block> blocks, string action, Func<BlockId> next)
    {
        var parts = action.Split(':');
        var list = blocks.ToList();
        if (parts[0] == "add" && parts.Length == 3 && Kinds.Any(k => k.Kind == parts[1]))
        {
            var after = long.TryParse(parts[2], out var a) ? list.FindIndex(b => b.Id.Value == a) : -1;
            list.Insert(parts[2] == "end" ? list.Count : after + 1, New(parts[1], next()));
            return list;
        }
        var at = parts.Length > 1 && long.TryParse(parts[1], out var id) ? list.FindIndex(b => b.Id.Value == id) : -1;
        if (at < 0) return blocks;
        var block = list[at];
        switch (parts[0])
        {
            case "up" when at > 0: (list[at - 1], list[at]) = (list[at], list[at - 1]); break;
            case "down" when at + 1 < list.Count: (list[at + 1], list[at]) = (list[at], list[at + 1]); break;
            case "copy": list.Insert(at + 1, block with { Id = next() }); break;
            case "del": list.RemoveAt(at); break;
            case "answer" when parts.Length == 5: list[at] = Answers(block, parts[2], parts[3], int.TryParse(parts[4], out var row) ? row : -1); break;
            case "row" when parts.Length == 4: list[at] = Row(block, parts[2], int.TryParse(parts[3], out var n) ? n : 0); break;
        }
        return list;
    }

    /// <summary>One row of a block more, less, or one place up.</summary>
    static Block Row(Block block, string what, int n) => block switch
    {
        Block.Voices v => v with { Items = Rows(v.Items, what, n, new("", "")) },
        Block.Faq f => f with { Items = Rows(f.Items, what, n, new("", "")) },
        Block.Links l => l with { Items = Rows(l.Items, what, n, new("", "", "")) },
        Block.Pictures p when what != "add" => p with { Items = Rows(p.Items, what, n, null!) },
        Block.Files f when what != "add" => f with { Items = Rows(f.Items, what, n, default) },
        Block.Practice p => p with { Sheet = p.Sheet with { Questions = Rows(p.Sheet.Questions, what, n, NewQuestion(p.Sheet.Questions.Select(q => q.Key))) } },
        Block.Follow f => f with { Run = f.Run with { Steps = Rows(f.Run.Steps, what, n, NewStep) } },
        Block.CheckIn c => c with { Form = c.Form with { Questions = Rows(c.Form.Questions, what, n, NewFormQuestion(c.Form.Questions.Select(q => q.Key))) } },
        _ => block,
    };

    static IReadOnlyList<T> Rows<T>(IReadOnlyList<T> rows, string what, int n, T fresh)
    {
        var list = rows.ToList();
        switch (what)
        {
            case "add": list.Add(fresh); break;
            case "del" when n >= 0 && n < list.Count: list.RemoveAt(n); break;
            case "up" when n > 0 && n < list.Count: (list[n - 1], list[n]) = (list[n], list[n - 1]); break;
        }
        return list;
    }
}

/// <summary>A kind of block: what it is called in the form, what people call it, its picture, and the part of the page that edits it.</summary>
public sealed record BlockKind(string Kind, string Word, string Icon, string Part)
{
    public string Partial => "Blocks/_" + Part;
}

/// <summary>A block in the editor, with what its fields need.</summary>
public sealed record BlockEdit(LessonId Lesson, Block Block, int Place, int Of, IReadOnlyDictionary<FileId, StoredFile> Files,
    IReadOnlyList<StoredFile> Recent, IReadOnlyList<BlockProblem> Problems, IReadOnlyDictionary<string, Mistake> Wrong,
    IReadOnlyList<BrightCircle.Core.Learning.Tally> Tallies, IReadOnlyList<string> DocumentKinds)
{
    /// <summary>On a page of the owner's own: the plans it can speak of. Null in a lesson.</summary>
    public IReadOnlyList<BrightCircle.Core.Offer.Plan>? Plans { get; init; }
    public bool IsPage => Plans is not null;
    public IReadOnlyList<BlockKind> Kinds => IsPage ? BlockForm.PageKinds : BlockForm.LessonKinds;
    public string N(string field) => $"b-{Block.Id.Value}-{field}";
    /// <summary>What a field shows: what was typed, where that can't be read.</summary>
    public object? Shown(string field, object? value) => Wrong.GetValueOrDefault(N(field))?.Typed ?? value;
    /// <summary>"true" where it is wrong; null leaves the attribute out.</summary>
    public string? Invalid(string field) => Wrong.ContainsKey(N(field)) ? "true" : null;
    /// <summary>What is wrong with some fields, one after the other.</summary>
    public IEnumerable<string> Mistakes(params string[] fields) => fields.Select(f => Wrong.GetValueOrDefault(N(f))?.Why).OfType<string>();
    /// <summary>A field for a file of some kinds (of any, where none is named), with the newest to choose from and what is chosen already.</summary>
    public FileField File(string field, string id, string label, FileId? chosen, params FileKind[] kinds) => new(N(field), id, label, kinds, chosen,
        (chosen is { } c && Files.TryGetValue(c, out var f) && Recent.All(r => r.Id != c) ? new[] { f } : [])
            .Concat(Recent.Where(r => kinds.Length == 0 || kinds.Contains(r.Kind))), DocumentKinds);
}
