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
        foreach (var tag in "p br div h1 h2 h3 h4 strong b em i u del s a ul ol li blockquote pre code figure figcaption img hr table thead tbody tr th td sub sup".Split(' ')) sanitizer.AllowedTags.Add(tag);
        sanitizer.AllowedAttributes.Clear();
        foreach (var attribute in new[] { "href", "src", "alt", "title", "width", "height", "colspan", "rowspan" }) sanitizer.AllowedAttributes.Add(attribute);
        sanitizer.AllowedCssProperties.Clear();
        sanitizer.AllowedSchemes.Clear();
        foreach (var scheme in new[] { "https", "http", "mailto" }) sanitizer.AllowedSchemes.Add(scheme);
        sanitizer.PostProcessNode += (_, e) =>
        {
            if (e.Node is AngleSharp.Html.Dom.IHtmlAnchorElement a && a.GetAttribute("href") is { } href && href.StartsWith("http", StringComparison.OrdinalIgnoreCase)) a.SetAttribute("rel", "noopener nofollow");
        };
    }

    public string Clean(string html) => sanitizer.Sanitize(html).Trim();

    public string FromMarkdown(string markdown) => Clean(Markdown.ToHtml(markdown, Pipeline));
}
