using System.Runtime.CompilerServices;
using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Html;

namespace BrightCircle.Web.Parts;

/// <summary>What stands in the head of every page. All but the title is the same for everybody: it is worked out once.</summary>
public static class PageHead
{
    static readonly string[] Styles =
        ["lib/bootstrap-5.3.9/bootstrap.min.css", "lib/bootstrap-icons-1.13.2/bootstrap-icons.min.css", "css/tokens.css", "css/bright.css", "css/content.css"];

    // One for the files of a build; beside it one for answers that come from no page.
    static readonly ConditionalWeakTable<ResourceAssetCollection, HtmlString> Kept = new();
    static readonly Lazy<HtmlString> Bare = new(() => Same(null));

    /// <summary>What a link to a page shows where it is passed on (the Open Graph protocol).</summary>
    /// <param name="picture">A path of the site; null for none.</param>
    public static IHtmlContent Shared(string siteUrl, string site, string title, string about, string path, string? picture)
    {
        var html = Markup.Of($"<meta property=\"og:title\" content=\"{title}\"><meta property=\"og:site_name\" content=\"{site}\">");
        html.Add($"<meta property=\"og:type\" content=\"website\"><meta property=\"og:url\" content=\"{siteUrl + path}\">");
        if (about.Length > 0) html.Add($"<meta name=\"description\" content=\"{about}\"><meta property=\"og:description\" content=\"{about}\">");
        if (picture is not null) html.Add($"<meta property=\"og:image\" content=\"{siteUrl + picture}\">");
        return html;
    }

    public static IHtmlContent Of(HttpContext http, string title)
    {
        var assets = http.GetEndpoint()?.Metadata.GetMetadata<ResourceAssetCollection>();
        return Markup.Of($"<title>{title}</title>\n{(assets is null ? Bare.Value : Kept.GetValue(assets, Same))}");
    }

    static HtmlString Same(ResourceAssetCollection? assets)
    {
        string Path(string file) => "/" + (assets is null ? file : assets[file]);
        var html = Markup.Of($"<meta charset=\"utf-8\">\n<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n");
        html.Add($"<link rel=\"icon\" href=\"{Path("favicon.svg")}\" type=\"image/svg+xml\">\n");
        html.Add($"<link rel=\"manifest\" href=\"/site.webmanifest\"><link rel=\"apple-touch-icon\" href=\"/site-icon/180.png\">\n");
        foreach (var style in Styles) html.Add($"<link rel=\"stylesheet\" href=\"{Path(style)}\">\n");
        const string htmx = """{"includeIndicatorStyles":false,"allowEval":false,"selfRequestsOnly":true,"disableInheritance":true}""";
        return new(html.Add($"<meta name=\"htmx-config\" content=\"{htmx}\">").ToString());
    }
}
