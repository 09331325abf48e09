using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;
using SkiaSharp;

namespace BrightCircle.App.Files;

/// <summary>The site's files: taken up in parts, known by their content, found, replaced everywhere, taken away.</summary>
public sealed class KeepFiles(BrightContext db, Ids ids, Catalogue catalogue, IFileStore store, IVirusScan scan, IClock clock, UploadFolder folder)
{
    public const long MaxBytes = 20L * 1024 * 1024 * 1024;

    /// <summary>Begins an upload that comes in parts and can be gone on with after a break.</summary>
    public async Task<Result<Upload>> Begin(TeamActor by, string? name, long bytes, CancellationToken ct)
    {
        by.NeedEditor();
        var clean = CleanName(name);
        if (clean.Length == 0) return Result.Refused("The file has no name.");
        if (bytes is < 1 or > MaxBytes) return Result.Refused(bytes < 1 ? $"{clean} is empty." : $"{clean} is over 20 GB.");
        var upload = db.Add(new Upload { Id = ids.Next(), Name = clean, Bytes = bytes, AccountId = by.AccountId, StartedAt = clock.GetCurrentInstant() })
            .Entity;
        await db.SaveChangesAsync(ct);
        return upload;
    }

    static string CleanName(string? name) => Path.GetFileName((name ?? "").Replace('\\', '/')).Trim() is var n
        && n.Length > 200 ? n[..150] + Path.GetExtension(n)[..Math.Min(20, Path.GetExtension(n).Length)] : n;

    public async Task<Upload?> Find(TeamActor by, long id, CancellationToken ct) =>
        await db.Uploads.AsNoTracking().FirstOrDefaultAsync(u => u.Id == id && u.AccountId == by.AccountId, ct);

    /// <summary>Takes one part at its place. What was received before it, and the part itself, is on disk before it is counted.</summary>
    /// <returns>How much has been received; where that isn't the offset given plus the part, the part was not the next one.</returns>
    public async Task<Result<long>> Part(TeamActor by, long id, long offset, Stream content, CancellationToken ct)
    {
        by.NeedEditor();
        if (await Find(by, id, ct) is not { } upload) return Result.Refused("This upload isn’t known (any more). Begin again.");
        if (offset != upload.Received) return upload.Received;
        long written = 0;
        var hash = folder.TakeHash(id, offset);
        await using (var file = new FileStream(folder.PathOf(id), FileMode.OpenOrCreate, FileAccess.Write, FileShare.None, bufferSize: 0,
            FileOptions.Asynchronous))
        {
            file.SetLength(Math.Max(file.Length, offset));
            file.Position = offset;
            // Two buffers in turn: while one is written and hashed, the next comes in.
            byte[][] buffers = [System.Buffers.ArrayPool<byte>.Shared.Rent(1 << 19), System.Buffers.ArrayPool<byte>.Shared.Rent(1 << 19)];
            var kept = Task.CompletedTask;
            try
            {
                for (var (turn, more) = (0, true); more; turn = 1 - turn)
                {
                    (var n, more) = await Fill(content, buffers[turn], ct);
                    await kept;
                    if (offset + written + n > upload.Bytes) return Result.Refused("More came than the file was said to hold.");
                    written += n;
                    var came = buffers[turn].AsMemory(0, n);
                    kept = Task.WhenAll(file.WriteAsync(came, CancellationToken.None).AsTask(),
                        hash is null ? Task.CompletedTask : Task.Run(() => hash.Add(came.Span), CancellationToken.None));
                }
            }
            finally
            {
                await kept;
                foreach (var buffer in buffers) System.Buffers.ArrayPool<byte>.Shared.Return(buffer);
            }
        }
        var received = offset + written;
        if (hash is not null) folder.KeepHash(id, received, hash);
        await db.Uploads.Where(u => u.Id == id && u.Received == offset)
            .ExecuteUpdateAsync(u => u.SetProperty(x => x.Received, received), CancellationToken.None);
        return received;
    }

    /// <summary>Fills a buffer as far as something comes.</summary>
    /// <returns>How much came, and whether more may; where the line breaks, what came so far counts and the rest follows later.</returns>
    static async Task<(int Came, bool More)> Fill(Stream content, byte[] buffer, CancellationToken ct)
    {
        var filled = 0;
        try
        {
            while (filled < buffer.Length)
            {
                var n = await content.ReadAsync(buffer.AsMemory(filled), ct);
                if (n == 0) return (filled, false);
                filled += n;
            }
            return (filled, true);
        }
        catch (Exception e) when (e is IOException or OperationCanceledException)
        {
            return (filled, false);
        }
    }

