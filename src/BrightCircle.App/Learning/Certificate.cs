using SkiaSharp;

namespace BrightCircle.App.Learning;

/// <summary>Who completed what, and when, on a page of A4 across.</summary>
/// <param name="Title">Of a piece, or of a challenge.</param>
/// <param name="Back">Where it was completed.</param>
/// <param name="Pdf">The address of it as PDF.</param>
/// <param name="Language">Of its words: "en-GB".</param>
public sealed record CertificateFacts(string Name, string Title, string Subtitle, string Site, string Date, string Length, string Number, string Back,
    string Pdf,
    string Language = "en");

/// <summary>A certificate as PDF, its fonts embedded.</summary>
public static class Certificate
{
    const float Width = 842, Height = 595;

    public static byte[] Pdf(CertificateFacts f)
    {
        using var sheet = new PdfSheet($"{f.Title}: {f.Name}", f.Site, f.Language, Width, Height);
        var canvas = sheet.Canvas;
        using (var ring = new SKPaint { Style = SKPaintStyle.Stroke, StrokeWidth = 14, Color = PdfSheet.Line, IsAntialias = true }) canvas.DrawCircle(
            Width - 120, 120, 62, ring);
        using (var arc = new SKPaint
        {
            Style = SKPaintStyle.Stroke,
            StrokeWidth = 14,
            Color = PdfSheet.Sun,
            IsAntialias = true,
            StrokeCap = SKStrokeCap.Butt
        }) canvas.DrawArc(SKRect.Create(Width - 182, 58, 124, 124), -90, 360, false, arc);
        using (var frame = new SKPaint { Style = SKPaintStyle.Stroke, StrokeWidth = 1.2f, Color = PdfSheet.Line, IsAntialias = true }) canvas.DrawRoundRect(
            SKRect.Create(28, 28, Width - 56, Height - 56), 6, 6, frame);
        var y = 120f;
        sheet.Text(f.Site, PdfSheet.Sans, 15, PdfSheet.Soft, 72, ref y, Width - 300, 24);
        y = 220;
        sheet.Text(f.Name, PdfSheet.Serif, 40, PdfSheet.Ink, 72, ref y, Width - 144, 46);
        y += 4;
        sheet.Text("has completed", PdfSheet.Sans, 17, PdfSheet.Soft, 72, ref y, Width - 144, 40);
        sheet.Text(f.Title, PdfSheet.Serif, 30, PdfSheet.Ink, 72, ref y, Width - 144, 36);
        if (f.Subtitle.Length > 0) sheet.Text(f.Subtitle, PdfSheet.Sans, 15, PdfSheet.Soft, 72, ref y, Width - 144, 24);
        if (f.Length.Length > 0) { y += 8; sheet.Text(f.Length, PdfSheet.Sans, 14, PdfSheet.Soft, 72, ref y, Width - 144, 22); }
        sheet.Rule(72, 150, Height - 112, PdfSheet.Sun, 4);
        y = Height - 82;
        sheet.Text(f.Date, PdfSheet.Sans, 15, PdfSheet.Ink, 72, ref y, 300, 20);
        sheet.Text(f.Number, PdfSheet.Sans, 10, PdfSheet.Soft, 72, ref y, 400, 14);
        return sheet.Done();
    }
}
