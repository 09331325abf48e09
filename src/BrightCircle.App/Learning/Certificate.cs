using BrightCircle.Core.Content;
using SkiaSharp;

namespace BrightCircle.App.Learning;

/// <summary>Who completed what, and when, on a page of A4 across.</summary>
public sealed record CertificateFacts(string Name, Piece Piece, string Site, string Date, string Length, string Number);

/// <summary>A certificate as PDF, its fonts embedded.</summary>
public static class Certificate
{
    const float Width = 842, Height = 595;

    static SKTypeface Font(string name)
    {
        using var stream = typeof(Certificate).Assembly.GetManifestResourceStream(
            typeof(Certificate).Assembly.GetManifestResourceNames().Single(n => n.EndsWith(name, StringComparison.Ordinal)))!;
        return SKTypeface.FromStream(stream);
    }

    static readonly Lazy<SKTypeface> Serif = new(() => Font("Fraunces.ttf"));
    static readonly Lazy<SKTypeface> Sans = new(() => Font("Figtree.ttf"));

    public static byte[] Pdf(CertificateFacts facts)
    {
        using var buffer = new MemoryStream();
        using (var document = SKDocument.CreatePdf(
            buffer, new SKDocumentPdfMetadata { Title = $"{facts.Piece.Title}: {facts.Name}", Author = facts.Site, Creation = null }))
        {
            var canvas = document.BeginPage(Width, Height);
            Draw(canvas, facts);
            document.EndPage();
            document.Close();
        }
        return buffer.ToArray();
    }

    static void Draw(SKCanvas canvas, CertificateFacts f)
    {
        var (ink, soft, sun, line) = (SKColor.Parse("#1F2A30"), SKColor.Parse("#55636B"), SKColor.Parse("#F2B632"), SKColor.Parse("#E4DDCF"));
        canvas.Clear(SKColors.White);
        using (var ring = new SKPaint { Style = SKPaintStyle.Stroke, StrokeWidth = 14, Color = line, IsAntialias = true }) canvas.DrawCircle(
            Width - 120, 120, 62, ring);
        using (var arc = new SKPaint
        {
            Style = SKPaintStyle.Stroke,
            StrokeWidth = 14,
            Color = sun,
            IsAntialias = true,
            StrokeCap = SKStrokeCap.Butt
        }) canvas.DrawArc(SKRect.Create(Width - 182, 58, 124, 124), -90, 360, false, arc);
        using (var frame = new SKPaint { Style = SKPaintStyle.Stroke, StrokeWidth = 1.2f, Color = line, IsAntialias = true }) canvas.DrawRoundRect(
            SKRect.Create(28, 28, Width - 56, Height - 56), 6, 6, frame);
        var y = 120f;
        Text(canvas, f.Site, Sans.Value, 15, soft, 72, ref y, Width - 300, 24);
        y = 220;
        Text(canvas, f.Name, Serif.Value, 40, ink, 72, ref y, Width - 144, 46);
        y += 4;
        Text(canvas, "has completed", Sans.Value, 17, soft, 72, ref y, Width - 144, 40);
        Text(canvas, f.Piece.Title, Serif.Value, 30, ink, 72, ref y, Width - 144, 36);
        if (f.Piece.Subtitle.Length > 0) Text(canvas, f.Piece.Subtitle, Sans.Value, 15, soft, 72, ref y, Width - 144, 24);
        if (f.Length.Length > 0) { y += 8; Text(canvas, f.Length, Sans.Value, 14, soft, 72, ref y, Width - 144, 22); }
        using (var under = new SKPaint { StrokeWidth = 4, Color = sun, IsAntialias = true }) canvas.DrawLine(72, Height - 112, 150, Height - 112, under);
        y = Height - 82;
        Text(canvas, f.Date, Sans.Value, 15, ink, 72, ref y, 300, 20);
        Text(canvas, f.Number, Sans.Value, 10, soft, 72, ref y, 400, 14);
    }

    /// <summary>Words on as many lines as they need.</summary>
    static void Text(SKCanvas canvas, string text, SKTypeface face, float size, SKColor color, float x, ref float y, float width, float leading)
    {
        using var font = new SKFont(face, size) { Subpixel = true };
        using var paint = new SKPaint { Color = color, IsAntialias = true };
        var line = "";
        foreach (var word in text.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            var longer = line.Length == 0 ? word : line + " " + word;
            if (font.MeasureText(longer) <= width || line.Length == 0) { line = longer; continue; }
            canvas.DrawText(line, x, y, SKTextAlign.Left, font, paint);
            y += leading;
            line = word;
        }
        canvas.DrawText(line, x, y, SKTextAlign.Left, font, paint);
        y += leading;
    }
}
