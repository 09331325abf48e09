namespace BrightCircle.App;

/// <summary>What comes from outside has no length of its own: it is cut to what is kept.</summary>
public static class Bounded
{
    /// <summary>The text, cut with a sign where it is longer, and without control characters.</summary>
    public static string To(string? text, int most)
    {
        if (string.IsNullOrEmpty(text)) return "";
        var clean = text.AsSpan().ContainsAnyInRange('\0', '\u001f') ? string.Create(text.Length, text, (to, from) =>
        {
            for (var i = 0; i < from.Length; i++) to[i] = from[i] is '\n' or '\t' || from[i] > '\u001f' ? from[i] : ' ';
        }) : text;
        return clean.Length <= most ? clean : clean[..(most - 1)] + "…";
    }
}
