using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using BrightCircle.Core.Content;

namespace BrightCircle.App.Content;

/// <summary>The beginning of a lesson, for those who may not open it.</summary>
public static class LessonExtract
{
    /// <summary>
    /// Whole paragraphs from the first text on, as many words as the doorway shows and never more than half of the lesson's text; the last one is cut at a
    /// word.
    /// Pictures, links' addresses and everything after something that isn't text stay inside.
    /// </summary>
    /// <returns>HTML, cleaned before; empty where the lesson begins with something else.</returns>
    public static string Of(IReadOnlyList<Block> blocks, DoorwayRule rule)
    {
        var left = rule.ShownOf(blocks.OfType<Block.Text>().Sum(t => Words(RichTextFiles.Plain(t.Html)).Length));
        var shown = new System.Text.StringBuilder();
        foreach (var text in blocks.TakeWhile(b => b is Block.Text).Cast<Block.Text>())
        {
            var body = new HtmlParser().ParseDocument(text.Html).Body!;
            foreach (var e in body.QuerySelectorAll("img, figure, table").ToArray()) e.Remove();
            foreach (var a in body.QuerySelectorAll("a").ToArray()) a.Replace([.. a.ChildNodes]);
            foreach (var part in body.Children.ToArray())
            {
                if (left <= 0) return shown.ToString();
                var words = Words(part.TextContent);
                if (words.Length == 0) continue;
                if (words.Length > left) part.TextContent = string.Join(' ', words.Take(left)) + " …";
                left -= words.Length;
                shown.Append(part.OuterHtml);
            }
        }
        return shown.ToString();
    }

    static string[] Words(string text) => text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);
}
