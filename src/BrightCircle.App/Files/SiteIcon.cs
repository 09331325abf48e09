using System.Collections.Concurrent;
using System.Globalization;
using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Data;
using SkiaSharp;

namespace BrightCircle.App.Files;

/// <summary>The sign of the site on a phone's home screen: its own, or its first letter, on a ground of the house's colour. Drawn once for each size.</summary>
public sealed class SiteIcon(Catalogue catalogue, MemberReader reader, IFileStore files)
{
    public const string Ground = "#0E5A52", Paper = "#FBF8F1";
    /// <summary>In pixels: what home screens ask for.</summary>
    public static IReadOnlyList<int> Sizes { get; } = [180, 192, 512];

    readonly ConcurrentDictionary<(int Size, FileId? Logo, string Name), byte[]> drawn = new();

    /// <summary>Null for a size there isn't, and while there is no site.</summary>
    public async Task<byte[]?> Png(int size, CancellationToken ct)
    {
        if (!Sizes.Contains(size) || catalogue.Now.Site is not { } site) return null;
        var key = (size, site.Logo, site.Name);
        if (drawn.TryGetValue(key, out var known)) return known;
        // Names and signs change seldom: what was before isn't asked for again.
        if (drawn.Count > 60) drawn.Clear();
        return drawn[key] = Draw(size, site.Name, await Logo(site.Logo, ct));
    }

    async Task<SKBitmap?> Logo(FileId? logo, CancellationToken ct)
    {
        if (logo is not { } id || await reader.File(id, ct) is not { } file) return null;
        await using var stream = await files.Open(file.Sizes.TryGetValue("480", out var small) ? small : file.Address, ct);
        return stream is null ? null : SKBitmap.Decode(stream);
    }

    static byte[] Draw(int size, string name, SKBitmap? logo)
    {
        using var bitmap = new SKBitmap(size, size);
        using (var canvas = new SKCanvas(bitmap))
        {
            canvas.Clear(SKColor.Parse(logo is null ? Ground : Paper));
            // Whatever shape a phone cuts it to, the inner four fifths stay (W3C: maskable icons).
            if (logo is not null) Fit(canvas, logo, size);
            else Letter(canvas, StringInfo.GetNextTextElement(name.Trim()).ToUpperInvariant(), size);
        }
        logo?.Dispose();
        using var image = SKImage.FromBitmap(bitmap);
        using var data = image.Encode(SKEncodedImageFormat.Png, 100);
        return data.ToArray();
    }

    static void Fit(SKCanvas canvas, SKBitmap logo, int size)
    {
        var scale = size * 0.7f / Math.Max(logo.Width, logo.Height);
        var (w, h) = (logo.Width * scale, logo.Height * scale);
        using var image = SKImage.FromBitmap(logo);
        canvas.DrawImage(image, SKRect.Create((size - w) / 2, (size - h) / 2, w, h), new SKSamplingOptions(SKCubicResampler.Mitchell));
    }

    static void Letter(SKCanvas canvas, string letter, int size)
    {
        using var ring = new SKPaint { Color = SKColor.Parse("#F2B632"), IsAntialias = true, Style = SKPaintStyle.Stroke, StrokeWidth = size * 0.05f };
        canvas.DrawCircle(size / 2f, size / 2f, size * 0.35f, ring);
        using var font = new SKFont(PdfSheet.Serif, size * 0.4f);
        using var paint = new SKPaint { Color = SKColor.Parse(Paper), IsAntialias = true };
        font.MeasureText(letter, out var bounds);
        canvas.DrawText(letter, size / 2f - bounds.MidX, size / 2f - bounds.MidY, SKTextAlign.Left, font, paint);
    }
}
