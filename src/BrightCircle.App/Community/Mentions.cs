using AngleSharp.Dom;
using AngleSharp.Html.Parser;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Community;

/// <summary>People who are named in what is said, with an @ before their name. Only those who write in the same thread can be: nobody learns who else is
/// here by trying names.</summary>
public sealed class Mentions(BrightContext db)
{
    /// <summary>So many of those who wrote in a thread can be named.</summary>
    const int Most = 300;

    sealed record Writer(long? Account, string Name);

    async Task<IReadOnlyList<Writer>> Writers(long thread, CancellationToken ct) => await db.TalkPosts.Where(p => p.ThreadId == thread && p.GoneAt == null)
        .GroupBy(p => new { p.AccountId, p.Name }).OrderByDescending(g => g.Max(p => p.Id)).Take(Most)
        .Select(g => new Writer(g.Key.AccountId, g.Key.Name)).ToListAsync(ct);

    /// <summary>Marks the names in words as they are kept.</summary>
    public async Task<string> Mark(long thread, string body, CancellationToken ct)
    {
        if (!body.Contains('@')) return body;
        var names = (await Writers(thread, ct)).Select(w => w.Name).ToArray();
        var document = new HtmlParser().ParseDocument($"<body>{body}</body>");
        var kept = document.Body!;
        foreach (var text in kept.Descendants<IText>().Where(t => t.ParentElement?.Closest("a, code, pre, span") is null).ToArray())
        {
            var parts = MentionRule.In(text.Data, names);
            if (parts.All(p => p.Name is null)) continue;
            foreach (var part in parts)
            {
                INode node = part.Name is null ? document.CreateTextNode(part.Text) : Named(document, part.Text);
                text.Parent!.InsertBefore(node, text);
            }
            text.Remove();
        }
        var marked = kept.InnerHtml;
        return marked.Length > TalkPost.MostBody ? body : marked;
    }

    /// <summary>Words as they are kept, with the names in them as they were written: nothing else in them has such a mark.</summary>
    internal static string Unmarked(string body) =>
        body.Replace("<span class=\"named\">", "", StringComparison.Ordinal).Replace("</span>", "", StringComparison.Ordinal);

    static IElement Named(IDocument document, string name)
    {
        var span = document.CreateElement("span");
        (span.ClassName, span.TextContent) = ("named", name);
        return span;
    }

    /// <summary>Whoever is named in a post hears how its thread goes on, unless they said that they want to hear nothing of it.</summary>
    internal async Task Follow(TalkPost post, CancellationToken ct)
    {
        if (!post.Body.Contains("class=\"named\"", StringComparison.Ordinal)) return;
        var writers = await Writers(post.ThreadId, ct);
        var spans = new HtmlParser().ParseDocument($"<body>{post.Body}</body>").QuerySelectorAll("span.named").Select(s => s.TextContent);
        var those = spans.SelectMany(s => MentionRule.In(s, [.. writers.Select(w => w.Name)])).Select(p => p.Name).OfType<string>().ToHashSet();
        foreach (var account in writers.Where(w => w.Account is not null && those.Contains(w.Name)).Select(w => w.Account!.Value).Distinct())
            await db.Database.ExecuteSqlAsync($"""
                insert into talk_follows (account_id, thread_id, follows) values ({account}, {post.ThreadId}, true) on conflict do nothing
                """, ct);
    }
}
