using BrightCircle.App.Catalogues;
using BrightCircle.App.Files;
using BrightCircle.App.Learning;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Content;

public enum ImportVerb { Makes, Changes, Same, Refuses }

/// <summary>One thing an import does or would do, with the line it stands on.</summary>
public sealed record ImportLine(ImportVerb Verb, string What, string Name, string File, int Line, string Note = "");

public sealed record ImportReport(IReadOnlyList<ImportLine> Lines)
{
    public int Count(ImportVerb verb) => Lines.Count(l => l.Verb == verb);
}

/// <summary>
/// Brings content in. A dry run says exactly what would be made, changed and refused; doing it twice changes nothing the second time.
/// A piece is known again by its title, a lesson by its piece, module and title, and by which of them it is where several have the same; a block keeps its
/// number, so what members did with it stays.
/// </summary>
public sealed class ImportContent(BrightContext db, Ids ids, Catalogue catalogue, IClock clock, IndexContent index, KeepFiles files, SaveShelf shelves,
    SaveEdition editions, Tallies tallies, ReleaseContent release)
{
    readonly List<ImportLine> lines = [];
    readonly Dictionary<string, FileId> known = [];
    readonly Dictionary<string, TallyId> tallyIds = [];
    /// <summary>How many pieces of a title are made in this run.</summary>
    readonly Dictionary<string, int> made = [];

    static string Key(string title) => title.Trim().ToUpperInvariant();

    /// <param name="dry">Nothing is written.</param>
    public async Task<ImportReport> Run(TeamActor by, ReadImport read, IContentSource source, bool dry, Action<int, int>? progress, CancellationToken ct)
    {
        by.NeedEditor();
        foreach (var (file, line, why) in read.Refused) lines.Add(new(ImportVerb.Refuses, "file", file, file, line, why));
        var shelfIds = await Shelves(by, read, dry, ct);
        var editionIds = await Editions(by, read, dry, ct);
        await TalliesStated(by, read, dry, ct);
        var media = source.Paths.ToDictionary(p => p, p => p);

        // A file that a text names has to be in the archive; it is kept when it is first needed.
        FileId FileOf(string name, int line, string file)
        {
            if (!media.ContainsKey(name)) throw new ContentFormatException($"There is no file {name} in what was brought.", line);
            return known.GetValueOrDefault(name, new FileId(1));
        }

        var lessonsOf = read.Lessons.ToLookup(l => l.Piece.Key);
        var facts = read.Pieces.GroupBy(p => p.Name.Key).ToDictionary(g => g.Key, g => g.First());
        foreach (var twice in read.Pieces.Where(p => facts[p.Name.Key] != p))
            lines.Add(new(ImportVerb.Refuses, "piece", twice.Name.Title, twice.File, twice.Facts.LineOf("title"),
            $"{facts[twice.Name.Key].File} has the facts of this piece already. If it is another of the same title, “piece-number: 2” tells them apart, here "
            + $"and in its lessons."));
        var (done, of) = (0, read.Lessons.Count);
        // Those of one title come in the order of their numbers, so that they get them again.
        foreach (var name in read.Pieces.Select(p => p.Name).Concat(read.Lessons.Select(l => l.Piece)).DistinctBy(n => n.Key).OrderBy(n => n.Number).ToList())
        {
            var lessons = lessonsOf[name.Key].ToList();
            if (!dry) await Media(by, lessons, facts.GetValueOrDefault(name.Key), source, ct);
            await Piece(by, name, lessons, facts.GetValueOrDefault(name.Key), shelfIds, editionIds, FileOf, dry, ct);
            done += lessons.Count;
            progress?.Invoke(done, of);
        }
        if (!dry) await catalogue.Changed(ct);
        if (!dry) release.Wake();
        return new(lines);
    }

    /// <summary>Keeps the files that the lessons of a piece use.</summary>
    async Task Media(TeamActor by, IReadOnlyList<ImportedLesson> lessons, ImportedPiece? piece, IContentSource source, CancellationToken ct)
    {
        var wanted = new List<string>();
        var described = new Dictionary<string, string>();
        FileId Note(string name, int line)
        {
            if (!wanted.Contains(name)) wanted.Add(name);
            return new(wanted.IndexOf(name) + 1);
        }
        foreach (var l in lessons)
            try
            {
                // What a picture shows is known wherever it is picked again.
                foreach (var p in (l.Blocks?.Invoke(NamesInText.Any with { File = Note }) ?? []).OfType<Block.Pictures>().SelectMany(b => b.Items))
                    described.TryAdd(wanted[(int)p.File.Value - 1], p.Alt);
            }
            catch (ContentFormatException) { /* told when the lesson is written */ }
        if (piece?.Facts.Value("cover") is { } cover) Note(cover, 1);
        foreach (var name in wanted.Where(n => source.Paths.Contains(n) && !known.ContainsKey(n)))
        {
            await using var stream = source.Open(name);
            var kept = await files.Whole(by, stream, Path.GetFileName(name), described.GetValueOrDefault(name), ct);
            if (kept.Ok) known[name] = kept.Value!.Id;
            else lines.Add(new(ImportVerb.Refuses, "file", name, name, 1, kept.Refusal!));
        }
    }

    async Task<Dictionary<string, ShelfId>> Shelves(TeamActor by, ReadImport read, bool dry, CancellationToken ct)
    {
        var map = catalogue.Now.Shelves.ToDictionary(s => Key(s.Name), s => s.Id);
        var stated = (read.Site?.Fields["shelves"] as System.Text.Json.Nodes.JsonArray)?.OfType<System.Text.Json.Nodes.JsonObject>().ToList() ?? [];
        foreach (var s in stated)
        {
            var name = s["name"]?.ToString() ?? "";
            if (name.Length == 0 || map.ContainsKey(Key(name))) continue;
            await Make(name, s["mark"]?.ToString(), int.TryParse(s["colour"]?.ToString(), out var c) ? c : 0, s["description"]?.ToString(), "site.md",
                read.Site!.LineOf("shelves"));
        }
        foreach (var (name, file, line) in read.Pieces.Where(p => p.Shelf is not null).Select(p => (p.Shelf!, p.File, p.Facts.LineOf("shelf")))
            .Concat(read.Lessons.Where(l => l.Shelf is not null).Select(l => (l.Shelf!, l.File, l.Line))))
            if (!map.ContainsKey(Key(name))) await Make(name.Trim(), null, 0, null, file, line);
        return map;

        async Task Make(string name, string? mark, int colour, string? description, string file, int line)
        {
            lines.Add(new(ImportVerb.Makes, "shelf", name, file, line));
            map[Key(name)] = default;
            if (dry) return;
            var made = await shelves.Do(by, null, new(name, mark, colour is >= 1 and <= 8 ? colour : map.Count % 8 + 1, description), ct);
            if (made.Ok) map[Key(name)] = made.Value;
            else { lines[^1] = new(ImportVerb.Refuses, "shelf", name, file, line, made.Refusal!); map.Remove(Key(name)); }
        }
    }

    /// <summary>The tallies that site.md names and aren't here yet are made; those that are keep what is set here.</summary>
    async Task TalliesStated(TeamActor by, ReadImport read, bool dry, CancellationToken ct)
    {
        foreach (var t in catalogue.Now.Tallies) tallyIds[Key(t.Name)] = t.Id;
        foreach (var s in (read.Site?.Fields["tallies"] as System.Text.Json.Nodes.JsonArray)?.OfType<System.Text.Json.Nodes.JsonObject>() ?? [])
        {
            var name = s["name"]?.ToString() ?? "";
            if (tallyIds.ContainsKey(Key(name))) continue;
            var line = read.Site!.LineOf("tallies");
            lines.Add(new(ImportVerb.Makes, "tally", name, "site.md", line));
            tallyIds[Key(name)] = default;
            if (dry) continue;
            var made = await tallies.Save(by, null, new(name, s["description"]?.ToString(), int.TryParse(s["a-week"]?.ToString(), out var n) ? n : 1), ct);
            if (made.Ok) tallyIds[Key(name)] = made.Value;
            else { lines[^1] = new(ImportVerb.Refuses, "tally", name, "site.md", line, made.Refusal!); tallyIds.Remove(Key(name)); }
        }
    }

    TallyId TallyOf(string name, int line) => tallyIds.TryGetValue(Key(name), out var id) ? id
        : throw new ContentFormatException($"There is no tally called “{name}”. Make it first, or state it in site.md.", line);

    async Task<Dictionary<EditionName, EditionId>> Editions(TeamActor by, ReadImport read, bool dry, CancellationToken ct)
    {
        var map = catalogue.Now.Editions.ToDictionary(e => new EditionName(e.Span, e.FirstDay), e => e.Id);
        foreach (var s in (read.Site?.Fields["editions"] as System.Text.Json.Nodes.JsonArray)?.OfType<System.Text.Json.Nodes.JsonObject>() ?? [])
            if (EditionName.TryRead(s["edition"]?.ToString(), out var name) && !map.ContainsKey(name))
                await Make(name, s["title"]?.ToString(), s["opening"]?.ToString(), "site.md", read.Site!.LineOf("editions"));
        var named = read.Lessons.SelectMany(l => new[] { (l.Edition, l.File, l.Line), (l.OwnEdition, l.File, l.Line) }).Where(x => x.Item1 is not null);
        foreach (var (name, file, line) in named) if (!map.ContainsKey(name!.Value)) await Make(name.Value, null, null, file, line);
        foreach (var p in read.Pieces)
            try
            {
                if (p.Facts.Edition("edition") is { } name && !map.ContainsKey(name)) await Make(name, null, null, p.File, p.Facts.LineOf("edition"));
            }
            catch (ContentFormatException) { /* told with the piece */ }
        return map;

        async Task Make(EditionName name, string? title, string? opening, string file, int line)
        {
            lines.Add(new(ImportVerb.Makes, "edition", title ?? Edition.NameFor(name.Span, name.FirstDay, catalogue.Now.Culture), file, line, "as a draft"));
            map[name] = default;
            if (dry) return;
            var made = await editions.Do(by, null, new(name.Span, name.FirstDay, title, opening, null, true), ct);
            if (made.Ok) map[name] = made.Value;
            else { lines[^1] = lines[^1] with { Verb = ImportVerb.Refuses, Note = made.Refusal! }; map.Remove(name); }
        }
    }

    async Task Piece(TeamActor by, Named name, List<ImportedLesson> lessons, ImportedPiece? stated, Dictionary<string, ShelfId> shelfIds,
        Dictionary<EditionName, EditionId> editionIds, Func<string, int, string, FileId> fileOf, bool dry, CancellationToken ct)
    {
        var (at, title) = (clock.GetCurrentInstant(), name.Title);
        var (file, line) = stated is null ? (lessons[0].File, lessons[0].Line) : (stated.File, 1);
        if (title.Trim().Length is 0 or > 160)
        {
            lines.Add(new(ImportVerb.Refuses, "piece", title, file, line, "A piece’s title has from 1 to 160 letters."));
            return;
        }
        var shelfName = stated?.Shelf ?? lessons.Select(l => l.Shelf).FirstOrDefault(s => s is not null);
        var same = catalogue.Now.Pieces.Where(p => Key(p.Title) == name.Key.Item1).OrderBy(p => p.Id.Value).ToList();
        var inDb = same.ElementAtOrDefault(name.Number - 1);
        // Numbers without those before them would be made anew each time.
        if (inDb is null && name.Number != same.Count + made.GetValueOrDefault(name.Key.Item1) + 1)
        {
            lines.Add(new(ImportVerb.Refuses, "piece", title, file, line,
                $"It is number {name.Number} of this title, and number {name.Number - 1} isn’t there."));
            return;
        }
        if (inDb is null) made[name.Key.Item1] = made.GetValueOrDefault(name.Key.Item1) + 1;
        var firstShelf = catalogue.Now.Shelves.Count > 0 ? catalogue.Now.Shelves[0].Id : (ShelfId?)null;
        var shelf = shelfName is not null && shelfIds.TryGetValue(Key(shelfName), out var s) ? s : inDb?.ShelfId ?? firstShelf;
        if (shelf is null) { lines.Add(new(ImportVerb.Refuses, "piece", title, file, line, "It names no shelf, and there is none yet.")); return; }
        await using var transaction = dry ? null : await db.Database.BeginTransactionAsync(ct);
        var piece = inDb is null ? new Piece { Id = ids.Next<PieceId>(), ShelfId = shelf.Value, Title = title.Trim() }
            : await db.Pieces.AsNoTracking().SingleAsync(p => p.Id == inDb.Id, ct);
        var before = inDb is null ? null : PieceFacts.Of(piece) with { Version = 0 };
        try
        {
            Apply(piece, stated, lessons, shelf.Value, editionIds, fileOf);
        }
        catch (ContentFormatException e)
        {
            lines.Add(new(ImportVerb.Refuses, "piece", title, file, e.Line, e.Message));
            return;
        }
        var changed = before is null || PieceFacts.Of(piece) with { Version = 0 } != before || piece.Ready != inDb!.Ready && piece.ReleasedAt is null;
        lines.Add(new(before is null ? ImportVerb.Makes : changed ? ImportVerb.Changes : ImportVerb.Same, "piece", piece.Title, file, line));
        if (!dry && changed)
        {
            piece.Version++;
            piece.ChangedAt = at;
            if (inDb is null) db.Add(piece);
            else db.Update(piece);
            await db.SaveChangesAsync(ct);
            await index.Piece(piece, ct);
        }
        await Lessons(by, piece, inDb?.Outline ?? Outline.Empty, stated, lessons, editionIds, fileOf, dry, at, ct);
        if (transaction is not null)
        {
            await db.SaveChangesAsync(ct);
            await transaction.CommitAsync(ct);
            db.ChangeTracker.Clear();
        }
    }

    static void Apply(Piece piece, ImportedPiece? stated, List<ImportedLesson> lessons, ShelfId shelf, Dictionary<EditionName, EditionId> editionIds,
        Func<string, int, string, FileId> fileOf)
    {
        piece.ShelfId = shelf;
        var edition = stated?.Facts.Edition("edition") ?? lessons.Select(l => l.Edition).FirstOrDefault(e => e is not null);
        if (edition is { } e && piece.ReleasedAt is null && editionIds.TryGetValue(e, out var id)) piece.EditionId = id == default ? piece.EditionId : id;
        if (piece.ReleasedAt is null && (stated?.Facts.Yes("ready") ?? lessons.Any(l => l.Ready))) piece.Ready = true;
        if (stated is null) return;
        var f = stated.Facts;
        string Text(string field, string now, int most)
        {
            if (!f.Fields.ContainsKey(field)) return now;
            var t = f.Value(field)?.Trim() ?? "";
            return t.Length <= most ? t : throw new ContentFormatException($"“{field}” has {most} letters at most.", f.LineOf(field));
        }
        string? Web(string field, string? now) => !f.Fields.ContainsKey(field) ? now : f.Value(field) is not { Length: > 0 } t ? null
            : BlockRules.IsWebAddress(t) ? t : throw new ContentFormatException($"“{field}” is a full address, beginning with https://.", f.LineOf(field));
        piece.Subtitle = Text("subtitle", piece.Subtitle, 200);
        piece.Summary = Text("summary", piece.Summary, 600);
        piece.ModuleWord = Text("module-word", piece.ModuleWord, 20) is { Length: > 0 } word ? word : "Module";
        piece.Difficulty = f.Choice("difficulty", piece.Difficulty);
        piece.Learn = Text("learn", piece.Learn, 4000);
        piece.ForWhom = Text("for-whom", piece.ForWhom, 4000);
        piece.SupportAddress = Text("support", piece.SupportAddress, 254);
        piece.Terms = Text("terms", piece.Terms, 8000);
        if (f.Fields.ContainsKey("places")) piece.Places = f.Number("places") is not (< 1 or > 100_000) ? f.Number("places")
            : throw new ContentFormatException("“places” go from 1 to 100,000.", f.LineOf("places"));
        if (f.Fields.ContainsKey("questions")) piece.QuestionsOn = f.Yes("questions");
        piece.TrailerUrl = Web("trailer", piece.TrailerUrl);
        piece.EndNote = Text("end-note", piece.EndNote, 4000);
        piece.EndLink = Web("end-link", piece.EndLink);
        piece.EndLinkText = Text("end-link-text", piece.EndLinkText, 80);
        if (f.Fields.ContainsKey("certificate")) piece.Certificate = f.Yes("certificate");
        if (f.Fields.ContainsKey("copy-guard")) piece.CopyGuard = f.Yes("copy-guard");
        piece.Resources = f.Choice("resources", piece.Resources);
        if (f.Fields.ContainsKey("tags")) piece.Tags = SavePiece.TryReadTags(f.Value("tags"), out var tags) ? tags
            : throw new ContentFormatException("Tags are words of 40 letters at most; twenty are enough.", f.LineOf("tags"));
        if (f.Value("cover") is { Length: > 0 } cover) piece.Cover = fileOf(cover, f.LineOf("cover"), stated.File) is var c && c.Value == 1 ? piece.Cover : c;
    }

    async Task Lessons(TeamActor by, Piece piece, Outline outline, ImportedPiece? stated, List<ImportedLesson> lessons,
        Dictionary<EditionName, EditionId> editionIds, Func<string, int, string, FileId> fileOf, bool dry, Instant at, CancellationToken ct)
    {
        var modules = Named.Of(outline.Modules, m => m.Title).ToDictionary(m => m.Name.Key, m => m.Item.Id);
        var position = outline.Modules.Select(m => m.Position).DefaultIfEmpty().Max();
        ModuleId ModuleOf(Named name, string file, int line)
        {
            if (modules.TryGetValue(name.Key, out var known)) return known;
            var made = modules[name.Key] = ids.Next<ModuleId>();
            lines.Add(new(ImportVerb.Makes, "module", name.Title, file, line, piece.Title));
            if (!dry) db.Add(new Module { Id = made, PieceId = piece.Id, Title = name.Title, Position = ++position });
            return made;
        }
        // Those stated with the piece stand in that order, empty ones too.
        foreach (
            var (name, title) in Named.Of(stated?.Facts.Value("modules")?.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            ?? [], t => t))
            if (title.Length <= 160) ModuleOf(name, stated!.File, stated.Facts.LineOf("modules"));
            else lines.Add(new(ImportVerb.Refuses, "module", title[..40] + "…", stated!.File, stated.Facts.LineOf("modules"),
                "A module’s title has 160 letters at most."));
        // The nth of a name in a module is the nth of that name there.
        var inDb = outline.Parts.SelectMany(p => Named.Of(p.Lessons, l => l.Title).Select(l => (Module: p.Module?.Id ?? default, l.Name, l.Item)))
            .ToDictionary(x => (x.Module, x.Name.Key), x => x.Item);
        var ids_ = inDb.Values.Select(l => l.Id).ToArray();
        var contents = ids_.Length == 0 ? [] : await db.LessonContents.Where(c => ids_.Contains(c.LessonId)).ToDictionaryAsync(c => c.LessonId, ct);
        var tracked = dry || ids_.Length == 0 ? [] : await db.Lessons.Where(l => ids_.Contains(l.Id)).ToDictionaryAsync(l => l.Id, ct);
        var next = outline.Parts.ToDictionary(p => p.Module?.Id ?? default, p => p.Lessons.Select(l => l.Position).DefaultIfEmpty().Max() + 1);
        var index_ = new List<(Lesson, IReadOnlyList<Block>)>();
        var seen = new Dictionary<(ModuleId, string), (int Count, string File)>();
        // As the files say, else in the order they come.
        foreach (var l in lessons.Select((l, i) => (l, i)).OrderBy(x => x.l.Module is null ? 0 : 1).ThenBy(x => x.l.Order ?? int.MaxValue).ThenBy(x => x.i)
            .Select(x => x.l))
        {
            if (l.Module is { Number: > 1 and var number } nth && !modules.ContainsKey((nth with { Number = number - 1 }).Key))
            {
                lines.Add(new(ImportVerb.Refuses, "lesson", l.Title, l.File, l.Line,
                    $"Its module is number {number} called “{nth.Title}”, and number {number - 1} isn’t there."));
                continue;
            }
            ModuleId? module = l.Module is { } named ? ModuleOf(named, l.File, l.Line) : null;
            var met = seen.GetValueOrDefault((module ?? default, Key(l.Title)));
            // Two files are two lessons; a list that has a name twice has slipped.
            if (met.File == l.File)
            {
                lines.Add(new(ImportVerb.Refuses, "lesson", l.Title, l.File, l.Line,
            $"There are two of this name in “{piece.Title}”{(l.Module is null ? "" : $", {l.Module.Value.Title}")}.")); continue;
            }
            seen[(module ?? default, Key(l.Title))] = (met.Count + 1, l.File);
            var lesson = inDb.GetValueOrDefault((module ?? default, new Named(l.Title, met.Count + 1).Key));
            IReadOnlyList<Block>? blocks;
            try
            {
                var old = lesson is null ? [] : contents[lesson.Id].Blocks;
                blocks = l.Blocks?.Invoke(new((name, line) => fileOf(name, line, l.File), TallyOf, () => new(0))) is { } read ? WithNumbers(read, old) : null;
            }
            catch (ContentFormatException e)
            {
                lines.Add(new(ImportVerb.Refuses, "lesson", l.Title, l.File, e.Line, e.Message));
                continue;
            }
            EditionId? own = l.OwnEdition is { } o && editionIds.TryGetValue(o, out var oe) && oe != default ? oe : lesson?.EditionId;
            var note = piece.Title + (l.Module is null ? "" : $", {l.Module.Value.Title}") + (met.Count == 0 ? "" : $"; number {met.Count + 1} of this name");
            var ready = l.Ready || lesson is { Ready: true };
            if (ready && lesson is not { Ready: true } && blocks is not null && (blocks.Count == 0 || BlockRules.Problems(blocks) is { Count: > 0 }))
            {
                ready = false;
                note += blocks.Count == 0 ? "; stays a draft: it is empty" : $"; stays a draft: {BlockRules.Problems(blocks)[0].Text}";
            }
            if (lesson is null)
            {
                lines.Add(new(ImportVerb.Makes, "lesson", l.Title, l.File, l.Line, note));
                if (dry) continue;
                var place = next.GetValueOrDefault(module ?? default, 1);
                next[module ?? default] = place + 1;
                var made = db.Add(new Lesson
                {
                    Id = ids.Next<LessonId>(),
                    PieceId = piece.Id,
                    ModuleId = module,
                    Position = place,
                    Title = l.Title,
                    Minutes = l.Minutes,
                    Teaser = l.Teaser,
                    DoneWhen = l.DoneWhen,
                    EditionId = own,
                    Ready = ready,
                    Version = 1,
                    ChangedAt = at,
                    ChangedBy = by.Name,
                    Kinds = Blocks.Kinds(blocks ?? []),
                }).Entity;
                db.Add(new LessonContent { LessonId = made.Id, Blocks = blocks ?? [] });
                db.Add(new LessonVersion { Id = ids.Next(), LessonId = made.Id, Version = 1, At = at, By = by.Name, Title = l.Title, Blocks = blocks ?? [] });
                if (ready) release.WhenLate(made, piece, at);
                index_.Add((made, blocks ?? []));
                continue;
            }
            var content = contents[lesson.Id];
            var sameBlocks = blocks is null || Write(blocks) == Write(content.Blocks) || dry && SameButFiles(blocks, content.Blocks);
            var same = sameBlocks && (l.Minutes ?? lesson.Minutes) == lesson.Minutes
                && (l.Blocks is null || l.Teaser == lesson.Teaser && l.DoneWhen == lesson.DoneWhen) && own == lesson.EditionId && ready == lesson.Ready;
            lines.Add(new(same ? ImportVerb.Same : ImportVerb.Changes, "lesson", l.Title, l.File, l.Line, note));
            if (dry || same) continue;
            var row = tracked[lesson.Id];
            (row.Minutes, row.EditionId, row.Ready) = (l.Minutes ?? row.Minutes, own, ready);
            if (l.Blocks is not null) (row.Teaser, row.DoneWhen) = (l.Teaser, l.DoneWhen);
            content.Blocks = blocks ?? content.Blocks;
            row.Version++;
            (row.ChangedAt, row.ChangedBy, row.Kinds) = (at, by.Name, Blocks.Kinds(content.Blocks));
            db.Add(new LessonVersion
            {
                Id = ids.Next(),
                LessonId = row.Id,
                Version = row.Version,
                At = at,
                By = by.Name,
                Title = row.Title,
                Blocks = content.Blocks
            });
            if (ready) release.WhenLate(row, piece, at);
            index_.Add((row, content.Blocks));
        }
        if (dry) return;
        if (piece.Ready && piece.ReleasedAt is null) release.WhenLate(piece, at);
        await db.SaveChangesAsync(ct);
        foreach (var (lesson, blocks) in index_) await index.Lesson(lesson, blocks, ct);
    }

    static string Write(IReadOnlyList<Block> blocks) => System.Text.Json.JsonSerializer.Serialize(blocks, CoreJson.Options);

    /// <summary>In a dry run files have no numbers yet: they are left out of the comparison.</summary>
    static bool SameButFiles(IReadOnlyList<Block> a, IReadOnlyList<Block> b) =>
        Write([.. a.Select(x => x.WithFiles(_ => new(1)))]) == Write([.. b.Select(x => x.WithFiles(_ => new(1)))]);

    /// <summary>The nth block of a kind is the nth of that kind before, and keeps its number; others get new ones.</summary>
    IReadOnlyList<Block> WithNumbers(IReadOnlyList<Block> blocks, IReadOnlyList<Block> before)
    {
        var old = before.GroupBy(b => b.GetType()).ToDictionary(g => g.Key, g => new Queue<BlockId>(g.Select(b => b.Id)));
        return [.. blocks.Select(b => b with { Id = old.TryGetValue(b.GetType(), out var queue) && queue.TryDequeue(out var id) ? id : ids.Next<BlockId>() })];
    }
}
