using System.Net;
using System.Text.RegularExpressions;

namespace BrightCircle.App.Letters;

/// <summary>The links of a letter to many, in their order: those that lead to a page, here or elsewhere.</summary>
public static partial class MailingLinks
{
    [GeneratedRegex("(?<=<a\\b[^>]*\\bhref=\")(?:https?://|/)[^\"]*(?=\")", RegexOptions.IgnoreCase)]
    private static partial Regex Href();

    /// <summary>Where they lead, as it is written.</summary>
    public static IReadOnlyList<string> Of(string body) => [.. Href().Matches(body).Select(m => WebUtility.HtmlDecode(m.Value))];

    /// <summary>The letter with each of its links leading elsewhere.</summary>
    /// <param name="to">Where, by the how-manieth it is.</param>
    public static string Instead(string body, Func<int, string> to)
    {
        var n = 0;
        return Href().Replace(body, _ => WebUtility.HtmlEncode(to(n++)));
    }
}
