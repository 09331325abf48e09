using System.Globalization;
using NodaTime;
using NodaTime.Text;

namespace BrightCircle.App.Demo;

public sealed record DemoEdition(YearMonth Month, string Title, string Opening, IReadOnlyList<DemoPiece> Pieces);
public sealed record DemoPiece(string Shelf, string Title, int Minutes, string Summary, bool Ready, string Markdown);

/// <summary>
/// Reads the demo's texts. A line "# month | title | opening words" begins an edition, "## shelf | title | minutes | [DRAFT or READY |] summary" a piece.
/// </summary>
public static class DemoContent
{
    public static IReadOnlyList<DemoEdition> Read()
    {
        var assembly = typeof(DemoContent).Assembly;
        using var reader =
            new StreamReader(assembly.GetManifestResourceStream(
            assembly.GetManifestResourceNames().Single(n => n.EndsWith("tansy-lane.md", StringComparison.Ordinal)))!);
        var editions = new List<DemoEdition>();
        var pieces = new List<DemoPiece>();
        foreach (var block in reader.ReadToEnd().Split("\n# ").Select(b => b.StartsWith("# ", StringComparison.Ordinal) ? b[2..] : b))
        {
            var parts = block.Split("\n## ");
            var head = parts[0].Split('\n')[0].Split('|', StringSplitOptions.TrimEntries);
            pieces = [.. parts[1..].Select(Piece)];
            editions.Add(new(LocalDatePattern.Iso.Parse(head[0] + "-01").Value.ToYearMonth(), head[1], head[2], pieces));
        }
        return editions;
    }

    static DemoPiece Piece(string text)
    {
        var end = text.IndexOf('\n');
        var head = text[..end].Split('|', StringSplitOptions.TrimEntries);
        var marked = head[3] is "DRAFT" or "READY";
        return new(head[0], head[1], int.Parse(head[2], CultureInfo.InvariantCulture), marked && head.Length > 4 ? head[4] : marked ? "" : head[3],
            !(marked && head[3] == "DRAFT"), text[(end + 1)..].Trim());
    }
}
