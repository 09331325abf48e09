using System.Globalization;
using System.IO.Compression;
using System.Text;
using System.Text.Json.Nodes;
using BrightCircle.Core.Content;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.App.Content;

/// <summary>Where imported files come from: an archive or a folder.</summary>
public interface IContentSource
{
    /// <summary>Paths with forward slashes.</summary>
    IReadOnlyCollection<string> Paths { get; }
    Stream Open(string path);
}

/// <summary>What an archive holds is more than it may be.</summary>
public sealed class ArchiveTooLargeException(string message) : Exception(message);

/// <summary>
/// A zip archive, within bounds. The sizes it states are checked before anything is read, and what comes out is counted while it is read: an archive that
/// says one thing and holds another is stopped there.
/// </summary>
public sealed class ZipSource : IContentSource, IDisposable
{
    public const int MostEntries = 20_000;
    public const long MostBytes = 8L * 1024 * 1024 * 1024, MostText = 4L * 1024 * 1024;
    /// <summary>Text packs to a tenth; a hundred times is no content.</summary>
    public const int MostRatio = 100;
    const long SmallEnough = 1024 * 1024;

    readonly ZipArchive zip;
    readonly Dictionary<string, ZipArchiveEntry> entries;

    /// <exception cref="InvalidDataException">Not an archive.</exception>
    /// <exception cref="ArchiveTooLargeException">It is beyond the bounds.</exception>
    public ZipSource(Stream stream)
    {
        zip = new(stream, ZipArchiveMode.Read);
        if (zip.Entries.Count > MostEntries) throw new ArchiveTooLargeException(
            $"The archive holds {zip.Entries.Count:N0} files; {MostEntries:N0} are the most.");
        entries = zip.Entries.Where(e => e.Name.Length > 0 && !e.FullName.StartsWith("__MACOSX/", StringComparison.Ordinal))
            .GroupBy(e => e.FullName.Replace('\\', '/')).ToDictionary(g => g.Key, g => g.First());
        long whole = 0;
        foreach (var (path, e) in entries)
        {
            whole += e.Length;
            if (e.Length > Most(path)) throw new ArchiveTooLargeException($"{path} is too large unpacked.");
            if (e.Length > SmallEnough && e.Length / Math.Max(1, e.CompressedLength) > MostRatio)
                throw new ArchiveTooLargeException($"{path} would unpack to more than {MostRatio} times its size; that is no content.");
            if (whole > MostBytes) throw new ArchiveTooLargeException($"Unpacked the archive is larger than {MostBytes >> 30} GB. Bring it in parts.");
        }
    }

    static long Most(string path) => Path.GetExtension(path).ToLowerInvariant() is ".md" or ".csv" or ".vtt" or ".txt" ? MostText : MostBytes;

    public IReadOnlyCollection<string> Paths => entries.Keys;
    public Stream Open(string path) => new Counted(entries[path].Open(), entries[path].Length, path);
    public void Dispose() => zip.Dispose();

    /// <summary>Gives no more than was stated.</summary>
    sealed class Counted(Stream inner, long most, string path) : Stream
    {
        long read;

        public override int Read(byte[] buffer, int offset, int count) => Count(inner.Read(buffer, offset, count));
        public override int Read(Span<byte> buffer) => Count(inner.Read(buffer));
        public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken ct = default) => Count(await inner.ReadAsync(buffer, ct));

        int Count(int n)
        {
            read += n;
            return read <= most ? n : throw new ArchiveTooLargeException($"{path} holds more than it says.");
        }

        public override bool CanRead => true;
        public override bool CanSeek => false;
        public override bool CanWrite => false;
        public override long Length => most;
        public override long Position { get => read; set => throw new NotSupportedException(); }
        public override void Flush() { }
        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();
        public override void SetLength(long value) => throw new NotSupportedException();
        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
        protected override void Dispose(bool disposing)
        {
            if (disposing) inner.Dispose();
            base.Dispose(disposing);
        }
    }
}

public sealed class FolderSource(string root) : IContentSource
{
    public IReadOnlyCollection<string> Paths { get; } =
        [.. Directory.EnumerateFiles(root, "*", SearchOption.AllDirectories).Select(p => Path.GetRelativePath(root, p).Replace('\\', '/'))
        .Order(StringComparer.Ordinal)];
    public Stream Open(string path) => File.OpenRead(Path.Combine(root, path));
}

