using System.Text;
using AngleSharp.Dom;
using AngleSharp.Html.Parser;

namespace BrightCircle.App.Content;

/// <summary>
/// Cleaned rich text as Markdown, where Markdown can say it: whoever calls reads the result back and keeps the HTML where it differs.
/// </summary>
public static class HtmlToMarkdown
{
    public static string Write(string html)
    {
        var body = new HtmlParser().ParseDocument(html).Body!;
        var b = new StringBuilder();
        Blocks(body, b, "");
        return b.ToString().Trim() + "\n";
    }

    static void Blocks(INode parent, StringBuilder b, string indent)
    {
        var loose = new StringBuilder();
        void Flush()
        {
            var text = loose.ToString().Trim();
            loose.Clear();
            if (text.Length > 0) b.Append(indent).Append(text.Replace("\n", "\n" + indent, StringComparison.Ordinal)).Append("\n\n");
        }
        foreach (var node in parent.ChildNodes)
        {
            if (node is not IElement e || IsInline(e)) { loose.Append(Inline(node)); continue; }
            Flush();
            switch (e.LocalName)
            {
                case "h1" or "h2" or "h3" or "h4": b.Append(indent).Append('#', e.LocalName[1] - '0').Append(' ').Append(Inlines(e)).Append("\n\n"); break;
                case "p" or "div": b.Append(indent).Append(Inlines(e).Trim().Replace("\n", "\n" + indent, StringComparison.Ordinal)).Append("\n\n"); break;
                case "hr": b.Append(indent).Append("---\n\n"); break;
                case "blockquote":
                    var inner = new StringBuilder();
                    Blocks(e, inner, "");
                    b.Append(indent).Append("> ").Append(inner.ToString().Trim().Replace("\n", "\n" + indent + "> ", StringComparison.Ordinal)).Append("\n\n");
                    break;
                case "pre":
                    b.Append(indent).Append("```\n").Append(indent)
                    .Append(e.TextContent.TrimEnd('\n').Replace("\n", "\n" + indent, StringComparison.Ordinal)).Append('\n').Append(indent).Append("```\n\n");
                    break;
                case "ul" or "ol": List(e, b, indent); b.Append('\n'); break;
                default: b.Append(indent).Append(e.OuterHtml).Append("\n\n"); break;
            }
        }
        Flush();
    }

    static void List(IElement list, StringBuilder b, string indent)
    {
        var n = 1;
        foreach (var item in list.Children.Where(c => c.LocalName == "li"))
        {
            var mark = list.LocalName == "ol" ? $"{n++}. " : "* ";
            var text = new StringBuilder();
            foreach (var child in item.ChildNodes.Where(c => c is not IElement { LocalName: "ul" or "ol" }))
                text.Append(child is IElement { LocalName: "p" } p ? Inlines(p) : Inline(child));
            b.Append(indent).Append(mark).Append(text.ToString().Trim().Replace("\n", "\n" + indent + new string(' ', mark.Length), StringComparison.Ordinal))
                .Append('\n');
            foreach (var sub in item.Children.Where(c => c.LocalName is "ul" or "ol")) List(sub, b, indent + new string(' ', mark.Length));
        }
    }

    static bool IsInline(IElement e) => e.LocalName is "strong" or "b" or "em" or "i" or "a" or "code" or "br" or "del" or "s" or "u" or "sub" or "sup";

    static string Inlines(INode node) => string.Concat(node.ChildNodes.Select(Inline));

    static string Inline(INode node) => node switch
    {
        IText t => Escape(t.Text),
        IElement { LocalName: "strong" or "b" } e => $"**{Inlines(e)}**",
        IElement { LocalName: "em" or "i" } e => $"*{Inlines(e)}*",
        IElement { LocalName: "code" } e => $"`{e.TextContent}`",
        IElement { LocalName: "br" } => "  \n",
        IElement { LocalName: "a" } e => $"[{Inlines(e)}]({e.GetAttribute("href")})",
        IElement e => e.OuterHtml,
        _ => "",
    };

    static string Escape(string text)
    {
        var b = new StringBuilder(text.Length);
        foreach (var c in text.Replace('\n', ' '))
        {
            if (c is '\\' or '*' or '_' or '`' or '[' or ']' or '<' or '#' or '|') b.Append('\\');
            b.Append(c == '&' ? "&amp;" : c.ToString());
        }
        return b.ToString();
    }
}