    /// <summary>All parts are there: the file is looked into and kept.</summary>
    public async Task<Result<StoredFile>> Finish(TeamActor by, long id, string? alt, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Uploads.FirstOrDefaultAsync(u => u.Id == id && u.AccountId == by.AccountId, ct) is not { } upload)
            return Result.Refused("This upload isn’t known (any more). Begin again.");
        // Asked twice: the first answer was lost on the way.
        if (upload.FileId is { } done) return await db.Files.SingleAsync(f => f.Id == done, ct);
        if (upload.Received != upload.Bytes) return Result.Refused($"Only {upload.Received} of {upload.Bytes} bytes have come. Go on with the rest.");
        var hash = folder.TakeHash(id, upload.Bytes);
        var kept = await Keep(by, folder.PathOf(id), upload.Name, alt, ct, hash);
        if (!kept.Ok)
        {
            File.Delete(folder.PathOf(id));
            db.Remove(upload);
            await db.SaveChangesAsync(ct);
            return kept;
        }
        upload.FileId = kept.Value!.Id;
        await db.SaveChangesAsync(ct);
        return kept;
    }

    /// <summary>A file in one go, for pages without scripts.</summary>
    public async Task<Result<StoredFile>> Whole(TeamActor by, Stream content, string name, string? alt, CancellationToken ct)
    {
        by.NeedEditor();
        var path = store.NewTemporary();
        try
        {
            await using (var file = File.Create(path)) await content.CopyToAsync(file, ct);
            return await Keep(by, path, CleanName(name), alt, ct);
        }
        finally
        {
            File.Delete(path);
        }
    }

    /// <param name="hash">Over the whole file, where it ran along; otherwise the file is read for it.</param>
    async Task<Result<StoredFile>> Keep(TeamActor by, string path, string name, string? alt, CancellationToken ct, ContentHash? hash = null)
    {
        var facts = await Facts(path, name, hash, ct);
        if (!facts.Ok) return Result.Refused(facts.Refusal!);
        var f = facts.Value!;
        // The same bytes under the same name are the same file.
        if (await db.Files.FirstOrDefaultAsync(x => x.Address == f.Address && x.Name == name, ct) is { } known) return known;
        var file = db.Add(new StoredFile
        {
            Id = ids.Next<FileId>(),
            Address = f.Address,
            Name = name,
            MediaType = f.MediaType,
            Kind = f.Kind,
            Bytes = f.Bytes,
            Width = f.Width,
            Height = f.Height,
            Sizes = f.Sizes,
            Alt = alt?.Trim() ?? "",
            AddedAt = clock.GetCurrentInstant(),
            AddedBy = by.Name,
        }).Entity;
        await db.SaveChangesAsync(ct);
        return file;
    }

    sealed record FileFacts(string Address, string MediaType, FileKind Kind, long Bytes, int? Width, int? Height, Dictionary<string, string> Sizes);

    async Task<Result<FileFacts>> Facts(string path, string name, ContentHash? hash, CancellationToken ct)
    {
        var kinds = catalogue.Now.Site?.DocumentKinds ?? Site.DefaultDocumentKinds;
        if (FileCheck.Know(path, name) is not { } known || known.Kind == FileKind.Document && !kinds.Contains(known.Extension[1..]))
            return Result.Refused(
                $"{name} isn’t taken: by what is in it, it is none of the kinds this site keeps (pictures, video, audio, {string.Join(", ", kinds)}).");
        if (await scan.Find(path, ct) is { } found) return Result.Refused($"{name} isn’t taken: the virus scanner found {found}.");
        var bytes = new FileInfo(path).Length;
        async Task<string> Taken()
        {
            var address = hash is null ? await FileAddress.Of(path, known.Extension, ct) : hash.AddressWith(known.Extension);
            await store.Take(path, address, ct);
            return address;
        }
        if (known.Kind != FileKind.Picture) return new FileFacts(await Taken(), known.MediaType, known.Kind, bytes, null, null, []);
        if (bytes > PictureSizes.MaxBytes) return Result.Refused($"{name} is over 40 MB. Make the picture smaller and try again.");
        if (PictureSizes.Read(path) is not { } bitmap) return Result.Refused($"{name} is damaged and can’t be read.");
        using (bitmap)
        {
            var sizes = new Dictionary<string, string>();
            foreach (var width in PictureSizes.Widths.Where((w, i) => i == 0 || bitmap.Width > PictureSizes.Widths[i - 1]))
                sizes[width.ToString(System.Globalization.CultureInfo.InvariantCulture)] = await PictureSizes.Write(bitmap, width, store, ct);
            return new FileFacts(await Taken(), known.MediaType, FileKind.Picture, bytes, bitmap.Width, bitmap.Height, sizes);
        }
    }

    /// <summary>Another file in the place of one, everywhere it is used at once.</summary>
    public async Task<Result> Replace(TeamActor by, FileId id, Stream content, string name, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Files.FirstOrDefaultAsync(f => f.Id == id, ct) is not { } file) return Result.Refused("This file isn’t here any more.");
        var path = store.NewTemporary();
        try
        {
            await using (var temporary = File.Create(path)) await content.CopyToAsync(temporary, ct);
            var facts = await Facts(path, CleanName(name), null, ct);
            if (!facts.Ok) return Result.Refused(facts.Refusal!, "Upload");
            var f = facts.Value!;
            if (f.Kind != file.Kind) return Result.Refused("It is replaced by a file of its own kind, or the places where it stands would break.", "Upload");
            (file.Address, file.Name, file.MediaType, file.Bytes, file.Width, file.Height, file.Sizes, file.ReplacedAt) =
                (f.Address, CleanName(name), f.MediaType, f.Bytes, f.Width, f.Height, f.Sizes, clock.GetCurrentInstant());
            await db.SaveChangesAsync(ct);
            return Result.Done;
        }
        finally
        {
            File.Delete(path);
        }
    }

    /// <summary>A part of a picture as a file of its own.</summary>
    public async Task<Result<StoredFile>> Cut(TeamActor by, FileId id, Crop crop, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Files.AsNoTracking().FirstOrDefaultAsync(f => f.Id == id, ct) is not { Kind: FileKind.Picture } file)
            return Result.Refused("Choose a picture first.");
        if (!(crop.Width > 0.01 && crop.Height > 0.01) || crop.Turn % 90 != 0) return Result.Refused("That part is too small.");
        var (path, cut) = (store.NewTemporary(), store.NewTemporary());
        try
        {
            await using (var from = await store.Open(file.Address, ct) ?? throw new IOException($"The file store has lost {file.Address}."))
            await using (var to = File.Create(path)) await from.CopyToAsync(to, ct);
            if (PictureSizes.Read(path) is not { } bitmap) return Result.Refused("That picture can’t be read.");
            using (var part = PictureSizes.Cut(bitmap, crop))
            using (var image = SKImage.FromBitmap(part))
            using (var data = image.Encode(SKEncodedImageFormat.Webp, 92))
            await using (var to = File.Create(cut)) data.SaveTo(to);
            return await Keep(by, cut, Path.GetFileNameWithoutExtension(file.Name) + ", cut.webp", file.Alt, ct);
        }
        finally
        {
            File.Delete(path);
            File.Delete(cut);
        }
    }

    public async Task<Result> Describe(TeamActor by, FileId id, string? name, string? alt, CancellationToken ct)
    {
        by.NeedEditor();
        var clean = CleanName(name);
        if (clean.Length == 0) return Result.Refused("A file needs a name.", "Name");
        if (alt?.Length > 500) return Result.Refused("500 letters are the most.", "Alt");
        await db.Files.Where(f => f.Id == id).ExecuteUpdateAsync(u => u.SetProperty(f => f.Name, clean).SetProperty(f => f.Alt, (alt ?? "").Trim()), ct);
        return Result.Done;
    }

    /// <summary>Takes away a file that is used nowhere.</summary>
    public async Task<Result> Remove(TeamActor by, FileId id, CancellationToken ct)
    {
        by.NeedEditor();
        if (await db.Files.FirstOrDefaultAsync(f => f.Id == id, ct) is not { } file) return Result.Refused("This file isn’t here any more.");
        if (await db.FileUses.AnyAsync(u => u.FileId == id, ct)) return Result.Refused("It is still used. Take it out there first, or replace it.");
        db.Remove(file);
        await db.SaveChangesAsync(ct);
        // Saved versions may still name it by number; its bytes go when no other file has them.
        var addresses = file.Sizes.Values.Append(file.Address).ToArray();
        var shared = await db.Files.Where(f => addresses.Contains(f.Address)).Select(f => f.Address).ToListAsync(ct);
        if (!shared.Contains(file.Address)) await store.Delete(file.Address, ct);
        return Result.Done;
    }
}
