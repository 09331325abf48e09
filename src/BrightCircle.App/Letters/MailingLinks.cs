using System.Net;
using System.Text.RegularExpressions;

namespace BrightCircle.App.Letters;

/// <summary>The links of a letter to many, in their order: those that lead to a page, here or elsewhere.</summary>
public static partial class MailingLinks
{
    [GeneratedRegex("""(<a\b[^>]*?\bhref=")((?:https?://|/)[^"]*)""", RegexOptions.IgnoreCase)]
    private static partial Regex Link();

    static string To(Match link) => WebUtility.HtmlDecode(link.Groups[2].Value);

    /// <summary>Where they lead, as it is written.</summary>
    public static IReadOnlyList<string> Of(string body) => [.. Link().Matches(body).Select(To)];

    /// <summary>The letter with each of its links leading elsewhere.</summary>
    /// <param name="to">Where, by what is written there and the how-manieth it is.</param>
    public static string Instead(string body, Func<string, int, string> to)
    {
        var n = 0;
        return Link().Replace(body, link => link.Groups[1].Value + WebUtility.HtmlEncode(to(To(link), n++)));
    }

    /// <summary>A link as it leads there from anywhere: a path is one of the site's.</summary>
    public static string Whole(string to, string site) => to is ['/', ..] ? site + to : to;
}