/// <summary>Texts by their paths, for what ships with the product and for tests.</summary>
public sealed class TextSource(IReadOnlyDictionary<string, byte[]> files) : IContentSource
{
    public static TextSource Of(params (string Path, string Text)[] files) => new(files.ToDictionary(f => f.Path, f => Encoding.UTF8.GetBytes(f.Text)));
    public IReadOnlyCollection<string> Paths => [.. files.Keys];
    public Stream Open(string path) => new MemoryStream(files[path], writable: false);
}

/// <summary>An edition named in a file: a month (2026-11), a week (2026-W46) or a day (2026-11-14).</summary>
public readonly record struct EditionName(EditionSpan Span, LocalDate FirstDay)
{
    public static bool TryRead(string? text, out EditionName name)
    {
        name = default;
        var t = text?.Trim() ?? "";
        if (YearMonthPattern.Iso.Parse(t) is { Success: true, Value: var month }) name = new(EditionSpan.Month, month.OnDayOfMonth(1));
        else if (LocalDatePattern.Iso.Parse(t) is { Success: true, Value: var day }) name = new(EditionSpan.Day, day);
        else if (t.Length == 8 && t[4..6] == "-W" && int.TryParse(t[..4], NumberStyles.None, CultureInfo.InvariantCulture, out var y)
            && int.TryParse(t[6..], NumberStyles.None, CultureInfo.InvariantCulture, out var w) && y is > 2000 and < 2100 && w >= 1
            && w <= NodaTime.Calendars.WeekYearRules.Iso.GetWeeksInWeekYear(y, CalendarSystem.Iso))
            name = new(EditionSpan.Week, NodaTime.Calendars.WeekYearRules.Iso.GetLocalDate(y, w, IsoDayOfWeek.Monday, CalendarSystem.Iso));
        else return false;
        return name.FirstDay.Year is >= 2000 and <= 2100;
    }

    public override string ToString() => Span switch
    {
        EditionSpan.Month => FirstDay.ToString("uuuu-MM", null),
        EditionSpan.Week => Core.Learning.FormRules.WeekOf(FirstDay),
        _ => FirstDay.ToString("uuuu-MM-dd", null),
    };
}

/// <summary>The lines between --- and --- at the head of a file, and the text after them.</summary>
public sealed record FrontMatter(JsonObject Fields, IReadOnlyDictionary<string, int> Lines, string Text, int TextLine)
{
    /// <exception cref="ContentFormatException">It begins and doesn't end, or isn't YAML.</exception>
    public static FrontMatter Read(string file)
    {
        var text = file.TrimStart('\uFEFF').Replace("\r\n", "\n", StringComparison.Ordinal);
        if (!text.StartsWith("---\n", StringComparison.Ordinal)) return new([], new Dictionary<string, int>(), text, 1);
        var end = text.IndexOf("\n---", 3, StringComparison.Ordinal);
        if (end < 0) throw new ContentFormatException("The head that begins with --- has no end; it ends with a line --- of its own.", 1);
        var yaml = text[4..(end + 1)];
        if (BlockYaml.ReadYaml(yaml, 2) is not JsonObject fields) throw new ContentFormatException("The head holds fields, like “title: …”.", 2);
        var lines = new Dictionary<string, int>();
        var n = 2;
        foreach (var line in yaml.Split('\n'))
        {
            if (line.Length > 0 && !char.IsWhiteSpace(line[0]) && line.IndexOf(':', StringComparison.Ordinal) is > 0 and var colon)
                lines[line[..colon].Trim()] = n;
            n++;
        }
        var after = text.IndexOf('\n', end + 4);
        return new(fields, lines, after < 0 ? "" : text[(after + 1)..], after < 0 ? n : text[..after].Count(c => c == '\n') + 2);
    }

    public int LineOf(string field) => Lines.GetValueOrDefault(field, 1);
    public string? Value(string field) => Fields[field] switch
    {
        JsonArray a => string.Join('\n', a.Select(x => x?.ToString())), { } v => v.ToString(),
        null => null
    };

