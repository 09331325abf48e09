using BrightCircle.Core.Members;

namespace BrightCircle.Core.Community;

/// <summary>A stretch of what was written.</summary>
/// <param name="Name">Whose name it is, with the @ before it; null where it is nobody’s.</param>
public readonly record struct MentionPart(string Text, string? Name);

/// <summary>Who is named in what somebody wrote.</summary>
public static class MentionRule
{
    /// <summary>
    /// Takes a text apart at the names in it. A name is written with an @ before it, at the beginning of a word: the whole of it, or its first word where
    /// nobody else of those has the same. The longest that fits counts; case doesn't matter.
    /// </summary>
    /// <param name="names">Who can be named.</param>
    public static IReadOnlyList<MentionPart> In(string text, IReadOnlyCollection<string> names)
    {
        var parts = new List<MentionPart>();
        var (from, at) = (0, 0);
        while ((at = text.IndexOf('@', at)) >= 0)
        {
            if ((at == 0 || !IsWord(text[at - 1])) && Longest(text, at + 1, names) is var (length, name))
            {
                if (at > from) parts.Add(new(text[from..at], null));
                parts.Add(new(text[at..(at + 1 + length)], name));
                from = at = at + 1 + length;
            }
            else at++;
        }
        if (from < text.Length || parts.Count == 0) parts.Add(new(text[from..], null));
        return parts;
    }

    static (int Length, string Name)? Longest(string text, int at, IReadOnlyCollection<string> names)
    {
        bool Fits(string word) => word.Length > 0 && string.Compare(text, at, word, 0, word.Length, StringComparison.OrdinalIgnoreCase) == 0
            && (at + word.Length == text.Length || !IsWord(text[at + word.Length]));
        if (names.Distinct().Where(Fits).MaxBy(n => n.Length) is { } whole) return (whole.Length, whole);
        var first = names.Distinct().Where(n => Fits(Member.FirstNameOf(n))).ToArray();
        return first.Length == 1 ? (Member.FirstNameOf(first[0]).Length, first[0]) : null;
    }

    static bool IsWord(char c) => char.IsLetterOrDigit(c);
}
