using System.Globalization;
using System.Text.Json;
using AngleSharp.Html.Dom;
using AngleSharp.Html.Parser;
using Ganss.Xss;
using Markdig;

namespace BrightCircle.App.Content;

/// <summary>Rich text as members may see it: what the editor makes is kept, everything else is taken out.</summary>
public sealed class RichText
{
    static readonly MarkdownPipeline Pipeline = new MarkdownPipelineBuilder().UsePipeTables().Build();
    readonly HtmlSanitizer sanitizer;

    public RichText()
    {
        sanitizer = new();
        sanitizer.AllowedTags.Clear();
        const string tags = "p br div h1 h2 h3 h4 strong b em i u del s a ul ol li blockquote pre code figure figcaption img hr "
            + "table caption thead tbody tr th td sub sup";
        foreach (var tag in tags.Split(' ')) sanitizer.AllowedTags.Add(tag);
        sanitizer.AllowedAttributes.Clear();
        foreach (var attribute in new[] { "href", "alt", "title", "width", "height", "colspan", "rowspan", "data-file" })
            sanitizer.AllowedAttributes.Add(attribute);
        sanitizer.AllowedCssProperties.Clear();
        sanitizer.AllowedSchemes.Clear();
        foreach (var scheme in new[] { "https", "http", "mailto" }) sanitizer.AllowedSchemes.Add(scheme);
        sanitizer.PostProcessNode += (_, e) =>
        {
            if (e.Node is IHtmlAnchorElement a && a.GetAttribute("href") is { } href && href.StartsWith("http", StringComparison.OrdinalIgnoreCase))
                a.SetAttribute("rel", "noopener nofollow");
            // A picture is one of the site's own files; its address is put in when it is shown.
            if (e.Node is IHtmlImageElement img && !(
                long.TryParse(img.GetAttribute("data-file"), NumberStyles.None, CultureInfo.InvariantCulture, out var n) && n > 0)) img.Remove();
        };
    }

    /// <summary>What the editor sent, as it is kept.</summary>
    public string Clean(string html) => sanitizer.Sanitize(FromEditor(html)).Trim();

    /// <summary>Rich text that doesn't come from the editor, as it is kept.</summary>
    public string CleanStored(string html) => sanitizer.Sanitize(html).Trim();

    /// <summary>Markdown as HTML, not yet cleaned.</summary>
    public string ToHtml(string markdown) => Markdown.ToHtml(markdown, Pipeline).Trim();

    public string FromMarkdown(string markdown) => sanitizer.Sanitize(Markdown.ToHtml(markdown, Pipeline)).Trim();

    /// <summary>
    /// The editor keeps tables and pictures only as attachments. Here they become what they are: an attachment with content is its table,
    /// one with a file's number is its picture with its caption.
    /// </summary>
    static string FromEditor(string html)
    {
        if (!html.Contains("data-trix-attachment", StringComparison.Ordinal)) return html;
        var document = new HtmlParser().ParseDocument(html);
        foreach (var figure in document.QuerySelectorAll("figure[data-trix-attachment]").ToArray())
        {
            JsonElement facts;
            try
            {
                facts = JsonDocument.Parse(figure.GetAttribute("data-trix-attachment")!).RootElement;
            }
            catch (JsonException)
            {
                figure.Remove();
                continue;
            }
            if (Text(facts, "content") is { Length: > 0 } content && content.Contains("<table", StringComparison.OrdinalIgnoreCase))
                figure.OuterHtml = new HtmlParser().ParseDocument(content).QuerySelector("table")?.OuterHtml ?? "";
            else if (Text(facts, "file") is { Length: > 0 } file)
            {
                var caption = (figure.GetAttribute("data-trix-attributes") is { } a
                    && Text(Parse(a), "caption") is { } c ? c : figure.QuerySelector("figcaption:not(.attachment__caption--blank)")?.TextContent ?? "").Trim();
                figure.OuterHtml =
                    $"<figure><img data-file=\"{Enc(file)}\" "
                    + $"alt=\"{Enc(Text(facts, "alt") ?? caption)}\">{(caption.Length > 0 ? $"<figcaption>{Enc(caption)}</figcaption>" : "")}</figure>";
            }
            else figure.Remove();
        }
        return document.Body!.InnerHtml;
    }

    /// <summary>What is kept, as the editor takes it: tables and pictures as attachments.</summary>
    public static string ForEditor(string html, Func<long, string> addressOf)
    {
        if (!html.Contains("<table", StringComparison.OrdinalIgnoreCase) && !html.Contains("data-file", StringComparison.Ordinal)) return html;
        var document = new HtmlParser().ParseDocument(html);
        foreach (var table in document.QuerySelectorAll("table").ToArray())
            table.OuterHtml = Attachment(new { contentType = "text/html", content = table.OuterHtml }, null);
        foreach (var img in document.QuerySelectorAll("img[data-file]").ToArray())
        {
            var figure = img.Closest("figure");
            var caption = figure?.QuerySelector("figcaption")?.TextContent.Trim() ?? "";
            var id = img.GetAttribute("data-file")!;
            var made =
                Attachment(new
                {
                    contentType = "image/webp",
                    file = id,
                    url = addressOf(long.Parse(id, CultureInfo.InvariantCulture)),
                    alt = img.GetAttribute("alt") ?? ""
                }, caption.Length > 0 ? new { caption } : null);
            if (figure is not null) figure.OuterHtml = made;
            else img.OuterHtml = made;
        }
        return document.Body!.InnerHtml;
    }

    static string Attachment(object facts, object? attributes) =>
        $"<figure data-trix-attachment=\"{Enc(JsonSerializer.Serialize(facts))}\"{(attributes is null ? "" : $" "
        + $"data-trix-attributes=\"{Enc(JsonSerializer.Serialize(attributes))}\"")}></figure>";

    static string Enc(string s) => System.Net.WebUtility.HtmlEncode(s);

    static JsonElement Parse(string json)
    {
        try { return JsonDocument.Parse(json).RootElement; }
        catch (JsonException) { return default; }
    }

    static string? Text(JsonElement e, string name) => e.ValueKind == JsonValueKind.Object
        && e.TryGetProperty(name, out var v) ? v.ValueKind == JsonValueKind.String ? v.GetString() : v.ToString() : null;
}