    public int? Number(string field) => Value(field) is not { Length: > 0 } t ? null
        : int.TryParse(t, NumberStyles.None, CultureInfo.InvariantCulture, out var n) ? n
        : throw new ContentFormatException($"“{field}” is a whole number, not “{t}”.", LineOf(field));
    public bool Yes(string field) => (Value(field)?.ToLowerInvariant() ?? "") switch
    {
        "" or "false" or "no" => false,
        "true" or "yes" => true,
        var t => throw new ContentFormatException($"“{field}” is yes or no, not “{t}”.", LineOf(field))
    };

    public T Choice<T>(string field, T otherwise) where T : struct, Enum => Value(field) is not { Length: > 0 } t ? otherwise
        : Enum.TryParse<T>(t.Replace("-", "", StringComparison.Ordinal).Replace(" ", "", StringComparison.Ordinal), ignoreCase: true, out var v)
            && Enum.IsDefined(v) ? v
        : throw new ContentFormatException($"“{field}” is one of {string.Join(", ", Enum.GetNames<T>().Select(Words))}, not “{t}”.", LineOf(field));

    /// <summary>"DoneWhen" → "done-when".</summary>
    public static string Words(string name) => string.Concat(
        name.Select((c, i) => char.IsUpper(c) ? (i > 0 ? "-" : "") + char.ToLowerInvariant(c) : c.ToString()));

    public EditionName? Edition(string field) => Value(field) is not { Length: > 0 } t ? null : EditionName.TryRead(t, out var name) ? name
        : throw new ContentFormatException($"“{field}” is a month like 2026-11, a week like 2026-W46 or a day like 2026-11-14, not “{t}”.", LineOf(field));
}

/// <summary>What a piece or a module is known by: its title and, where several have the same, which of them.</summary>
/// <param name="Number">1 for the first made of a piece, the first in order of a module.</param>
public readonly record struct Named(string Title, int Number = 1)
{
    /// <summary>The same for the same name, however its letters are written.</summary>
    public (string, int) Key => (Title.Trim().ToUpperInvariant(), Number);

    /// <summary>Each with its name, in the order given.</summary>
    public static IEnumerable<(Named Name, T Item)> Of<T>(IEnumerable<T> items, Func<T, string> title)
    {
        var met = new Dictionary<string, int>();
        foreach (var item in items)
            yield return (new(title(item), met[new Named(title(item)).Key.Item1] = met.GetValueOrDefault(new Named(title(item)).Key.Item1) + 1), item);
    }
}

/// <summary>One lesson as an import brings it.</summary>
/// <param name="Blocks">What stands in it, given a way to find what it names; null where the outline is all there is.</param>
public sealed record ImportedLesson(string File, int Line, string? Shelf, Named Piece, Named? Module, string Title, int? Order, int? Minutes, bool Teaser,
    bool Ready, DoneWhen DoneWhen, EditionName? Edition, EditionName? OwnEdition,
    Func<NamesInText, IReadOnlyList<Block>>? Blocks);

/// <summary>The facts of one piece as an import brings them.</summary>
public sealed record ImportedPiece(string File, string? Shelf, Named Name, FrontMatter Facts);

/// <summary>Reads what an import brings into one shape, whatever it came as. What can't be read is told with its line.</summary>
public sealed class ReadImport(RichText rich)
{
    public List<ImportedLesson> Lessons { get; } = [];
    public List<ImportedPiece> Pieces { get; } = [];
    public FrontMatter? Site { get; private set; }
    public List<(string File, int Line, string Why)> Refused { get; } = [];

    public void Markdown(IContentSource source)
    {
        // The facts of a piece first: its title holds for the lessons in its folder.
        foreach (var path in source.Paths.Where(p => p.EndsWith(".md", StringComparison.OrdinalIgnoreCase)).OrderBy(p => !IsPiece(p))
            .ThenBy(p => p, StringComparer.Ordinal))
        {
            try
            {
                using var reader = new StreamReader(source.Open(path), new UTF8Encoding(false, throwOnInvalidBytes: true));
                One(path, FrontMatter.Read(reader.ReadToEnd()));
            }
            catch (ContentFormatException e)
            {
                Refused.Add((path, e.Line, e.Message));
            }
            catch (DecoderFallbackException)
            {
                Refused.Add((path, 1, "It isn’t text in UTF-8."));
            }
        }
    }

