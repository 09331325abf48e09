using System.Security.Cryptography;
using SkiaSharp;

namespace BrightCircle.App.House;

/// <summary>Keeps files by the hash of what is in them.</summary>
public interface IFileStore
{
    Task<string> Save(Stream content, string extension, CancellationToken ct);
    Stream? Open(string address);
}

/// <summary>Files in a folder, two levels deep, written beside and moved into place.</summary>
public sealed class FolderFileStore(string root) : IFileStore
{
    public async Task<string> Save(Stream content, string extension, CancellationToken ct)
    {
        Directory.CreateDirectory(root);
        var beside = Path.Combine(root, Path.GetRandomFileName());
        string hash;
        await using (var file = File.Create(beside))
        {
            await content.CopyToAsync(file, ct);
            file.Position = 0;
            hash = Convert.ToHexStringLower(await SHA256.HashDataAsync(file, ct));
        }
        var address = hash[..32] + extension;
        var path = PathOf(address);
        Directory.CreateDirectory(Path.GetDirectoryName(path)!);
        File.Move(beside, path, overwrite: true);
        return address;
    }

    public Stream? Open(string address)
    {
        // An address is made above; anything else never touches the disk.
        if (address.Length < 33 || !address.AsSpan(0, 32).ContainsAnyInRange('0', 'f') || address.AsSpan().ContainsAnyExcept("0123456789abcdef.webp")) return null;
        var path = PathOf(address);
        return File.Exists(path) ? new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.Read, 64 * 1024, FileOptions.Asynchronous | FileOptions.SequentialScan) : null;
    }

    string PathOf(string address) => Path.Combine(root, address[..2], address);
}

/// <summary>Takes a picture somebody uploads: decodes it whatever its name says, brings it to size, stores it as WebP without its metadata.</summary>
public sealed class SavePicture(IFileStore files)
{
    public const int MaxBytes = 15 * 1024 * 1024;
    const int MaxSide = 1600;

    public async Task<Result<string>> Save(Stream upload, long length, CancellationToken ct)
    {
        if (length > MaxBytes) return Result.Refused("That picture is over 15 MB. Make it smaller and try again.", "Picture");
        using var copy = new MemoryStream();
        await upload.CopyToAsync(copy, ct);
        copy.Position = 0;
        using var codec = SKCodec.Create(copy);
        if (codec is null || codec.Info.Width is < 1 or > 12000 || codec.Info.Height is < 1 or > 12000)
            return Result.Refused("That file isn’t a picture we can read. JPEG, PNG, WebP and GIF work.", "Picture");
        using var bitmap = SKBitmap.Decode(codec);
        if (bitmap is null) return Result.Refused("That picture is damaged and can’t be read.", "Picture");
        var scale = Math.Min(1.0, (double)MaxSide / Math.Max(bitmap.Width, bitmap.Height));
        using var sized = scale < 1
            ? bitmap.Resize(new SKImageInfo((int)(bitmap.Width * scale), (int)(bitmap.Height * scale)), new SKSamplingOptions(SKCubicResampler.Mitchell))
            : bitmap.Copy();
        using var image = SKImage.FromBitmap(sized);
        using var data = image.Encode(SKEncodedImageFormat.Webp, 82);
        using var webp = data.AsStream();
        return await files.Save(webp, ".webp", ct);
    }
}
