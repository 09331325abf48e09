using BrightCircle.Core;
using BrightCircle.Data;
using SkiaSharp;

namespace BrightCircle.App.Files;

/// <summary>A part of a picture: fractions of its sides from the top left, after turning it.</summary>
/// <param name="Turn">Degrees clockwise: 0, 90, 180 or 270.</param>
public sealed record Crop(double X, double Y, double Width, double Height, int Turn);

/// <summary>Decodes pictures whatever their names say, brings them to the sizes used, and writes WebP without their metadata.</summary>
public static class PictureSizes
{
    public const long MaxBytes = 40L * 1024 * 1024;
    /// <summary>The widths that pages ask for.</summary>
    public static IReadOnlyList<int> Widths { get; } = [480, 960, 1600];

    /// <summary>40 megapixels: what a large camera takes, and 160 MB while it is worked on.</summary>
    public const long MostPixels = 40_000_000;

    public static bool Fits(SKImageInfo info) => info.Width is >= 1 and <= 20_000 && info.Height is >= 1 and <= 20_000
        && (long)info.Width * info.Height <= MostPixels;

    static readonly SKSamplingOptions Sampling = new(SKCubicResampler.Mitchell);

    public static SKBitmap? Read(string path)
    {
        using var codec = SKCodec.Create(path);
        if (codec is null || !Fits(codec.Info)) return null;
        var bitmap = SKBitmap.Decode(codec);
        return bitmap is null ? null : Upright(bitmap, codec.EncodedOrigin);
    }

    /// <summary>Cameras say which way up; here it is done.</summary>
    static SKBitmap Upright(SKBitmap bitmap, SKEncodedOrigin origin) => origin switch
    {
        SKEncodedOrigin.BottomRight => Turned(bitmap, 180),
        SKEncodedOrigin.RightTop => Turned(bitmap, 90),
        SKEncodedOrigin.LeftBottom => Turned(bitmap, 270),
        _ => bitmap,
    };

    public static SKBitmap Turned(SKBitmap bitmap, int degrees)
    {
        if (degrees % 360 == 0) return bitmap;
        var swap = degrees % 180 != 0;
        var turned = new SKBitmap(swap ? bitmap.Height : bitmap.Width, swap ? bitmap.Width : bitmap.Height);
        using var canvas = new SKCanvas(turned);
        canvas.Translate(turned.Width / 2f, turned.Height / 2f);
        canvas.RotateDegrees(degrees);
        canvas.Translate(-bitmap.Width / 2f, -bitmap.Height / 2f);
        canvas.DrawBitmap(bitmap, 0, 0, Sampling);
        bitmap.Dispose();
        return turned;
    }

    public static SKBitmap Cut(SKBitmap bitmap, Crop crop)
    {
        var turned = Turned(bitmap, crop.Turn);
        int At(double share, int side) => (int)Math.Round(Math.Clamp(share, 0, 1) * side);
        var rect = SKRectI.Create(At(crop.X, turned.Width), At(crop.Y, turned.Height), Math.Max(1, At(crop.Width, turned.Width)),
            Math.Max(1, At(crop.Height, turned.Height)));
        rect.Intersect(SKRectI.Create(turned.Width, turned.Height));
        var cut = new SKBitmap(Math.Max(1, rect.Width), Math.Max(1, rect.Height));
        using (var canvas = new SKCanvas(cut)) canvas.DrawBitmap(turned, rect, SKRect.Create(cut.Width, cut.Height), Sampling);
        turned.Dispose();
        return cut;
    }

    /// <summary>Writes a picture at a width as WebP; one that is narrower keeps its width.</summary>
    public static async Task<string> Write(SKBitmap bitmap, int width, IFileStore files, CancellationToken ct)
    {
        var scale = Math.Min(1.0, (double)width / bitmap.Width);
        using var sized = scale < 1 ? bitmap.Resize(new SKImageInfo(width, Math.Max(1, (int)Math.Round(bitmap.Height * scale))), Sampling) : bitmap.Copy();
        using var image = SKImage.FromBitmap(sized);
        using var data = image.Encode(SKEncodedImageFormat.Webp, 82);
        await using var webp = data.AsStream();
        return await files.Save(webp, ".webp", ct);
    }
}