    static bool IsPiece(string path) => path.EndsWith("/piece.md", StringComparison.OrdinalIgnoreCase)
        || path.Equals("piece.md", StringComparison.OrdinalIgnoreCase);

    readonly Dictionary<string, Named> pieceOfFolder = [];

    void One(string path, FrontMatter head)
    {
        var parts = path.Split('/');
        string Folder(int up) => string.Join('/', parts[..^up]);
        var name = WithoutNumber(Path.GetFileNameWithoutExtension(parts[^1]));
        switch (parts[^1].ToLowerInvariant())
        {
            case "site.md": Site = head; return;
            case "readme.md": return;
            case "piece.md":
                var title = head.Value("title") ?? head.Value("piece")
                    ?? (parts.Length > 1 ? WithoutNumber(parts[^2]) : throw new ContentFormatException("A piece needs a title.", 1));
                var stated = Numbered(head, title, "piece-number");
                Pieces.Add(new(path, head.Value("shelf"), stated, head));
                pieceOfFolder[Folder(1)] = stated;
                return;
        }
        // What the head doesn't say, the folders do: piece/lesson.md or piece/module/lesson.md.
        Named? Around(int up) => parts.Length > up && pieceOfFolder.TryGetValue(Folder(up), out var p) ? p : null;
        var beside = Around(1);
        var piece = head.Value("piece") is { } own ? Numbered(head, own, "piece-number")
            : beside ?? Around(2)
                ?? new(parts.Length switch
                {
                    >= 3 => WithoutNumber(parts[^3]),
                    2 => WithoutNumber(parts[^2]),
                    _ => head.Value("title") ?? head.Value("lesson") ?? name
                });
        var module = head.Fields.ContainsKey("module") ? head.Value("module") : parts.Length >= 3 && beside is null
            && !head.Fields.ContainsKey("piece") ? WithoutNumber(parts[^2]) : null;
        var lesson = head.Value("lesson") ?? head.Value("title") ?? name;
        if (lesson.Trim().Length is 0 or > 160) throw new ContentFormatException("A lesson’s title has from 1 to 160 letters.", head.LineOf("title"));
        if (head.Number("minutes") is < 1 or > 6000) throw new ContentFormatException("“minutes” go from 1 to 6,000.", head.LineOf("minutes"));
        Func<NamesInText, IReadOnlyList<Block>> blocks = names =>
            BlockYaml.Read(head.Text, head.TextLine, names with { File = (file, line) => names.File(Beside(path, file), line) }, rich.ToHtml, rich.CleanStored);
        // Read once now, so that what is wrong is told.
        blocks(NamesInText.Any);
        Lessons.Add(new(path, 1, head.Value("shelf"), piece with { Title = piece.Title.Trim() },
            string.IsNullOrWhiteSpace(module) ? null : Numbered(head, module.Trim(), "module-number"), lesson.Trim(), head.Number("order"),
            head.Number("minutes"), head.Yes("teaser"), head.Yes("ready"),
            head.Choice("done-when", DoneWhen.Marked), head.Edition("edition"), head.Edition("lesson-edition"), blocks));
    }

    static Named Numbered(FrontMatter head, string title, string field) =>
        new(title, head.Number(field) switch
        {
            null => 1,
            >= 1 and <= 1000 and int n => n,
            var n => throw new ContentFormatException($"“{field}” goes from 1 to 1,000, not to {n}.", head.LineOf(field))
        });

    /// <summary>A file is named from the archive's root, or from where the text stands.</summary>
    static string Beside(string path, string file) => file.StartsWith("media/", StringComparison.Ordinal) ? file
        : file.StartsWith("./", StringComparison.Ordinal) || !file.Contains('/')
        ? (Path.GetDirectoryName(path)?.Replace('\\', '/') is { Length: > 0 } folder ? folder + "/" : "") + file.TrimStart('.', '/') : file;

