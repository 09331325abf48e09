using System.Globalization;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace BrightCircle.App.Content;

/// <summary>Something in an imported file that can't be read, with its line there.</summary>
public sealed class ContentFormatException(string message, int line) : Exception(message)
{
    public int Line { get; } = line;
}

/// <summary>How names in a text are found: what a part calls by name has a number here. Each is given the line it stands on.</summary>
/// <param name="File">May throw <see cref="ContentFormatException"/> where there is no such file.</param>
/// <param name="Tally">The same for a tally.</param>
/// <param name="Next">The number for a new block.</param>
public sealed record NamesInText(Func<string, int, FileId> File, Func<string, int, TallyId> Tally, Func<BlockId> Next)
{
    /// <summary>Takes every name for known: for reading what is wrong with the form alone.</summary>
    public static NamesInText Any { get; } = new((_, _) => new(1), (_, _) => new(1), () => new(1));
}

/// <summary>
/// Lessons as Markdown and back: text stands as Markdown, every other block as a fenced part with YAML in it.
/// <code>
/// ```timer
/// title: Let it rest
/// seconds: 600
/// ```
/// </code>
/// Files are named by their path in the archive. See docs/content-format.md.
/// </summary>
public static class BlockYaml
{
    /// <summary>The names of the fenced parts.</summary>
    static readonly HashSet<string> Kinds = ["pictures", "video", "audio", "files", "links", "booking", "live", "timer", "practice", "follow", "form"];

    public static string Write(IReadOnlyList<Block> blocks, Func<FileId, string> nameOf, Func<TallyId, string> tallyName, Func<string, string> markdownToHtml)
    {
        var b = new StringBuilder();
        Block? before = null;
        foreach (var block in blocks)
        {
            if (block is Block.Text text)
            {
                // Two texts in a row stay two.
                if (before is Block.Text) b.Append("<!-- next text -->\n\n");
                var html = FilesToNames(text.Html, nameOf);
                var markdown = HtmlToMarkdown.Write(html);
                b.Append(markdownToHtml(markdown) == html
                    && !markdown.Contains("```", StringComparison.Ordinal) ? markdown : $"<!-- html -->\n{html}\n<!-- /html -->\n").Append('\n');
            }
            else
            {
                var node = JsonSerializer.SerializeToNode(block, CoreJson.Options)!.AsObject();
                var kind = node["kind"]!.GetValue<string>();
                node.Remove("kind");
                node.Remove("id");
                b.Append("```").Append(kind).Append('\n');
                var inner = Rename(Unwrap(kind, node), nameOf).AsObject();
                if (block is Block.Follow { Run.Tally: { } tally }) inner["tally"] = tallyName(tally);
                YamlOf(inner, b, 0);
                b.Append("```\n\n");
            }
            before = block;
        }
        return b.ToString();
    }

    /// <summary>A block that wraps one thing (a sheet, a run, a recording) stands without the wrapping.</summary>
    static readonly Dictionary<string, string> Wrapped =
        new() { ["practice"] = "sheet", ["follow"] = "run", ["form"] = "form", ["video"] = "recording", ["audio"] = "recording" };

    static JsonObject Unwrap(string kind, JsonObject node) => Wrapped.TryGetValue(kind, out var inner) ? node[inner]!.DeepClone().AsObject() : node;

    static readonly HashSet<string> FileFields = ["file", "poster", "picture"];

    static JsonNode Rename(JsonNode node, Func<FileId, string> nameOf)
    {
        switch (node)
        {
            case JsonObject o:
                foreach (var (key, value) in o.ToArray())
                    if (value is JsonValue v && FileFields.Contains(key) && v.TryGetValue<long>(out var id)) o[key] = nameOf(new(id));
                    else if (key == "items" && value is JsonArray { Count: > 0 } files && files.All(f => f is JsonValue x && x.TryGetValue<long>(out _)))
                        o[key] = new JsonArray([.. files.Select(f => (JsonNode)JsonValue.Create(nameOf(new(f!.GetValue<long>()))))]);
                    else if (value is not null) Rename(value, nameOf);
                break;
            case JsonArray a:
                foreach (var item in a) if (item is not null) Rename(item, nameOf);
                break;
        }
        return node;
    }

    static string FilesToNames(string html, Func<FileId, string> nameOf) =>
        System.Text.RegularExpressions.Regex.Replace(
            html, "data-file=\"(\\d+)\"", m => $"data-file=\"{nameOf(new(long.Parse(m.Groups[1].ValueSpan, CultureInfo.InvariantCulture)))}\"");

