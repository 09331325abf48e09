using System.Globalization;

namespace BrightCircle.Core.Offer;

/// <summary>Countries by their two letters of ISO 3166-1, with their English names as Unicode CLDR has them.</summary>
public static class Countries
{
    /// <summary>All of them, by name.</summary>
    public static IReadOnlyList<(string Code, string Name)> All { get; } = [.. CultureInfo.GetCultures(CultureTypes.SpecificCultures)
        .Where(c => c.Name.Length > 0).Select(c => new RegionInfo(c.Name))
        .Where(r => r.TwoLetterISORegionName is { Length: 2 } code && code.All(char.IsAsciiLetterUpper))
        .Select(r => (r.TwoLetterISORegionName, r.EnglishName)).DistinctBy(r => r.TwoLetterISORegionName)
        .OrderBy(r => r.EnglishName, StringComparer.Ordinal)];

    static readonly Dictionary<string, string> names = All.ToDictionary(c => c.Code, c => c.Name, StringComparer.OrdinalIgnoreCase);
    static readonly Dictionary<string, string> codes = All.ToDictionary(c => c.Name, c => c.Code, StringComparer.OrdinalIgnoreCase);

    /// <summary>Null for what is no country.</summary>
    public static string? NameOf(string? code) => code is null ? null : names.GetValueOrDefault(code);

    /// <summary>Reads names or codes with commas between them.</summary>
    /// <param name="unknown">The first that is none; null where all are.</param>
    public static IReadOnlyList<string> Read(string? typed, out string? unknown)
    {
        unknown = null;
        var read = new List<string>();
        foreach (var one in (typed ?? "").Split([',', ';', '\n'], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries))
            if ((names.ContainsKey(one) ? one.ToUpperInvariant() : codes.GetValueOrDefault(one)) is { } code)
            {
                if (!read.Contains(code)) read.Add(code);
            }
            else unknown ??= one;
        return read;
    }

    /// <summary>As they are typed.</summary>
    public static string Show(IEnumerable<string> list) => string.Join(", ", list.Select(c => NameOf(c) ?? c));
}
