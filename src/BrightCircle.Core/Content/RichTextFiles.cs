using System.Globalization;
using System.Net;
using System.Text.RegularExpressions;

namespace BrightCircle.Core.Content;

/// <summary>The files that cleaned rich text shows, and its plain words. A picture names its file as &lt;img data-file="123"&gt;.</summary>
public static partial class RichTextFiles
{
    public static IEnumerable<FileId> In(string html) =>
        DataFile().Matches(html).Select(m => new FileId(long.Parse(m.Groups[1].ValueSpan, CultureInfo.InvariantCulture)));

    public static string Replace(string html, Func<FileId, FileId> other) =>
        DataFile()
            .Replace(
            html, m =>
            $"data-file=\"{other(new(long.Parse(m.Groups[1].ValueSpan, CultureInfo.InvariantCulture))).Value.ToString(CultureInfo.InvariantCulture)}\"");

    /// <summary>Puts in the address at which each picture is to be had now.</summary>
    public static string WithAddresses(string html, Func<FileId, string> addressOf) =>
        DataFile()
            .Replace(
            html, m =>
            $"{m.Value} loading=\"lazy\" src=\"{WebUtility.HtmlEncode(addressOf(new(long.Parse(m.Groups[1].ValueSpan, CultureInfo.InvariantCulture))))}\"");

    /// <summary>The words without the tags; blocks of text on lines of their own.</summary>
    public static string Plain(string html) =>
        string.Join('\n', WebUtility.HtmlDecode(Tag().Replace(BlockEnd().Replace(html, "\n"), ""))
            .Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries));

    [GeneratedRegex("""data-file="(\d{1,18})" """, RegexOptions.CultureInvariant | RegexOptions.IgnorePatternWhitespace)]
    private static partial Regex DataFile();
    [GeneratedRegex(@"</(?:p|div|h\d|li|tr|blockquote|pre|figure|figcaption)>|<br\s*/?>|</t[dh]>", RegexOptions.CultureInvariant | RegexOptions.IgnoreCase)]
    private static partial Regex BlockEnd();
    [GeneratedRegex("<[^>]*>", RegexOptions.CultureInvariant)]
    private static partial Regex Tag();
}
