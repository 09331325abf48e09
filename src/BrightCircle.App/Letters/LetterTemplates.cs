using System.Text.RegularExpressions;
using BrightCircle.Core;
using Fluid;
using Markdig;

namespace BrightCircle.App.Letters;

/// <summary>What stands around a letter to many.</summary>
/// <param name="Why">Why it comes to this reader; empty where that isn't known yet.</param>
/// <param name="Unsubscribe">Where to have fewer; null for a trial.</param>
/// <param name="Picture">Above the words.</param>
public sealed record MailingFrame(string Site, string HelpAddress, string? Logo, string Why, string? Unsubscribe, FileId? Picture = null);

/// <summary>A letter as it goes out: the same words as HTML and as plain text.</summary>
/// <param name="Picture">The one above its words; it is put in where the HTML has its place (<see cref="LetterPictures"/>).</param>
public sealed record RenderedLetter(string Subject, string Html, string Text, FileId? Picture = null);

/// <summary>
/// Letters are Liquid templates over Markdown: the first line is the subject, the rest gives both the text part and the HTML part.
/// A field the template names and the model lacks is an error, never an empty space. Before the subject stand the sentences that read differently from
/// case to case (@name: Liquid, or @name, lines, @end): the text itself only names them, so that it can be changed without a program in it.
/// </summary>
public sealed partial class LetterTemplates
{
    static readonly FluidParser Parser = new();
    static readonly MarkdownPipeline Markdown = new MarkdownPipelineBuilder().DisableHtml().Build();
    readonly TemplateOptions options = new() { StrictVariables = true, StrictFilters = true };
    readonly Dictionary<string, Template> templates = [];

    sealed record Template(IFluidTemplate Text, IReadOnlyList<Sentence> Sentences, string Source);
    sealed record Sentence(string Key, IFluidTemplate Words, bool IsBlock);

    public LetterTemplates()
    {
        var assembly = typeof(LetterTemplates).Assembly;
        foreach (var name in assembly.GetManifestResourceNames().Where(n => n.EndsWith(".liquid", StringComparison.Ordinal)))
        {
            using var reader = new StreamReader(assembly.GetManifestResourceStream(name)!);
            templates[name.Split('.')[^2]] = Read(reader.ReadToEnd());
        }
    }

    static Template Read(string source)
    {
        var lines = source.Split('\n');
        var sentences = new List<Sentence>();
        var at = 0;
        for (; lines[at].StartsWith('@'); at++)
        {
            var parts = lines[at][1..].Split(": ", 2);
            if (parts.Length == 2)
            {
                sentences.Add(new(parts[0], Parser.Parse(parts[1]), false));
                continue;
            }
            var end = Array.IndexOf(lines, "@end", at);
            sentences.Add(new(parts[0], Parser.Parse(string.Join('\n', lines[(at + 1)..end])), true));
            at = end;
        }
        var text = string.Join('\n', lines[at..]);
        return new(Parser.Parse(text), sentences, text);
    }

    /// <summary>A letter as it comes with the house, to be changed: its links are #what they lead to.</summary>
    public (string Subject, string Body) Original(string name)
    {
        var (subject, markdown) = SplitSubject(templates[name].Source);
        return (subject, Markdig.Markdown.ToHtml(LinkField().Replace(markdown, "(#$1)"), Markdown).Trim());
    }

    /// <summary>The keys of the sentences that read differently from case to case, and whether each is more than a part of a paragraph.</summary>
    public IEnumerable<(string Key, bool IsBlock)> SentencesOf(string name) => templates[name].Sentences.Select(s => (s.Key, s.IsBlock));

    /// <summary>A text without the fields that stand on a line of their own.</summary>
    public static string WithoutBlocks(string body) => BlockField().Replace(body, "");

    /// <summary>A letter of the house in the owner’s own words, in the site’s frame.</summary>
    /// <exception cref="FluidException">A sentence of the letter names a field that the model lacks.</exception>
    public RenderedLetter Own(string name, string subject, string preheader, string body, IReadOnlyDictionary<string, object> model, MailingFrame frame)
    {
        var sentences = Sentences(templates[name], Context(model)).ToDictionary(s => s.Of.Key);
        string Plain(string key, string? instead) => sentences.TryGetValue(key, out var s) ? AsText(s.Markdown).Trim()
            : model.GetValueOrDefault(key) is string { Length: > 0 } value ? value : System.Net.WebUtility.HtmlDecode(instead ?? "");
        string Html(string key, string? instead) => sentences.TryGetValue(key, out var s) ? Inline(s.Markdown)
            : System.Net.WebUtility.HtmlEncode(Plain(key, instead)).Replace("\n", "<br>", StringComparison.Ordinal);
        body = BlockField().Replace(body, m => sentences.TryGetValue(m.Groups["key"].Value, out var s) && s.Of.IsBlock
            ? Markdig.Markdown.ToHtml(s.Markdown, Markdown).Trim() : m.Value);
        body = MailingFields.Fill(body, Html);
        body = OwnLink().Replace(body, m => $"href=\"{System.Net.WebUtility.HtmlEncode(model.GetValueOrDefault(m.Groups[1].Value) as string ?? "")}\"");
        // A sentence that says nothing this time leaves no gap.
        body = Gaps().Replace(Hollow().Replace(body, ""), " ");
        return Many(OneLine(MailingFields.Fill(subject, Plain)), OneLine(MailingFields.Fill(preheader, Plain)), body, frame, plain: false);
    }

