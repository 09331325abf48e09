using System.Globalization;
using System.IO.Compression;
using System.Text;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Files;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Content;

/// <summary>Writes the whole content as an archive of Markdown files and media, in the form the import reads.</summary>
public sealed class ExportContent(BrightContext db, Catalogue catalogue, IFileStore store, RichText rich)
{
    public async Task Write(TeamActor by, Stream to, CancellationToken ct)
    {
        by.NeedEditor();
        var now = catalogue.Now;
        using var zip = new ZipArchive(to, ZipArchiveMode.Create, leaveOpen: true);
        var names = await FileNames(ct);
        var used = new HashSet<FileId>();
        string NameOf(FileId id)
        {
            if (!names.TryGetValue(id, out var file)) return "media/missing";
            used.Add(id);
            return file.Name;
        }

        var site = new StringBuilder("---\nshelves:\n");
        foreach (var s in now.Shelves) site.Append(
            CultureInfo.InvariantCulture, $"  - name: {Q(s.Name)}\n    mark: {Q(s.Mark)}\n    colour: {s.Colour}\n    description: {Q(s.Description)}\n");
        site.Append("editions:\n");
        foreach (var e in now.Editions) site.Append(
            CultureInfo.InvariantCulture,
            $"  - edition: {Q(new EditionName(e.Span, e.FirstDay).ToString())}\n    title: {Q(e.Title)}\n    opening: {Q(e.Opening)}\n");
        if (now.Tallies.Count > 0) site.Append("tallies:\n");
        foreach (var t in now.Tallies) site.Append(
            CultureInfo.InvariantCulture, $"  - name: {Q(t.Name)}\n    description: {Q(t.Description)}\n    a-week: {t.Aims[^1].AWeek}\n");
        site.Append("---\n");
        await Text(zip, "site.md", site.ToString(), ct);

        var folders = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        foreach (var (name, piece) in Named.Of(now.Pieces.OrderBy(p => p.Id.Value), p => p.Title))
        {
            var folder = Unique(folders, $"{Slug(now.ShelfById[piece.ShelfId].Name)}/{Slug(piece.Title)}");
            await Text(zip, folder + "/piece.md", Facts(name, piece, now, NameOf), ct);
            var lessons = piece.Outline.Lessons.Select(l => l.Id).ToArray();
            var contents = await db.LessonContents.AsNoTracking().Where(c => lessons.Contains(c.LessonId))
                .ToDictionaryAsync(c => c.LessonId, c => c.Blocks, ct);
            var (m, order) = (0, 0);
            var modules = Named.Of(piece.Outline.Modules, x => x.Title).ToDictionary(x => x.Item.Id, x => x.Name);
            foreach (var part in piece.Outline.Parts)
            {
                var inside = part.Module is null ? folder : $"{folder}/{++m:00}-{Slug(part.Module.Title)}";
                var n = 0;
                foreach (var lesson in part.Lessons)
                    await Text(zip, $"{inside}/{++n:000}-{Slug(lesson.Title)}.md",
                        Head(name, part.Module is null ? null : modules[part.Module.Id], lesson, ++order, now)
                        + BlockYaml.Write(contents.GetValueOrDefault(lesson.Id, []), NameOf, t => now.TallyById.GetValueOrDefault(t)?.Name ?? "",
                        h => rich.CleanStored(rich.ToHtml(h))), ct);
            }
        }
        foreach (var id in used)
        {
            var entry = zip.CreateEntry(names[id].Name, CompressionLevel.NoCompression);
            await using var from = await store.Open(names[id].Address, ct);
            if (from is null) continue;
            await using var target = await entry.OpenAsync(ct);
            await from.CopyToAsync(target, ct);
        }
    }

    async Task<Dictionary<FileId, (string Name, string Address)>> FileNames(CancellationToken ct)
    {
        var map = new Dictionary<FileId, (string, string)>();
        var taken = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        await foreach (var f in db.Files.AsNoTracking().OrderBy(f => f.Id).Select(f => new { f.Id, f.Name, f.Address }).AsAsyncEnumerable()
            .WithCancellation(ct))
        {
            var (name, extension) = (Path.GetFileNameWithoutExtension(f.Name), Path.GetExtension(f.Address));
            var clean = new string([.. name.Select(c => char.IsLetterOrDigit(c) || c is '-' or '_' or ' ' ? c : '-')]).Trim();
            var full = $"media/{(clean.Length == 0 ? "file" : clean)}{extension}";
            for (var i = 2; !taken.Add(full); i++) full = $"media/{clean}-{i}{extension}";
            map[f.Id] = (full, f.Address);
        }
        return map;
    }

