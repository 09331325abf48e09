using BrightCircle.Data;
using SkiaSharp;

namespace BrightCircle.App.Files;

/// <summary>The front's own picture.</summary>
public sealed class SavePicture(IFileStore files)
{
    public async Task<Result<string>> Save(Stream upload, long length, CancellationToken ct)
    {
        if (length > PictureSizes.MaxBytes) return Result.Refused("That picture is over 40 MB. Make it smaller and try again.", "Picture");
        var path = files.NewTemporary();
        try
        {
            await using (var file = File.Create(path)) await upload.CopyToAsync(file, ct);
            if (FileCheck.Know(path, "x") is not { Kind: FileKind.Picture } || PictureSizes.Read(path) is not { } bitmap)
                return Result.Refused("That file isn’t a picture we can read. JPEG, PNG, WebP and GIF work.", "Picture");
            using (bitmap) return await PictureSizes.Write(bitmap, PictureSizes.Widths[^1], files, ct);
        }
        finally
        {
            File.Delete(path);
        }
    }
}