    /// <summary>"03 Where to put it" and "03-where-to-put-it" without their number.</summary>
    static string WithoutNumber(string name)
    {
        var t = name.TrimStart('0', '1', '2', '3', '4', '5', '6', '7', '8', '9').TrimStart('-', '_', ' ', '.');
        if (t.Length == 0) return name;
        return t.Contains(' ') ? t : char.ToUpperInvariant(t[0]) + t[1..].Replace('-', ' ').Replace('_', ' ');
    }

    /// <summary>An outline as CSV (RFC 4180, commas or semicolons) with a head: shelf, piece, module, lesson, minutes, teaser, edition, ready.</summary>
    public void Outline(string file, Stream stream)
    {
        using var reader = new StreamReader(stream, new UTF8Encoding(false), detectEncodingFromByteOrderMarks: true);
        var text = reader.ReadToEnd();
        var rows = CsvRows.Read(text);
        if (rows.Count == 0)
        {
            Refused.Add((file, 1, "The file is empty."));
            return;
        }
        var heads = rows[0].Cells.Select(c => c.Trim().ToLowerInvariant()).ToList();
        if (!heads.Contains("piece") || !heads.Contains("lesson"))
        {
            Refused.Add((file, 1, "The first line names the columns; “piece” and “lesson” have to be among them."));
            return;
        }
        foreach (var (line, cells) in rows.Skip(1))
        {
            string? Cell(string name) => heads.IndexOf(name) is >= 0 and var i && i < cells.Count && cells[i].Trim() is { Length: > 0 } t ? t : null;
            string? Wrong()
            {
                if (Cell("piece") is null || Cell("lesson") is null) return "A line needs a piece and a lesson.";
                if (Cell("lesson")!.Length > 160 || Cell("piece")!.Length > 160) return "Titles have 160 letters at most.";
                if (Cell("minutes") is { } m && !(int.TryParse(m, NumberStyles.None, CultureInfo.InvariantCulture, out var n) && n is >= 1 and <= 6000))
                    return $"“minutes” is a number from 1 to 6,000, not “{m}”.";
                if (Cell("edition") is { } e && !EditionName.TryRead(e, out _))
                    return $"“edition” is a month like 2026-11, a week like 2026-W46 or a day like 2026-11-14, not “{e}”.";
                return null;
            }
            if (cells.All(c => c.Trim().Length == 0)) continue;
            if (Wrong() is { } why)
            {
                Refused.Add((file, line, why));
                continue;
            }
            Lessons.Add(new(file, line, Cell("shelf"), new(Cell("piece")!), Cell("module") is { } module ? new(module) : null, Cell("lesson")!, null,
                Cell("minutes") is { } minutes ? int.Parse(minutes, CultureInfo.InvariantCulture) : null,
                Cell("teaser")?.ToLowerInvariant() is "yes" or "true" or "1" or "x", Cell("ready")?.ToLowerInvariant() is "yes" or "true" or "1" or "x",
                    DoneWhen.Marked, EditionName.TryRead(Cell("edition"), out var edition) ? edition : null, null, null));
        }
    }

    /// <summary>A list of videos kept elsewhere, one a line: an address and a title, in either order. Each becomes a lesson of the piece.</summary>
    public void Videos(string list, string piece, string? module)
    {
        var n = 0;
        foreach (var raw in list.Replace("\r\n", "\n", StringComparison.Ordinal).Split('\n'))
        {
            n++;
            var line = raw.Trim();
            if (line.Length == 0) continue;
            var words = line.Split([' ', '\t', ',', ';', '|'], StringSplitOptions.RemoveEmptyEntries);
            var url = words.FirstOrDefault(BlockRules.IsWebAddress);
            if (url is null)
            {
                Refused.Add(("list", n, "There is no address beginning with https:// on this line."));
                continue;
            }
            var title = line.Replace(url, "", StringComparison.Ordinal).Trim(' ', '\t', ',', ';', '|', '-', '–', '"');
            if (title.Length is 0 or > 160)
            {
                Refused.Add(("list", n, title.Length == 0 ? "There is no title beside the address." : "The title has 160 letters at most."));
                continue;
            }
            Lessons.Add(new("list", n, null, new(piece), module is null ? null : new(module), title, null, null, false, false, DoneWhen.Marked, null, null,
                names => [new Block.Video(Recording.Empty with { Url = url }) { Id = names.Next() }]));
        }
    }
}