    /// <summary>JSON as YAML in the block style; strings are quoted where they could be taken for anything else.</summary>
    static void YamlOf(JsonNode node, StringBuilder b, int depth)
    {
        var pad = new string(' ', depth * 2);
        switch (node)
        {
            case JsonObject o:
                foreach (var (key, value) in o)
                {
                    if (value is null) continue;
                    b.Append(pad).Append(key).Append(':');
                    Value(value, b, depth);
                }
                break;
            case JsonArray a:
                foreach (var item in a)
                {
                    b.Append(pad).Append('-');
                    if (item is JsonObject or JsonArray)
                    {
                        var inner = new StringBuilder();
                        YamlOf(item, inner, depth + 1);
                        b.Append(' ').Append(inner.ToString().TrimStart());
                    }
                    else Value(item!, b, depth);
                }
                break;
        }
    }

    static void Value(JsonNode value, StringBuilder b, int depth)
    {
        switch (value)
        {
            case JsonObject { Count: 0 }: b.Append(" {}\n"); break;
            case JsonArray { Count: 0 }: b.Append(" []\n"); break;
            case JsonObject or JsonArray: b.Append('\n'); YamlOf(value, b, depth + 1); break;
            default:
                var v = value.AsValue();
                if (v.GetValueKind() == JsonValueKind.String)
                {
                    var s = v.GetValue<string>();
                    // A JSON string is a YAML string (YAML 1.2 takes JSON in).
                    b.Append(' ').Append(IsPlain(s) ? s : JsonSerializer.Serialize(s, Relaxed)).Append('\n');
                }
                else b.Append(' ').Append(v.ToJsonString()).Append('\n');
                break;
        }
    }

    static readonly JsonSerializerOptions Relaxed = new() { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.UnsafeRelaxedJsonEscaping };

    static bool IsPlain(string s) => s.Length > 0 && char.IsLetter(s[0])
        && s.All(c => char.IsLetterOrDigit(c) || c is ' ' or '.' or ',' or '-' or '/' or '_' or '’' or '?' or '(' or ')') && s.Trim() == s
        && s is not ("true" or "false" or "null" or "yes" or "no" or "on" or "off" or "y" or "n" or "True" or "False" or "Null" or "Yes" or "No" or "On"
        or "Off");

    /// <summary>Reads a lesson's text into blocks.</summary>
    /// <param name="firstLine">The line of the file at which the text begins, for what is said about errors.</param>
    /// <exception cref="ContentFormatException">A part can't be read.</exception>
    public static IReadOnlyList<Block> Read(string text, int firstLine, NamesInText names, Func<string, string> markdownToHtml, Func<string, string> clean)
    {
        var blocks = new List<Block>();
        var lines = text.Replace("\r\n", "\n", StringComparison.Ordinal).Split('\n');
        var prose = new List<string>();
        var proseLine = firstLine;
        void Flush()
        {
            var markdown = string.Join('\n', prose).Trim();
            prose.Clear();
            if (markdown.Length > 0) blocks.Add(new Block.Text(clean(NamesToFiles(markdownToHtml(markdown), proseLine, names.File))) { Id = names.Next() });
        }
        for (var i = 0; i < lines.Length; i++)
        {
            var line = lines[i];
            if (line.Trim() == "<!-- next text -->") { Flush(); continue; }
            if (line.Trim() == "<!-- html -->")
            {
                Flush();
                var from = i + 1;
                var to = Array.FindIndex(lines, from, l => l.Trim() == "<!-- /html -->");
                if (to < 0) throw new ContentFormatException("The part that begins with <!-- html --> has no end.", firstLine + i);
                blocks.Add(new Block.Text(clean(NamesToFiles(string.Join('\n', lines[from..to]), firstLine + from, names.File))) { Id = names.Next() });
                i = to;
                continue;
            }
            var fence = line.StartsWith("```", StringComparison.Ordinal) ? line[3..].Trim() : "";
            if (!Kinds.Contains(fence))
            {
                if (prose.Count == 0) proseLine = firstLine + i;
                prose.Add(line);
                // Other fenced parts are code and stay in the text, whatever stands in them.
                if (line.StartsWith("```", StringComparison.Ordinal))
                    for (i++; i < lines.Length; i++)
                    {
                        prose.Add(lines[i]);
                        if (lines[i].StartsWith("```", StringComparison.Ordinal)) break;
                    }
                continue;
            }
            Flush();
            var end = Array.FindIndex(lines, i + 1, l => l.TrimEnd() == "```");
            if (end < 0) throw new ContentFormatException($"The part that begins with ```{fence} has no end.", firstLine + i);
            blocks.Add(ReadBlock(fence, string.Join('\n', lines[(i + 1)..end]), firstLine + i + 1, names) with { Id = names.Next() });
            i = end;
        }
        Flush();
        return blocks;
    }