    static string Facts(Named name, Piece p, CatalogueSnapshot now, Func<FileId, string> nameOf)
    {
        var b = new StringBuilder("---\n");
        void Field(string name, string? value) { if (!string.IsNullOrEmpty(value)) b.Append(name).Append(": ").Append(Q(value)).Append('\n'); }
        void Yes(string name, bool value) { if (value) b.Append(name).Append(": yes\n"); }
        Field("title", p.Title);
        if (name.Number > 1) b.Append(CultureInfo.InvariantCulture, $"piece-number: {name.Number}\n");
        Field("shelf", now.ShelfById[p.ShelfId].Name);
        if (now.EditionOf(p) is { } e) Field("edition", new EditionName(e.Span, e.FirstDay).ToString());
        Yes("ready", p.Ready);
        Field("subtitle", p.Subtitle);
        Field("summary", p.Summary);
        if (p.Cover is { } cover) Field("cover", nameOf(cover));
        if (p.ModuleWord != "Module") Field("module-word", p.ModuleWord);
        if (p.Difficulty != Difficulty.Anyone) Field("difficulty", FrontMatter.Words(p.Difficulty.ToString()));
        Field("learn", p.Learn);
        Field("for-whom", p.ForWhom);
        Field("support", p.SupportAddress);
        Field("terms", p.Terms);
        if (p.Places is { } places) b.Append(CultureInfo.InvariantCulture, $"places: {places}\n");
        Yes("questions", p.QuestionsOn);
        Field("trailer", p.TrailerUrl);
        Field("end-note", p.EndNote);
        Field("end-link", p.EndLink);
        Field("end-link-text", p.EndLinkText);
        Yes("certificate", p.Certificate);
        Yes("copy-guard", p.CopyGuard);
        if (p.Resources != ResourcesPlace.WhereWritten) Field("resources", FrontMatter.Words(p.Resources.ToString()));
        if (p.Outline.Modules.Any()) b.Append("modules:\n").AppendJoin("", p.Outline.Modules.Select(m => $"  - {Q(m.Title)}\n"));
        if (p.Tags.Length > 0) Field("tags", string.Join(", ", p.Tags));
        return b.Append("---\n").ToString();
    }

    static string Head(Named piece, Named? module, Lesson l, int order, CatalogueSnapshot now)
    {
        var b = new StringBuilder("---\n");
        void Name(string field, Named name)
        {
            b.Append(field).Append(": ").Append(Q(name.Title)).Append('\n');
            if (name.Number > 1) b.Append(CultureInfo.InvariantCulture, $"{field}-number: {name.Number}\n");
        }
        Name("piece", piece);
        if (module is not null) Name("module", module.Value);
        b.Append("title: ").Append(Q(l.Title)).Append('\n').Append(CultureInfo.InvariantCulture, $"order: {order}\n");
        if (l.Minutes is { } m) b.Append(CultureInfo.InvariantCulture, $"minutes: {m}\n");
        if (l.Teaser) b.Append("teaser: yes\n");
        if (l.DoneWhen != DoneWhen.Marked) b.Append("done-when: ").Append(FrontMatter.Words(l.DoneWhen.ToString())).Append('\n');
        if (l.EditionId is { } e && now.EditionById.TryGetValue(e, out var edition))
            b.Append("lesson-edition: ").Append(Q(new EditionName(edition.Span, edition.FirstDay).ToString())).Append('\n');
        if (l.Ready) b.Append("ready: yes\n");
        return b.Append("---\n").ToString();
    }

    static string Q(string s) => System.Text.Json.JsonSerializer.Serialize(
        s, new System.Text.Json.JsonSerializerOptions { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping });

    static string Slug(string title)
    {
        var slug = string.Join('-', new string([.. title.ToLowerInvariant().Select(c => char.IsLetterOrDigit(c) ? c : ' ')])
            .Split(' ', StringSplitOptions.RemoveEmptyEntries));
        return slug.Length == 0 ? "untitled" : slug.Length > 60 ? slug[..60] : slug;
    }

    static string Unique(HashSet<string> taken, string name)
    {
        var free = name;
        for (var i = 2; !taken.Add(free); i++) free = $"{name}-{i}";
        return free;
    }

    static async Task Text(ZipArchive zip, string path, string text, CancellationToken ct)
    {
        await using var stream = await zip.CreateEntry(path).OpenAsync(ct);
        await stream.WriteAsync(Encoding.UTF8.GetBytes(text), ct);
    }
}
