using System.Globalization;
using System.IO.Compression;
using System.Text;
using AngleSharp;
using AngleSharp.Html.Parser;
using AngleSharp.Xhtml;
using BrightCircle.App.Files;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Content;

/// <summary>A lesson to put into a book.</summary>
public sealed record BookLesson(string? Module, Lesson Lesson, IReadOnlyList<Block> Blocks);

/// <summary>
/// A piece as an EPUB 3 book (W3C, EPUB 3.3): one chapter a lesson, with its pictures; what only works on the site is said in words.
/// </summary>
public sealed class Epub(IFileStore store)
{
    public async Task Write(Stream to, Piece piece, string site, IReadOnlyList<BookLesson> lessons, IReadOnlyDictionary<FileId, FileState> files, Instant at,
        CancellationToken ct)
    {
        using var zip = new ZipArchive(to, ZipArchiveMode.Create, leaveOpen: true);
        // The type stands first and uncompressed, so that it can be read at a known place (OCF 4.2).
        await Add(zip, "mimetype", "application/epub+zip", ct, CompressionLevel.NoCompression);
        await Add(zip, "META-INF/container.xml", """
            <?xml version="1.0" encoding="UTF-8"?>
            <container version="1.0" xmlns="urn:oasis:names:tc:opendocument:xmlns:container"><rootfiles><rootfile full-path="EPUB/package.opf"
                media-type="application/oebps-package+xml"/></rootfiles></container>
            """, ct);
        var used = new Dictionary<FileId, string>();
        string? PictureOf(FileId id)
        {
            if (!files.TryGetValue(id, out var f) || f.Kind != FileKind.Picture) return null;
            // WebP isn't a core media type of EPUB 3.2 and before; the picture as it was uploaded is, unless it was WebP.
            return used[id] = $"pictures/{id.Value}{Path.GetExtension(f.Address)}";
        }

        var n = 0;
        var chapters = lessons.Select(l => (Id: $"chapter-{++n}", File: $"chapter-{n}.xhtml", l.Lesson, l.Module, l.Blocks)).ToList();
        foreach (var c in chapters)
            await Add(zip, "EPUB/" + c.File, Page(c.Lesson.Title,
                (c.Module is null ? "" : $"<p class=\"module\">{Enc(c.Module)}</p>") + $"<h1>{Enc(c.Lesson.Title)}</h1>"
                + string.Concat(c.Blocks.Select(b => Body(b, PictureOf, files)))), ct);
        await Add(zip, "EPUB/title.xhtml", Page(piece.Title,
            $"<h1>{Enc(piece.Title)}</h1>{(piece.Subtitle.Length > 0 ? $"<p "
            + $"class=\"subtitle\">{Enc(piece.Subtitle)}</p>" : "")}<p>{Enc(piece.Summary)}</p><p class=\"site\">{Enc(site)}</p>"), ct);
        await Add(
            zip, "EPUB/style.css",
            "body { font-family: serif; line-height: 1.5 } h1, h2, h3 { line-height: 1.2 } img { max-width: 100% } .note, .module, .subtitle, .site { color: "
            + "#555 } table { border-collapse: collapse } td, th { border: 1px solid #999; padding: .2em .5em; text-align: left }", ct);

        var toc = new StringBuilder();
        string? module = null;
        foreach (var c in chapters)
        {
            if (c.Module != module)
            {
                if (module is not null) toc.Append("</ol></li>");
                if (c.Module is not null) toc.Append("<li><span>").Append(Enc(c.Module)).Append("</span><ol>");
                module = c.Module;
            }
            toc.Append("<li><a href=\"").Append(c.File).Append("\">").Append(Enc(c.Lesson.Title)).Append("</a></li>");
        }
        if (module is not null) toc.Append("</ol></li>");
        await Add(zip, "EPUB/nav.xhtml", Page("Contents",
            $"<nav epub:type=\"toc\" id=\"toc\"><h1>Contents</h1><ol><li><a href=\"title.xhtml\">{Enc(piece.Title)}</a></li>{toc}</ol></nav>"), ct);

        var manifest = new StringBuilder();
        foreach (var (id, path) in used)
        {
            manifest.Append(CultureInfo.InvariantCulture, $"<item id=\"picture-{id.Value}\" href=\"{path}\" media-type=\"{files[id].MediaType}\"/>");
            await using var from = await store.Open(files[id].Address, ct);
            if (from is null) continue;
            await using var target = await zip.CreateEntry("EPUB/" + path, CompressionLevel.NoCompression).OpenAsync(ct);
            await from.CopyToAsync(target, ct);
        }
        foreach (var c in chapters) manifest.Append(
            CultureInfo.InvariantCulture, $"<item id=\"{c.Id}\" href=\"{c.File}\" media-type=\"application/xhtml+xml\"/>");
        var modified = at.ToString("uuuu-MM-dd'T'HH:mm:ss'Z'", CultureInfo.InvariantCulture);
        await Add(zip, "EPUB/package.opf", $"""
            <?xml version="1.0" encoding="UTF-8"?>
            <package xmlns="http://www.idpf.org/2007/opf" version="3.0" unique-identifier="id" xml:lang="en">
            <metadata xmlns:dc="http://purl.org/dc/elements/1.1/">
            <dc:identifier id="id">urn:bright-circle:piece:{piece.Id.Value}</dc:identifier>
            <dc:title>{Enc(piece.Title)}</dc:title>
            <dc:language>en</dc:language>
            <dc:creator>{Enc(site)}</dc:creator>
            {(piece.Summary.Length > 0 ? $"<dc:description>{Enc(piece.Summary)}</dc:description>" : "")}
            <meta property="dcterms:modified">{modified}</meta>
            </metadata>
            <manifest><item id="nav" href="nav.xhtml" media-type="application/xhtml+xml" properties="nav"/><item id="style" href="style.css"
                media-type="text/css"/><item id="title" href="title.xhtml" media-type="application/xhtml+xml"/>{manifest}</manifest>
            <spine><itemref idref="title"/>{string.Concat(chapters.Select(c => $"<itemref idref=\"{c.Id}\"/>"))}</spine>
            </package>
            """, ct);
    }

    static string Page(string title, string body) => $"""
        <?xml version="1.0" encoding="UTF-8"?>
        <!DOCTYPE html>
        <html xmlns="http://www.w3.org/1999/xhtml" xmlns:epub="http://www.idpf.org/2007/ops" lang="en" xml:lang="en"><head><title>{Enc(title)}</title><link
            rel="stylesheet" type="text/css" href="style.css"/></head><body>{body}</body></html>
        """;

    static string Body(Block block, Func<FileId, string?> pictureOf, IReadOnlyDictionary<FileId, FileState> files) => block switch
    {
        Block.Text t => Xhtml(t.Html, pictureOf),
        Block.Pictures p =>
            string.Concat(p.Items.Select(i => pictureOf(i.File) is { } path
            ? $"<figure><img src=\"{path}\" alt=\"{Enc(i.Alt)}\"/>{(i.Caption.Length > 0 ? $"<figcaption>{Enc(i.Caption)}</figcaption>" : "")}</figure>" : "")),
        Block.Video v => Recording(v.Recording, "Video"),
        Block.Audio a => Recording(a.Recording, "Recording"),
        Block.Files f => $"<p class=\"note\">Files on the site: {Enc(string.Join(", ", f.Items.Where(files.ContainsKey).Select(i => files[i].Name)))}</p>",
        Block.Links l =>
            $"<ul>{string.Concat(l.Items.Where(i => BlockRules.IsWebAddress(i.Url)).Select(i => $"<li><a "
            + $"href=\"{Enc(i.Url)}\">{Enc(i.Title.Length > 0 ? i.Title : i.Url)}</a>{(i.Note.Length > 0 ? " " + Enc(i.Note) : "")}</li>"))}</ul>",
        Block.Voices or Block.Faq or Block.Inside or Block.Prices => "",
        Block.Booking b => $"<p class=\"note\">{Enc(b.Title)}: on the site.</p>",
        Block.Live l => $"<p class=\"note\">Live session: {Enc(l.Title)}</p>",
        Block.Timer t => $"<p class=\"note\">Timer{(t.Seconds is { } s ? " of " + WebVtt.Clock(s) : "")}: {Enc(t.Title)}</p>",
        Block.Practice p =>
            $"<section><h2>{Enc(p.Sheet.Title.Length > 0 ? p.Sheet.Title : "Practice")}</h2><ol>"
            + $"{string.Concat(p.Sheet.Questions.Select(q => $"<li>{Enc(q.Text)}{Options(q)}</li>"))}</ol></section>",
        Block.Follow f =>
            $"<section><h2>{Enc(f.Run.Title)}</h2><p class=\"note\">{f.Run.Rounds} × these steps, about "
            + $"{WebVtt.Clock(f.Run.TotalSeconds)}</p><ol>{string.Concat(f.Run.Steps.Select(s => $"<li><strong>{Enc(s.Title)}</strong> "
            + $"{(s.Seconds is { } sec ? WebVtt.Clock(sec) : $"{s.Times} ×")} {Enc(s.Note)}</li>"))}</ol></section>",
        Block.CheckIn c =>
            $"<section><h2>{Enc(c.Form.Title)}</h2><ul>"
            + string.Concat(c.Form.Questions.Select(q => $"<li>{Enc(FormRules.Worded(q.Text, "", new Dictionary<string, string>()))}</li>"))
            + "</ul></section>",
        _ => throw new ArgumentOutOfRangeException(nameof(block), block.Word, "No such kind of block."),
    };

    static string Options(Question q) => q switch
    {
        Question.Single s => $"<ul>{string.Concat(s.Options.Select(o => $"<li>{Enc(o.Text)}</li>"))}</ul>",
        Question.Multiple m => $"<ul>{string.Concat(m.Options.Select(o => $"<li>{Enc(o.Text)}</li>"))}</ul>",
        _ => "",
    };

    static string Recording(Recording r, string word)
    {
        var where = r.Url is { } url && BlockRules.IsWebAddress(url) ? $": <a href=\"{Enc(url)}\">{Enc(url)}</a>" : ": on the site";
        var spoken = r.Transcript.Length > 0 ? r.Transcript : r.Captions.Length > 0 ? WebVtt.Read(r.Captions).Transcript() : "";
        return $"<p class=\"note\">{word}{(r.Title.Length > 0 ? " “" + Enc(r.Title) + "”" : "")}{where}</p>"
            + string.Concat(WebVtt.Lines(spoken).Select(l => $"<p>{Enc(l.Text)}</p>"));
    }

    /// <summary>Cleaned HTML as well-formed XML, its pictures from the book.</summary>
    static string Xhtml(string html, Func<FileId, string?> pictureOf)
    {
        var document = new HtmlParser().ParseDocument(html);
        foreach (var img in document.QuerySelectorAll("img[data-file]").ToArray())
        {
            if (pictureOf(new(long.Parse(img.GetAttribute("data-file")!, CultureInfo.InvariantCulture))) is { } path)
            {
                img.RemoveAttribute("data-file");
                img.SetAttribute("src", path);
                if (!img.HasAttribute("alt")) img.SetAttribute("alt", "");
            }
            else img.Remove();
        }
        return string.Concat(document.Body!.ChildNodes.Select(n => n.ToHtml(XhtmlMarkupFormatter.Instance)));
    }

    static string Enc(string s) => System.Security.SecurityElement.Escape(new string([.. s.Where(System.Xml.XmlConvert.IsXmlChar)]))!;

    static async Task Add(ZipArchive zip, string path, string text, CancellationToken ct, CompressionLevel level = CompressionLevel.Optimal)
    {
        await using var stream = await zip.CreateEntry(path, level).OpenAsync(ct);
        await stream.WriteAsync(Encoding.UTF8.GetBytes(text.Trim()), ct);
    }
}