    static string NamesToFiles(string html, int line, Func<string, int, FileId> fileOf) =>
        System.Text.RegularExpressions.Regex.Replace(html, "(?:data-file|<img[^>]*?\\bsrc)=\"([^\"]+)\"", m =>
        {
            var name = m.Groups[1].Value;
            var id = long.TryParse(name, NumberStyles.None, CultureInfo.InvariantCulture, out _) ? name
                : fileOf(Uri.UnescapeDataString(name), line).Value.ToString(CultureInfo.InvariantCulture);
            return m.Value.StartsWith("data-file", StringComparison.Ordinal) ? $"data-file=\"{id}\""
                : $"{m.Value[..m.Value.LastIndexOf("src=", StringComparison.Ordinal)]}data-file=\"{id}\"";
        });

    static Block ReadBlock(string kind, string yaml, int line, NamesInText names)
    {
        var node = ReadYaml(yaml, line);
        if (node is not JsonObject o) throw new ContentFormatException($"A {kind} part holds fields, like “title: …”.", line);
        FillIn(kind, o);
        if (kind == "files" && o["items"] is JsonArray files)
            o["items"] = new JsonArray([.. files.Select(f => (JsonNode)JsonValue.Create(names.File(f?.ToString() ?? "", line).Value))]);
        else Find(o, line, names.File);
        if (kind == "follow" && o["tally"] is { } tally) o["tally"] = names.Tally(tally.ToString(), line).Value;
        if (Wrapped.TryGetValue(kind, out var inner)) o = new JsonObject { [inner] = o };
        o["kind"] = kind;
        o["id"] = 0;
        try
        {
            var block = o.Deserialize<Block>(Strict)!;
            return ContentLimits.Beyond([block]) is { } beyond ? throw new ContentFormatException(beyond, line) : block;
        }
        catch (JsonException e)
        {
            throw new ContentFormatException($"This {kind} part can’t be read: {(e.Path is { Length: > 2 } path ? $"“{path[2..]}” doesn’t fit" : e.Message)}.",
                line);
        }
    }

    static readonly JsonSerializerOptions Strict =
        new(CoreJson.Options)
        {
            UnmappedMemberHandling = System.Text.Json.Serialization.JsonUnmappedMemberHandling.Disallow,
            NumberHandling = System.Text.Json.Serialization.JsonNumberHandling.AllowReadingFromString,
            Converters = { new AnyScalar() }
        };

    /// <summary>Where words are wanted, a number or a truth written without quotes is taken as it was written.</summary>
    sealed class AnyScalar : System.Text.Json.Serialization.JsonConverter<string>
    {
        public override string? Read(ref Utf8JsonReader reader, Type type, JsonSerializerOptions options) => reader.TokenType switch
        {
            JsonTokenType.String => reader.GetString(),
            JsonTokenType.Number => Encoding.UTF8.GetString(reader.ValueSpan),
            JsonTokenType.True => "true",
            JsonTokenType.False => "false",
            _ => throw new JsonException(),
        };
        public override void Write(Utf8JsonWriter writer, string value, JsonSerializerOptions options) => writer.WriteStringValue(value);
    }

    /// <summary>What may be left out gets its usual value; questions get keys by their place.</summary>
    static void FillIn(string kind, JsonObject o)
    {
        void Default(JsonObject to, params (string Key, object? Value)[] values)
        {
            foreach (var (key, value) in values)
                if (!to.ContainsKey(key)) to[key] = value is null ? null : JsonSerializer.SerializeToNode(value);
        }
        IEnumerable<JsonObject> In(string key) => o[key] is JsonArray a ? a.OfType<JsonObject>() : [];
        switch (kind)
        {
            case "pictures": foreach (var i in In("items")) Default(i, ("alt", ""), ("caption", "")); break;
            case "video" or "audio": Default(o, ("title", ""), ("url", null), ("file", null), ("poster", null), ("captions", ""), ("transcript", "")); break;
            case "links": foreach (var i in In("items")) Default(i, ("title", ""), ("note", "")); break;
            case "booking": Default(o, ("title", ""), ("note", "")); break;
            case "live": Default(o, ("startsAt", null), ("minutes", 60), ("url", ""), ("recordingUrl", null)); break;
            case "timer": Default(o, ("title", ""), ("seconds", null)); break;
            case "practice":
                Default(o, ("title", ""), ("intro", ""), ("tries", null), ("passPercent", 60));
                foreach (var (q, i) in In("questions").Select((q, i) => (q, i)))
                {
                    Default(q, ("key", $"q{i + 1}"), ("points", 1), ("explanation", ""));
                    if (q["kind"]?.ToString() == "number") Default(q, ("tolerance", 0), ("unit", ""));
                    foreach (var option in q["options"] is JsonArray options ? options.OfType<JsonObject>() : [])
                        Default(option, ("right", false), ("feedback", ""));
                }
                break;
            case "follow":
                Default(o, ("title", ""), ("rounds", 1), ("leadInSeconds", 5), ("roundRestSeconds", 0), ("secondsEach", 3), ("sounds", false));
                foreach (var s in In("steps")) Default(s, ("note", ""), ("seconds", null), ("times", null), ("restSeconds", 0), ("picture", null));
                break;
            case "form":
                Default(o, ("title", ""), ("repeat", "once"), ("thanks", ""));
                foreach (var (q, i) in In("questions").Select((q, i) => (q, i)))
                    Default(q, ("key", $"q{i + 1}"), ("required", false), ("options", Array.Empty<string>()), ("condition", null));
                break;
        }
    }

