using System.Text.RegularExpressions;

namespace BrightCircle.Core.Content;

/// <summary>A place where videos are kept, and how a link to one becomes the address it is shown from in the page.</summary>
/// <param name="Host">The host of the link: "videos.example". Hosts below it count too.</param>
/// <param name="Link">What the link looks like after the host, with {id} where the video's name stands: "/watch?v={id}", "/v/{id}".</param>
/// <param name="Embed">The address it is shown from, with https: "https://player.videos.example/embed/{id}".</param>
public sealed partial record VideoHost(string Host, string Link, string Embed)
{
    const string Id = "{id}";

    /// <summary>None is known from the start: which ones are allowed is the owner's word.</summary>
    public static IReadOnlyList<VideoHost> Default { get; } = [];

    /// <summary>More of them nobody needs.</summary>
    public const int Most = 40;

    /// <summary>What is wrong with it, or null.</summary>
    public string? Wrong() => this switch
    {
        { Host.Length: 0 or > 200 } => "Each line needs the host of the links, such as videos.example.",
        _ when Uri.CheckHostName(Host) != UriHostNameType.Dns
            || !Host.Contains('.') => $"“{Host}” isn’t a host. It is what stands between https:// and the next slash.",
        _ when !Link.StartsWith('/') || !Link.Contains(Id)
            || Link.Length > 200 => $"The link of {Host} begins with a slash and has {Id} where the video’s name stands.",
        _ when !Embed.Contains(Id) || Embed.Length > 300 || !Uri.TryCreate(Embed.Replace(Id, "x"), UriKind.Absolute, out var to)
            || to.Scheme != Uri.UriSchemeHttps
            => $"The address {Host} is shown from begins with https:// and has {Id} where the video’s name stands.",
        _ => null,
    };

    /// <summary>The address a link is shown from in the page; null where no line fits it, and it opens in a window of its own.</summary>
    public static string? EmbedOf(string? url, IEnumerable<VideoHost> hosts)
    {
        if (!Uri.TryCreate(url, UriKind.Absolute, out var link) || link.Scheme is not ("https" or "http")) return null;
        foreach (var h in hosts)
        {
            if (h.Wrong() is not null) continue;
            // A link, or the embed address itself as it comes out of an embed code.
            if (IsBelow(link.Host, h.Host) && Find(link, h.Link) is { } id) return h.Embed.Replace(Id, id);
            var embed = new Uri(h.Embed.Replace(Id, "x"));
            if (link.Scheme == "https" && link.Host == embed.Host && Find(link, h.Embed[h.Embed.IndexOf('/', 8)..]) is { } own) return h.Embed.Replace(Id, own);
        }
        return null;
    }

    static bool IsBelow(string host, string of) => host.Equals(of, StringComparison.OrdinalIgnoreCase)
        || host.EndsWith("." + of, StringComparison.OrdinalIgnoreCase);

    /// <summary>The video's name in a link by a pattern; in the path, or in one part of the query wherever it stands.</summary>
    static string? Find(Uri link, string pattern)
    {
        var at = pattern.IndexOf('?');
        var path = at < 0 ? pattern : pattern[..at];
        if (at < 0) return Name(link.AbsolutePath, path);
        if (path.Contains(Id)) return Name(link.AbsolutePath, path);
        if (link.AbsolutePath.TrimEnd('/') != path.TrimEnd('/')) return null;
        var wanted = pattern[(at + 1)..].Split('&').First(p => p.Contains(Id));
        return link.Query.TrimStart('?').Split('&').Select(p => Name(p, wanted)).FirstOrDefault(n => n is not null);
    }

    static string? Name(string text, string pattern)
    {
        var i = pattern.IndexOf(Id, StringComparison.Ordinal);
        var (before, after) = (pattern[..i], pattern[(i + Id.Length)..]);
        if (!text.StartsWith(before, StringComparison.Ordinal)) return null;
        var m = Names().Match(text[before.Length..]);
        if (!m.Success) return null;
        var rest = text[(before.Length + m.Length)..];
        return rest.Length == 0 || rest == "/" || after.Length > 0 && rest.StartsWith(after, StringComparison.Ordinal) ? m.Value : null;
    }

    /// <summary>Of an embed code only the address counts: all else in it is thrown away.</summary>
    public static string AddressIn(string typed)
    {
        var text = typed.Trim();
        if (!text.StartsWith('<')) return text;
        return FrameAddress().Match(text) is { Success: true } m ? System.Net.WebUtility.HtmlDecode(m.Groups["url"].Value).Trim() is var url
            && url.StartsWith("//", StringComparison.Ordinal) ? "https:" + url : url : text;
    }

    [GeneratedRegex("^[A-Za-z0-9_-]{1,64}")]
    private static partial Regex Names();

    [GeneratedRegex("""<(?:iframe|video|source|audio)\b[^>]*?\ssrc\s*=\s*(?:"(?<url>[^"]*)"|'(?<url>[^']*)')""",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant)]
    private static partial Regex FrameAddress();
}