    /// <summary>What a letter’s fields say, in plain words: what is the same in each, and the sentences that read differently.</summary>
    public IReadOnlyDictionary<string, string> Values(string name, IReadOnlyDictionary<string, object> model)
    {
        var values = model.Where(m => m.Value is string).ToDictionary(m => m.Key, m => (string)m.Value);
        foreach (var (of, markdown) in Sentences(templates[name], Context(model))) values[of.Key] = AsText(markdown).Trim();
        return values;
    }

    static string OneLine(string text) => Gaps().Replace(text.ReplaceLineEndings(" "), " ").Trim();

    /// <summary>A sentence within a paragraph.</summary>
    static string Inline(string markdown)
    {
        var html = Markdig.Markdown.ToHtml(markdown, Markdown).Trim();
        return html.StartsWith("<p>", StringComparison.Ordinal) && html.IndexOf("</p>", StringComparison.Ordinal) == html.Length - 4 ? html[3..^4] : html;
    }

    public IReadOnlyCollection<string> Names => [.. templates.Keys.Where(n => n[0] != '_')];

    /// <param name="model">Strings, and lists of dictionaries of strings. Fields that end in _link are addresses.</param>
    /// <exception cref="FluidException">The template names a field that the model lacks.</exception>
    public RenderedLetter Render(string name, IReadOnlyDictionary<string, object> model)
    {
        var (subject, markdown) = SplitSubject(RenderRaw(name, model));
        subject = Unescape(subject);
        var body = Markdig.Markdown.ToHtml(markdown, Markdown);
        body = ButtonLink()
            .Replace(
            body, $"<p style=\"margin:24px 0\"><a style=\"{ButtonStyle}\" href=\"$1\">$2</a></p>");
        return new(subject, Frame(subject, "", (string)model["site"], model.GetValueOrDefault("logo_link") as string, body), AsText(markdown));
    }

    /// <summary>A letter to many: its own words in the site's frame, with why it comes and how to have fewer at its foot.</summary>
    public RenderedLetter Many(string subject, string preheader, string body, MailingFrame of, bool plain)
    {
        static string Safe(string text) => System.Net.WebUtility.HtmlEncode(text);
        var foot = $"<p>Stuck, or just wondering? Write to <a href=\"mailto:{Safe(of.HelpAddress)}\">{Safe(of.HelpAddress)}</a> and a person answers.</p>"
            + (of.Why.Length == 0 ? "" : $"<p>{Safe(of.Why)}</p>")
            + (of.Unsubscribe is { } link ? $"<p><a href=\"{Safe(link)}\">Fewer letters like this one</a></p>" : "");
        var text = AsText(Content.HtmlToMarkdown.Write(body).Replace("\r", "", StringComparison.Ordinal)).Trim() + "\n\n"
            + AsText(Content.HtmlToMarkdown.Write(foot)).Trim() + "\n\n" + of.Site + "\n";
        var html = Button().Replace(body, m =>
            $"<p style=\"margin:24px 0\"><a style=\"{ButtonStyle}\" href=\"{m.Groups[2].Value}\">{m.Groups[3].Value}</a></p>");
        // Editors write paragraphs as plain blocks; as what they are they stand apart in every mail program.
        html = Block().Replace(html, "<p>$1</p>");
        return new(subject, plain ? "" : Frame(subject, preheader, of.Site, of.Logo,
            (of.Picture is null ? "" : LetterPictures.Place) + $"<div style=\"padding-top:18px\">{html}</div>"
            + $"<div style=\"margin-top:28px;padding-top:8px;border-top:1px solid #E4DDCF;font-size:13px;color:#55636B\">{foot}</div>"),
            text, plain ? null : of.Picture);
    }

    /// <summary>For whom reads in the dark; mail programs that know nothing of it leave it out.</summary>
    const string Dark = "@media (prefers-color-scheme: dark) { .paper { background: #171d20 !important; color: #e9e4d8 !important } "
        + ".paper a { color: #8fd0c5 !important } .paper a[style] { color: #ffffff !important } }";

    /// <summary>The same letter as it looks in the dark, whatever the screen is set to.</summary>
    public static string InTheDark(string html) => html.Replace("@media (prefers-color-scheme: dark)", "@media all", StringComparison.Ordinal);

    const string ButtonStyle = "background:#0E5A52;color:#ffffff;padding:12px 20px;border-radius:6px;text-decoration:none;font-weight:600";

    const string Paper = "margin:0;background:#FBF8F1;color:#1F2A30;font-family:Figtree,Segoe UI,Helvetica,Arial,sans-serif;font-size:16px;line-height:1.55";

