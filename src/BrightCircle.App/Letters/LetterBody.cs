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
        if (!html.Contains("<br", StringComparison.Ordinal) && !html.Contains("<a", StringComparison.Ordinal)) return html;
        var document = new HtmlParser().ParseDocument($"<body>{html}</body>");
        foreach (var block in document.Body!.Children.Where(e => e.LocalName is "div" or "p" && e.Attributes.Length == 0).ToArray())
        {
            Straighten(block);
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

    /// <summary>Ends of lines that an editor put within bold words or a link stand after them, and what is bold within a link stands around it.</summary>
    static void Straighten(IElement block)
    {
        while (block.QuerySelectorAll("a, strong, em, del, code").FirstOrDefault(e => e.LastChild is IElement { LocalName: "br" }
            || e.FirstChild is IElement { LocalName: "br" }) is { } inline)
            if (inline.LastChild is IElement { LocalName: "br" } last) inline.After(last);
            else inline.Before((IElement)inline.FirstChild!);
        foreach (var link in block.QuerySelectorAll("a").Where(a => a is { ChildNodes.Length: 1, FirstElementChild.LocalName: "strong" }).ToArray())
        {
            var bold = link.FirstElementChild!;
            link.InnerHtml = bold.InnerHtml;
            link.Replace(bold);
            bold.InnerHtml = "";
            bold.AppendChild(link);
        }
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
