using System.Globalization;

namespace BrightCircle.Core.Members;

/// <summary>Languages by their two letters of ISO 639-1, with their English names as Unicode CLDR has them.</summary>
public static class Languages
{
    /// <summary>All of them, by name.</summary>
    public static IReadOnlyList<(string Code, string Name)> All { get; } = [.. CultureInfo.GetCultures(CultureTypes.NeutralCultures)
        .Where(c => c.Name.Length == 2 && c.Name.All(char.IsAsciiLetterLower)).Select(c => (c.Name, c.EnglishName)).DistinctBy(c => c.Name)
        .OrderBy(c => c.EnglishName, StringComparer.Ordinal)];

    static readonly Dictionary<string, string> names = All.ToDictionary(c => c.Code, c => c.Name, StringComparer.Ordinal);

    /// <summary>Null for what is no language.</summary>
    public static string? NameOf(string? code) => code is null ? null : names.GetValueOrDefault(code);
}