    static string Frame(string subject, string preheader, string siteName, string? logoLink, string body)
    {
        var site = System.Net.WebUtility.HtmlEncode(siteName);
        var logo = logoLink is { } address
            ? $"<img src=\"{System.Net.WebUtility.HtmlEncode(address)}\" alt=\"\" height=\"28\" style=\"vertical-align:middle;margin-right:9px\">" : "";
        // Shown beside the subject in lists of letters, and nowhere else.
        var before = preheader.Length == 0 ? ""
            : $"<div style=\"display:none;max-height:0;overflow:hidden\">{System.Net.WebUtility.HtmlEncode(preheader)}</div>";
        return $"""
            <!doctype html>
            <html lang="en"><head><meta charset="utf-8"><meta name="viewport"
                content="width=device-width,initial-scale=1"><meta name="color-scheme" content="light dark">
            <title>{System.Net.WebUtility.HtmlEncode(subject)}</title><style>{Dark}</style></head>
            <body class="paper" style="{Paper}">
            {before}<div style="max-width:560px;margin:0 auto;padding:28px 20px">
            <div style="font-family:Fraunces,Georgia,serif;font-size:20px;font-weight:600;padding-bottom:14px;border-bottom:3px solid #F2B632">
            {logo}{site}</div>
            {body}
            </div></body></html>
            """;
    }

    /// <summary>What people wrote is escaped, so that only the template's own signs mean anything.</summary>
    string RenderRaw(string name, IReadOnlyDictionary<string, object> model)
    {
        var (template, context) = (templates[name], Context(model));
        foreach (var (of, markdown) in Sentences(template, context)) context.SetValue(of.Key, markdown);
        // Every letter ends with where to ask.
        var text = template.Text.Render(context).TrimEnd() + "\n\n" + templates["_Foot"].Text.Render(context);
        return EmptyLines().Replace(Gaps().Replace(text, " "), "\n\n");
    }

    TemplateContext Context(IReadOnlyDictionary<string, object> model)
    {
        var context = new TemplateContext(options);
        foreach (var (key, value) in model) context.SetValue(key, Escape(key, value));
        return context;
    }

    static List<(Sentence Of, string Markdown)> Sentences(Template template, TemplateContext context) =>
        [.. template.Sentences.Select(s => (s, s.Words.Render(context)))];

    static object Escape(string key, object value) => value switch
    {
        string s when key.EndsWith("_link", StringComparison.Ordinal) => s,
        string s => MarkdownSigns().Replace(s, @"\$0"),
        IEnumerable<Dictionary<string, string>> list => list.Select(d => d.ToDictionary(p => p.Key, p => (string)Escape(p.Key, p.Value))).ToArray(),
        _ => value,
    };

    static (string Subject, string Body) SplitSubject(string rendered)
    {
        var end = rendered.IndexOf('\n');
        return (rendered[..end].Trim(), rendered[(end + 1)..].Trim() + "\n");
    }

    /// <summary>The Markdown without its signs: links as their address on the next line.</summary>
    /// <summary>A link as it stands in text: what it says and where it leads; an address that says itself once.</summary>
    static string Written(Match link) => link.Groups[2].Value == "mailto:" + Unescape(link.Groups[1].Value) ? link.Groups[1].Value
        : $"{link.Groups[1].Value}:\n{link.Groups[2].Value}";

    static string AsText(string markdown) => Unescape(MarkdownLink().Replace(markdown, Written).Replace("**", "").Replace("\n* ", "\n- "));
    static string Unescape(string text) => Escaped().Replace(text, "$1");

    [GeneratedRegex(@"\(\{\{ ([a-z_]+_link) \}\}\)")] private static partial Regex LinkField();
    [GeneratedRegex("href=\"#([a-z_]+_link)\"")] private static partial Regex OwnLink();
    [GeneratedRegex(@"<(p|div)>\s*\{\{\s*(?<key>[a-z_]+)\s*\}\}\s*</\1>")] private static partial Regex BlockField();
    [GeneratedRegex(@"<(p|div)>(?:\s|&nbsp;|<br ?/?>|</?(?:strong|em|b|i)>)*</\1>")] private static partial Regex Hollow();
    [GeneratedRegex(@"(?<=\S)[ ]{2,}(?=\S)")] private static partial Regex Gaps();
    [GeneratedRegex(@"\n(?:[ ]*\n){2,}")] private static partial Regex EmptyLines();
    [GeneratedRegex("<p><strong><a href=\"([^\"]+)\">(.*?)</a></strong></p>")] private static partial Regex ButtonLink();
    [GeneratedRegex("<div>((?:(?!</?div).)*)</div>", RegexOptions.Singleline)] private static partial Regex Block();
    [GeneratedRegex("<(p|div)><strong><a href=\"([^\"]+)\"[^>]*>([^<]*)</a></strong></\\1>")] private static partial Regex Button();
    [GeneratedRegex(@"(?<!\\)\[((?:\\.|[^\]\\])+)\]\(([^)]+)\)")] private static partial Regex MarkdownLink();
    [GeneratedRegex(@"\\([\\`*_{}\[\]<>#|~!&])")] private static partial Regex Escaped();
    [GeneratedRegex(@"[\\`*_{}\[\]<>#|~!&]")] private static partial Regex MarkdownSigns();
}
