using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace BrightCircle.Core.Content;

/// <param name="Start">Milliseconds from the beginning.</param>
/// <param name="End">Milliseconds, after <paramref name="Start"/>.</param>
/// <param name="Text">Its words, without markup.</param>
public sealed record Cue(long Start, long End, string Text);

/// <summary>Captions as WebVTT (W3C): as much of it as captions need.</summary>
/// <param name="Wrong">What is wrong, in words; null where nothing is.</param>
/// <param name="WrongLine">On which line, from 1.</param>
public sealed partial record WebVtt(IReadOnlyList<Cue> Cues, string? Wrong = null, int WrongLine = 0)
{
    public bool Ok => Wrong is null;

    /// <summary>Reads a caption file: the signature line, then cues, each with its times; notes, styles and regions are passed over.</summary>
    public static WebVtt Read(string text)
    {
        var lines = text.TrimStart('\uFEFF').Replace("\r\n", "\n", StringComparison.Ordinal).Replace('\r', '\n').Split('\n');
        if (!(lines[0] == "WEBVTT" || lines[0].StartsWith("WEBVTT ", StringComparison.Ordinal) || lines[0].StartsWith("WEBVTT\t", StringComparison.Ordinal)))
            return new([], "a caption file begins with the line WEBVTT.", 1);
        var cues = new List<Cue>();
        var i = 1;
        while (i < lines.Length && lines[i].Length > 0 && !lines[i].Contains("-->", StringComparison.Ordinal)) i++;
        while (i < lines.Length)
        {
            if (lines[i].Trim().Length == 0) { i++; continue; }
            if (lines[i].StartsWith("NOTE", StringComparison.Ordinal) || lines[i].StartsWith("STYLE", StringComparison.Ordinal)
                || lines[i].StartsWith("REGION", StringComparison.Ordinal))
            {
                while (i < lines.Length && lines[i].Length > 0) i++;
                continue;
            }
            if (!lines[i].Contains("-->", StringComparison.Ordinal)) i++;
            if (i >= lines.Length || Times().Match(lines[i]) is not { Success: true } m)
                return new(cues, "here the times of a cue should stand, like 00:01.000 --> 00:04.000.", Math.Min(i, lines.Length - 1) + 1);
            var (start, end) = (Milliseconds(m.Groups["a"].Value), Milliseconds(m.Groups["b"].Value));
            if (end <= start) return new(cues, "this cue ends before it begins.", i + 1);
            if (cues.Count > 0 && start < cues[^1].Start) return new(cues, "this cue begins before the one above it.", i + 1);
            var words = new StringBuilder();
            for (i++; i < lines.Length && lines[i].Length > 0; i++)
            {
                if (words.Length > 0) words.Append(' ');
                words.Append(System.Net.WebUtility.HtmlDecode(Tag().Replace(lines[i], "")));
            }
            cues.Add(new(start, end, words.ToString().Trim()));
        }
        return new(cues);
    }

    /// <summary>Writes cues; reading them again gives the same.</summary>
    public static string Write(IEnumerable<Cue> cues)
    {
        var b = new StringBuilder("WEBVTT\n");
        foreach (var c in cues)
            b.Append('\n').Append(Time(c.Start)).Append(" --> ").Append(Time(c.End)).Append('\n')
                .Append(c.Text.Replace("&", "&amp;", StringComparison.Ordinal).Replace("<", "&lt;", StringComparison.Ordinal)
                .Replace(">", "&gt;", StringComparison.Ordinal)).Append('\n');
        return b.ToString();
    }

    /// <summary>A transcript whose lines begin with their times ("1:05 …"), from the cues.</summary>
    public string Transcript() => string.Join('\n', Cues.Select(c => $"{Clock(c.Start / 1000)} {c.Text}"));

    /// <summary>A transcript's lines with the second each begins at, where it says.</summary>
    public static IReadOnlyList<(int? Second, string Text)> Lines(string transcript) =>
        [.. transcript.Split('\n', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Select(line =>
            LineTime().Match(line) is { Success: true } m ? ((int?)(Milliseconds(m.Groups["t"].Value + ".000") / 1000), line[m.Length..].Trim())
                : (null, line))];

    /// <summary>"0:07", "12:40", "1:02:09".</summary>
    public static string Clock(long seconds) => seconds >= 3600
        ? string.Create(CultureInfo.InvariantCulture, $"{seconds / 3600}:{seconds / 60 % 60:00}:{seconds % 60:00}")
        : string.Create(CultureInfo.InvariantCulture, $"{seconds / 60}:{seconds % 60:00}");

    static string Time(long ms) => string.Create(CultureInfo.InvariantCulture,
        $"{ms / 3_600_000:00}:{ms / 60_000 % 60:00}:{ms / 1000 % 60:00}.{ms % 1000:000}");

    static long Milliseconds(string time)
    {
        var parts = time.Split(':', '.');
        var n = parts.Select(p => long.Parse(p, CultureInfo.InvariantCulture)).ToArray();
        return n.Length == 4 ? ((n[0] * 60 + n[1]) * 60 + n[2]) * 1000 + n[3] : (n[0] * 60 + n[1]) * 1000 + n[2];
    }

    [GeneratedRegex(@"^\s*(?<a>(?:\d{2,}:)?[0-5]\d:[0-5]\d\.\d{3})\s+-->\s+(?<b>(?:\d{2,}:)?[0-5]\d:[0-5]\d\.\d{3})(?:\s.*)?$", RegexOptions.CultureInvariant)]
    private static partial Regex Times();
    [GeneratedRegex("<[^>]*>", RegexOptions.CultureInvariant)]
    private static partial Regex Tag();
    [GeneratedRegex(@"^(?<t>(?:\d{1,2}:)?\d{1,3}:[0-5]\d)(?=\s)", RegexOptions.CultureInvariant)]
    private static partial Regex LineTime();
}
