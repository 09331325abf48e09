namespace BrightCircle.App;

/// <summary>Patterns for ILIKE in which what somebody typed stands for itself.</summary>
public static class Like
{
    public const string Escape = "\\";

    /// <summary>Anything that contains the words.</summary>
    public static string Containing(string words) => "%" + Exactly(words) + "%";

    /// <summary>The words and nothing else, large or small letters alike.</summary>
    public static string Exactly(string words) => words.Trim().Replace("\\", "\\\\", StringComparison.Ordinal)
        .Replace("%", "\\%", StringComparison.Ordinal).Replace("_", "\\_", StringComparison.Ordinal);
}
