using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;
using SkiaSharp;

namespace BrightCircle.App;

/// <summary>A PDF of our own drawing: its fonts embedded, its title and language said.</summary>
public sealed partial class PdfSheet : IDisposable
{
    public static SKColor Ink { get; } = SKColor.Parse("#1F2A30");
    public static SKColor Soft { get; } = SKColor.Parse("#55636B");
    public static SKColor Sun { get; } = SKColor.Parse("#F2B632");
    public static SKColor Line { get; } = SKColor.Parse("#E4DDCF");

    static readonly Lazy<SKTypeface> SerifFace = new(() => Font("Fraunces.ttf"));
    static readonly Lazy<SKTypeface> SansFace = new(() => Font("Figtree.ttf"));
    public static SKTypeface Serif => SerifFace.Value;
    public static SKTypeface Sans => SansFace.Value;

    static SKTypeface Font(string name)
    {
        using var stream = typeof(PdfSheet).Assembly.GetManifestResourceStream(
            typeof(PdfSheet).Assembly.GetManifestResourceNames().Single(n => n.EndsWith(name, StringComparison.Ordinal)))!;
        return SKTypeface.FromStream(stream);
    }

    readonly MemoryStream buffer = new();
    readonly SKDocument document;
    readonly string language;
    readonly float width, height;

    public SKCanvas Canvas { get; private set; }

    /// <param name="language">Of its words, as RFC 5646 has it: "en-GB".</param>
    /// <param name="width">In points of 1/72 inch; A4 upright is 595 × 842.</param>
    public PdfSheet(string title, string author, string language, float width, float height)
    {
        (this.language, this.width, this.height) = (language, width, height);
        document = SKDocument.CreatePdf(buffer, new SKDocumentPdfMetadata { Title = title, Author = author, Creation = null });
        Canvas = document.BeginPage(width, height);
        Canvas.Clear(SKColors.White);
    }

    public void NextPage()
    {
        document.EndPage();
        Canvas = document.BeginPage(width, height);
        Canvas.Clear(SKColors.White);
    }

    public byte[] Done()
    {
        document.EndPage();
        document.Close();
        return WithLanguage(buffer.ToArray(), language);
    }

    /// <summary>Words on as many lines as they need; <paramref name="y"/> is the next line's then.</summary>
    public void Text(string text, SKTypeface face, float size, SKColor color, float x, ref float y, float width, float leading)
    {
        using var font = new SKFont(face, size) { Subpixel = true };
        using var paint = new SKPaint { Color = color, IsAntialias = true };
        var line = "";
        foreach (var word in text.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            var longer = line.Length == 0 ? word : line + " " + word;
            if (font.MeasureText(longer) <= width || line.Length == 0) { line = longer; continue; }
            Canvas.DrawText(line, x, y, SKTextAlign.Left, font, paint);
            y += leading;
            line = word;
        }
        Canvas.DrawText(line, x, y, SKTextAlign.Left, font, paint);
        y += leading;
    }

    /// <summary>One line that ends at <paramref name="right"/>.</summary>
    public void Right(string text, SKTypeface face, float size, SKColor color, float right, float y)
    {
        using var font = new SKFont(face, size) { Subpixel = true };
        using var paint = new SKPaint { Color = color, IsAntialias = true };
        Canvas.DrawText(text, right, y, SKTextAlign.Right, font, paint);
    }

    public void Rule(float x, float right, float y, SKColor color, float thickness = 1)
    {
        using var paint = new SKPaint { StrokeWidth = thickness, Color = color, IsAntialias = true };
        Canvas.DrawLine(x, y, right, y, paint);
    }

    /// <summary>
    /// Says the language in the document's catalogue (ISO 32000-1, 14.9.2) and that its title is shown (12.2), by an incremental update (7.5.6): the
    /// catalogue once more at the end, with a cross-reference of its own. What can't be read so is left as it is.
    /// </summary>
    internal static byte[] WithLanguage(byte[] pdf, string language)
    {
        var text = Encoding.Latin1.GetString(pdf);
        if (Root().Matches(text) is not [.., var root] || Start().Matches(text) is not [.., var start]
            || Size().Matches(text) is not [.., var size]) return pdf;
        var number = root.Groups[1].Value;
        if (Regex.Match(text, $@"(?<=[\r\n]){number} 0 obj\s*<<(.*?)>>\s*endobj", RegexOptions.Singleline,
            TimeSpan.FromSeconds(2)) is not { Success: true } catalogue
            || catalogue.Groups[1].Value.Contains("/Lang", StringComparison.Ordinal)) return pdf;
        var added = new StringBuilder();
        if (text[^1] != '\n') added.Append('\n');
        var at = pdf.Length + added.Length;
        added.Append(CultureInfo.InvariantCulture,
            $"{number} 0 obj\n<<{catalogue.Groups[1].Value.TrimEnd()}\n/Lang ({language})\n/ViewerPreferences <</DisplayDocTitle true>>>>\nendobj\n");
        var table = pdf.Length + added.Length;
        added.Append(CultureInfo.InvariantCulture,
            $"xref\n{number} 1\n{at:D10} 00000 n \ntrailer\n<</Size {size.Groups[1].Value}\n/Root {number} 0 R\n/Prev "
                + $"{start.Groups[1].Value}>>\nstartxref\n{table}\n%%EOF\n");
        return [.. pdf, .. Encoding.Latin1.GetBytes(added.ToString())];
    }

    [GeneratedRegex(@"/Root (\d+) 0 R")] private static partial Regex Root();
    [GeneratedRegex(@"startxref\s+(\d+)")] private static partial Regex Start();
    [GeneratedRegex(@"/Size (\d+)")] private static partial Regex Size();

    public void Dispose()
    {
        document.Dispose();
        buffer.Dispose();
    }
}
