using System.Text.RegularExpressions;

namespace BrightCircle.Core.Community;

/// <summary>Why something that was written waits until the team has seen it.</summary>
public enum HoldReason
{
    /// <summary>Nothing of theirs stands in any space yet.</summary>
    FirstPost,
    /// <summary>It has a link, and whoever wrote it is new.</summary>
    Link,
    /// <summary>It has one of the words the owner named.</summary>
    Word,
}

/// <summary>What waits until the team has seen it. What the team writes never does.</summary>
/// <param name="FirstPosts">What somebody writes as the first thing.</param>
/// <param name="Links">What has a link, of those of whom fewer than <see cref="KnownAfter"/> posts stand.</param>
/// <param name="Words">Words and phrases, each in a line of its own.</param>
public sealed record HoldRules(bool FirstPosts = false, bool Links = false, IReadOnlyList<string>? Words = null)
{
    public IReadOnlyList<string> Words { get; init; } = Words ?? [];

    public const int KnownAfter = 3, MostWords = 100, MostWord = 40;

    public static HoldRules None { get; } = new();

    /// <param name="text">What was written, as plain text.</param>
    /// <param name="hasLink">It leads somewhere.</param>
    /// <param name="standing">So many posts of whoever wrote it stand already.</param>
    /// <returns>Null where it doesn’t wait.</returns>
    public HoldReason? Of(string text, bool hasLink, int standing) =>
        FirstPosts && standing == 0 ? HoldReason.FirstPost
        : Links && hasLink && standing < KnownAfter ? HoldReason.Link
        : Words.Any(w => Stands(w, text)) ? HoldReason.Word : null;

    /// <summary>As a word of its own, in whichever case; of a phrase, with one space or several between its words.</summary>
    static bool Stands(string words, string text) => Regex.IsMatch(text,
        $@"(?<![\p{{L}}\p{{N}}]){string.Join(@"\s+", words.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(Regex.Escape))}(?![\p{{L}}\p{{N}}])",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant, TimeSpan.FromSeconds(1));

    public bool Equals(HoldRules? other) => other is not null && (FirstPosts, Links) == (other.FirstPosts, other.Links) && Words.SequenceEqual(other.Words);
    public override int GetHashCode() => HashCode.Combine(FirstPosts, Links, Words.Count);
}
