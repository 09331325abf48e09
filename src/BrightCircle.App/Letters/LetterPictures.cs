using System.Collections.Concurrent;
using System.Globalization;
using System.Net;
using BrightCircle.App.Files;
using BrightCircle.Core;
using BrightCircle.Data;
using SkiaSharp;

namespace BrightCircle.App.Letters;

/// <summary>A picture as it goes along with a letter.</summary>
/// <param name="Alt">What it shows, for those who can’t see it.</param>
/// <param name="Width">In pixels, as it is shown.</param>
public sealed record LetterPicture(byte[] Jpeg, string Alt, int Width);

/// <summary>
/// Pictures of letters, as JPEG (mail programs read little else), as wide as a letter on a fine screen. They go along with the letter, so that reading it loads
/// nothing from this site and tells nobody anything.
/// </summary>
public sealed class LetterPictures(MemberReader reader, IFileStore files)
{
    /// <summary>Where a letter’s HTML has room for its picture.</summary>
    public const string Place = "<!-- picture -->";
    const int ShownWidth = 520, MostKept = 20;

    // By address: it always means the same bytes.
    readonly ConcurrentDictionary<string, (byte[] Jpeg, int Width)> made = new();

    /// <returns>Null for none, and for a file that can’t be read any more.</returns>
    public async Task<LetterPicture?> Of(FileId? picture, CancellationToken ct)
    {
        if (picture is not { } id || await reader.File(id, ct) is not { Kind: FileKind.Picture } file) return null;
        var address = file.Sizes.GetValueOrDefault("1600") ?? file.Sizes.GetValueOrDefault("960") ?? file.Address;
        if (!made.TryGetValue(address, out var known))
        {
            await using var stream = await files.Open(address, ct);
            using var bitmap = stream is null ? null : SKBitmap.Decode(stream);
            if (bitmap is null) return null;
            if (made.Count >= MostKept) made.Clear();
            made[address] = known = (Jpeg(bitmap), Math.Min(ShownWidth, bitmap.Width));
        }
        return new(known.Jpeg, file.Alt, known.Width);
    }

    static byte[] Jpeg(SKBitmap bitmap)
    {
        var scale = Math.Min(1f, 2f * ShownWidth / bitmap.Width);
        using var sized = new SKBitmap((int)MathF.Round(bitmap.Width * scale), Math.Max(1, (int)MathF.Round(bitmap.Height * scale)));
        using (var canvas = new SKCanvas(sized))
        {
            // What can be seen through stands on the letter’s own paper.
            canvas.Clear(SKColor.Parse(SiteIcon.Paper));
            using var image = SKImage.FromBitmap(bitmap);
            canvas.DrawImage(image, SKRect.Create(sized.Width, sized.Height), new SKSamplingOptions(SKCubicResampler.Mitchell));
        }
        using var drawn = SKImage.FromBitmap(sized);
        using var data = drawn.Encode(SKEncodedImageFormat.Jpeg, 82);
        return data.ToArray();
    }

    /// <param name="source">Where the letter’s picture comes from: an address of one of its parts, or the picture itself.</param>
    public static string Put(string html, LetterPicture? picture, string source) => html.Replace(Place, picture is null ? "" : string.Create(
        CultureInfo.InvariantCulture, $"""
        <p style="margin:20px 0 0"><img src="{source}" alt="{WebUtility.HtmlEncode(picture.Alt)}" width="{picture.Width}"
            style="display:block;width:100%;max-width:{picture.Width}px;height:auto;border-radius:6px"></p>
        """), StringComparison.Ordinal);

    /// <summary>The letter’s HTML with its picture in it, for showing it by itself.</summary>
    public async Task<RenderedLetter> Shown(RenderedLetter letter, CancellationToken ct)
    {
        if (letter.Picture is null) return letter;
        var picture = await Of(letter.Picture, ct);
        return letter with { Html = Put(letter.Html, picture, picture is null ? "" : "data:image/jpeg;base64," + Convert.ToBase64String(picture.Jpeg)) };
    }
}