    static void Find(JsonNode node, int line, Func<string, int, FileId> fileOf)
    {
        switch (node)
        {
            case JsonObject o:
                foreach (var (key, value) in o.ToArray())
                    if (value is JsonValue v && FileFields.Contains(key) && v.TryGetValue<string>(out var name)) o[key] = fileOf(name, line).Value;
                    else if (value is not null) Find(value, line, fileOf);
                break;
            case JsonArray a:
                foreach (var item in a) if (item is not null) Find(item, line, fileOf);
                break;
        }
    }

    /// <summary>YAML as JSON: numbers, truths and nothing are told apart from words by YAML's core schema.</summary>
    /// <exception cref="ContentFormatException">It isn't YAML.</exception>
    public static JsonNode? ReadYaml(string yaml, int firstLine)
    {
        try
        {
            Bounded(yaml, firstLine);
            var stream = new YamlStream();
            stream.Load(new StringReader(yaml));
            return stream.Documents.Count == 0 ? new JsonObject() : Convert(stream.Documents[0].RootNode);
        }
        catch (YamlException e)
        {
            throw new ContentFormatException("This isn’t YAML: " + e.InnerException?.Message + (e.InnerException is null ? e.Message : ""),
                firstLine + Math.Max(0, (int)e.Start.Line - 1));
        }
    }

    const int MostYaml = 1_000_000, MostDepth = 24, MostNodes = 50_000;

    /// <summary>Goes over it once without building anything: what is nested too deeply, too long, or repeats itself by aliases is refused before it takes any
    /// room.</summary>
    static void Bounded(string yaml, int firstLine)
    {
        if (yaml.Length > MostYaml) throw new ContentFormatException($"This part is too long; {MostYaml:N0} signs are the most.", firstLine);
        // The parser itself goes deeper with every bracket, so brackets are counted before it sees them.
        var brackets = 0;
        foreach (var c in yaml)
        {
            brackets = c switch { '[' or '{' => brackets + 1, ']' or '}' => brackets - 1, _ => brackets };
            if (brackets > 200) throw new ContentFormatException("Brackets are nested too deeply.", firstLine);
        }
        var (parser, depth, nodes) = (new Parser(new StringReader(yaml)), 0, 0);
        while (parser.MoveNext())
        {
            var line = firstLine + Math.Max(0, (int)parser.Current!.Start.Line - 1);
            switch (parser.Current)
            {
                case YamlDotNet.Core.Events.AnchorAlias: throw new ContentFormatException("Aliases (*name) aren’t taken. Write it out.", line);
                case YamlDotNet.Core.Events.MappingStart or YamlDotNet.Core.Events.SequenceStart: depth++; break;
                case YamlDotNet.Core.Events.MappingEnd or YamlDotNet.Core.Events.SequenceEnd: depth--; break;
            }
            if (depth > MostDepth) throw new ContentFormatException("This is nested too deeply.", line);
            if (++nodes > MostNodes) throw new ContentFormatException("This part holds too many things.", line);
        }
    }

    static JsonNode? Convert(YamlNode node) => node switch
    {
        YamlMappingNode m => new JsonObject(m.Children.GroupBy(c => c.Key.ToString()).Select(g => KeyValuePair.Create(g.Key, Convert(g.Last().Value)))),
        YamlSequenceNode s => new JsonArray([.. s.Children.Select(Convert)]),
        YamlScalarNode { Style: not ScalarStyle.Plain } s => JsonValue.Create(s.Value ?? ""),
        YamlScalarNode s => s.Value switch
        {
            null or "" or "~" or "null" => null,
            "true" => JsonValue.Create(true),
            "false" => JsonValue.Create(false),
            var v when long.TryParse(v, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var n)
                && (v == "0" || v.TrimStart('-', '+')[0] != '0') => JsonValue.Create(n),
            var v when decimal.TryParse(v, NumberStyles.AllowLeadingSign | NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var d)
                && v.Contains('.') => JsonValue.Create(d),
            var v => JsonValue.Create(v),
        },
        _ => null,
    };
}
