using System.Text.RegularExpressions;
using Fluid;
using Markdig;

namespace BrightCircle.App.Letters;

/// <summary>A letter as it goes out: the same words as HTML and as plain text.</summary>
public sealed record RenderedLetter(string Subject, string Html, string Text);

/// <summary>
/// Letters are Liquid templates over Markdown: the first line is the subject, the rest gives both the text part and the HTML part.
/// A field the template names and the model lacks is an error, never an empty space.
/// </summary>
public sealed partial class LetterTemplates
{
    static readonly FluidParser Parser = new();
    static readonly MarkdownPipeline Markdown = new MarkdownPipelineBuilder().DisableHtml().Build();
    readonly TemplateOptions options = new() { StrictVariables = true, StrictFilters = true };
    readonly Dictionary<string, IFluidTemplate> templates = [];

    public LetterTemplates()
    {
        var assembly = typeof(LetterTemplates).Assembly;
        foreach (var name in assembly.GetManifestResourceNames().Where(n => n.EndsWith(".liquid", StringComparison.Ordinal)))
        {
            using var reader = new StreamReader(assembly.GetManifestResourceStream(name)!);
            templates[name.Split('.')[^2]] = Parser.Parse(reader.ReadToEnd());
        }
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
            body, "<p style=\"margin:24px 0\"><a style=\"background:#0E5A52;color:#ffffff;padding:12px "
                + "20px;border-radius:6px;text-decoration:none;font-weight:600\" href=\"$1\">$2</a></p>");
        var site = System.Net.WebUtility.HtmlEncode((string)model["site"]);
        var logo = model.TryGetValue("logo_link", out var address)
            ? $"<img src=\"{System.Net.WebUtility.HtmlEncode((string)address)}\" alt=\"\" height=\"28\" style=\"vertical-align:middle;margin-right:9px\">" : "";
        var html = $"""
            <!doctype html>
            <html lang="en"><head><meta charset="utf-8"><meta name="viewport"
                content="width=device-width,initial-scale=1"><title>{System.Net.WebUtility.HtmlEncode(subject)}</title></head>
            <body style="margin:0;background:#FBF8F1;color:#1F2A30;font-family:Figtree,Segoe UI,Helvetica,Arial,sans-serif;font-size:16px;line-height:1.55">
            <div style="max-width:560px;margin:0 auto;padding:28px 20px">
            <div style="font-family:Fraunces,Georgia,serif;font-size:20px;font-weight:600;padding-bottom:14px;border-bottom:3px solid #F2B632">
            {logo}{site}</div>
            {body}
            </div></body></html>
            """;
        return new(subject, html, AsText(markdown));
    }

    /// <summary>What people wrote is escaped, so that only the template's own signs mean anything.</summary>
    string RenderRaw(string name, IReadOnlyDictionary<string, object> model)
    {
        var context = new TemplateContext(options);
        foreach (var (key, value) in model) context.SetValue(key, Escape(key, value));
        // Every letter ends with where to ask.
        return templates[name].Render(context).TrimEnd() + "\n\n" + templates["_Foot"].Render(context);
    }

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
    static string AsText(string markdown) => Unescape(MarkdownLink().Replace(markdown, "$1:\n$2").Replace("**", "").Replace("\n* ", "\n- "));
    static string Unescape(string text) => Escaped().Replace(text, "$1");

    [GeneratedRegex("<p><strong><a href=\"([^\"]+)\">(.*?)</a></strong></p>")] private static partial Regex ButtonLink();
    [GeneratedRegex(@"(?<!\\)\[((?:\\.|[^\]\\])+)\]\(([^)]+)\)")] private static partial Regex MarkdownLink();
    [GeneratedRegex(@"\\([\\`*_{}\[\]<>#|~!&])")] private static partial Regex Escaped();
    [GeneratedRegex(@"[\\`*_{}\[\]<>#|~!&]")] private static partial Regex MarkdownSigns();
}
