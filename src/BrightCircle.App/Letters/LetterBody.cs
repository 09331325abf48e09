using System.Text.RegularExpressions;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;

namespace BrightCircle.App.Letters;

/// <summary>The rich text of a letter, line by line.</summary>
public static partial class LetterBody
{
    /// <summary>
    /// Editors of text put lines that were typed below each other into one block. Here an empty line parts paragraphs, and what only means something on a
    /// line of its own (a button, a field that is a list or a whole sentence) gets one.
    /// </summary>
    public static string InParagraphs(string html)
    {
        if (!html.Contains("<br", StringComparison.Ordinal)) return html;
        var document = new HtmlParser().ParseDocument($"<body>{html}</body>");
        foreach (var block in document.Body!.Children.Where(e => e.LocalName is "div" or "p" && e.Attributes.Length == 0).ToArray())
        {
            var lines = Lines(block);
            if (lines.Count < 2) continue;
            var paragraphs = new List<string>();
            var open = new List<string>();
            void Close()
            {
                if (open.Count > 0) paragraphs.Add(string.Join("<br>", open));
                open.Clear();
            }
            foreach (var line in lines)
            {
                var alone = StandsAlone().IsMatch(line);
                if (alone || Blank().IsMatch(line)) Close();
                if (alone) paragraphs.Add(line);
                else if (!Blank().IsMatch(line)) open.Add(line);
            }
            Close();
            block.OuterHtml = string.Concat(paragraphs.Select(p => $"<div>{p}</div>"));
        }
        return document.Body.InnerHtml.Trim();
    }

    static List<string> Lines(IElement block)
    {
        var lines = new List<string> { "" };
        foreach (var node in block.ChildNodes)
            if (node is IElement { LocalName: "br" }) lines.Add("");
            else lines[^1] += node is IElement e ? e.OuterHtml : node is IText t ? System.Net.WebUtility.HtmlEncode(t.Data) : "";
        return lines;
    }

    [GeneratedRegex(@"^\s*(?:<strong><a [^>]*>[^<]*</a></strong>|\{\{\s*[a-z][a-z0-9_]*\s*\}\})\s*$")] private static partial Regex StandsAlone();
    [GeneratedRegex(@"^(?:\s|&nbsp;|&#160;)*$")] private static partial Regex Blank();
}
