using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Html;

namespace BrightCircle.Web.Parts;

/// <summary>What stands in the head of every page. All but the title is the same for everybody: it is worked out once.</summary>
public static class PageHead
{
    static readonly string[] Styles =
        ["lib/bootstrap-5.3.9/bootstrap.min.css", "lib/bootstrap-icons-1.13.2/bootstrap-icons.min.css", "css/tokens.css", "css/bright.css", "css/content.css"];

    static (ResourceAssetCollection? Assets, IHtmlContent Html) kept = (null, Markup.Nothing);

    public static IHtmlContent Of(HttpContext http, string title)
    {
        var assets = http.GetEndpoint()?.Metadata.GetMetadata<ResourceAssetCollection>();
        var known = kept;
        if (known.Assets is null || known.Assets != assets && assets is not null) kept = known = (assets, Same(assets));
        return Markup.Of($"<title>{title}</title>\n{known.Html}");
    }

    static HtmlString Same(ResourceAssetCollection? assets)
    {
        string Path(string file) => "/" + (assets is null ? file : assets[file]);
        var html = Markup.Of($"<meta charset=\"utf-8\">\n<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n");
        html.Add($"<link rel=\"icon\" href=\"{Path("favicon.svg")}\" type=\"image/svg+xml\">\n");
        foreach (var style in Styles) html.Add($"<link rel=\"stylesheet\" href=\"{Path(style)}\">\n");
        const string htmx = """{"includeIndicatorStyles":false,"allowEval":false,"selfRequestsOnly":true,"disableInheritance":true}""";
        return new(html.Add($"<meta name=\"htmx-config\" content=\"{htmx}\">").ToString());
    }
}
