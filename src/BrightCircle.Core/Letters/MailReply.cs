using System.Text.RegularExpressions;

namespace BrightCircle.Core.Letters;

/// <summary>What somebody says when they answer a letter: without the letter below it, and without their signature.</summary>
public static partial class MailReply
{
    /// <summary>
    /// The words of an answer. What it quotes at its end goes, with the line that says who wrote it; so does what follows the signature’s sign (“-- ”, RFC
    /// 3676,
    /// section 4.3) or a line under which mail programs put the letter that is answered (common practice). What is quoted between the words stays: it is what
    /// they
    /// answer to.
    /// </summary>
    /// <param name="text">Plain text, its lines as they were written.</param>
    public static string Words(string text)
    {
        ArgumentNullException.ThrowIfNull(text);
        var lines = text.ReplaceLineEndings("\n").Split('\n').ToList();
        if (Enumerable.Range(0, lines.Count).FirstOrDefault(i => IsBelow(lines, i), -1) is >= 0 and var below) lines.RemoveRange(below, lines.Count - below);
        var end = Trimmed(lines, lines.Count);
        var quoted = false;
        while (end > 0 && (IsQuoted(lines[end - 1]) || lines[end - 1].Trim().Length == 0))
        {
            quoted |= IsQuoted(lines[end - 1]);
            end--;
        }
        if (quoted) end = WithoutTitle(lines, end);
        lines.RemoveRange(end, lines.Count - end);
        if (lines.FindIndex(l => l is "-- " or "--") is >= 0 and var signed) lines.RemoveRange(signed, lines.Count - signed);
        return string.Join('\n', lines).Trim();
    }

    static bool IsQuoted(string line) => line.StartsWith('>');

    static int Trimmed(List<string> lines, int end)
    {
        while (end > 0 && lines[end - 1].Trim().Length == 0) end--;
        return end;
    }

    /// <summary>The line, or the two or three into which it was broken, that says who wrote what is quoted: it ends with a colon.</summary>
    static int WithoutTitle(List<string> lines, int end)
    {
        end = Trimmed(lines, end);
        if (end == 0 || !lines[end - 1].TrimEnd().EndsWith(':')) return end;
        var from = end;
        while (from > 0 && lines[from - 1].Trim().Length > 0) from--;
        return end - from <= 3 ? from : end - 1;
    }

    /// <summary>Whether everything from a line on is the letter that is answered.</summary>
    static bool IsBelow(List<string> lines, int i) => Ruled().IsMatch(lines[i])
        // A head as of a letter: who, and within a few lines what about.
        || lines[i].StartsWith("From: ", StringComparison.Ordinal) && lines.Skip(i + 1).Take(5).Any(l => l.StartsWith("Subject: ", StringComparison.Ordinal));

    [GeneratedRegex(@"^\s*(-{3,}\s*\S.*\S\s*-{3,}|_{10,})\s*$")] private static partial Regex Ruled();
}
