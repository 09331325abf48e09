namespace BrightCircle.App.Files;

/// <summary>Keeps files by the hash of what is in them. An address, once given, always means the same bytes.</summary>
public interface IFileStore
{
    /// <summary>Takes a file over; its size may be anything, it never goes through memory whole.</summary>
    /// <param name="path">A file on this machine, which is gone afterwards.</param>
    /// <param name="address">By what is in it: see <see cref="FileAddress.Of(string, string, CancellationToken)"/>.</param>
    Task Take(string path, string address, CancellationToken ct);

    /// <summary>A stream that can be moved in, so that a range is read without what is before it; null where there is no such file.</summary>
    Task<Stream?> Open(string address, CancellationToken ct);

    Task Delete(string address, CancellationToken ct);

    /// <summary>A new file on this machine to write to, beside where files are kept.</summary>
    string NewTemporary();
}

/// <summary>The hash of what is in a file, made piece by piece while it is written: BLAKE3, which is several times as fast as SHA-256 on machines without
/// instructions for that.</summary>
public sealed class ContentHash
{
    readonly Blake3.Hasher hasher = Blake3.Hasher.New();
    public void Add(ReadOnlySpan<byte> next) => hasher.Update(next);
    public string AddressWith(string extension) => FileAddress.Of(hasher.Finalize().AsSpan(), extension);
}

/// <summary>A file's address: the first 128 bits of BLAKE3 over what is in it, in hexadecimal, and its extension.</summary>
public static class FileAddress
{
    const int HashLength = 32;

    /// <param name="extension">With its dot, in lower case: ".webp".</param>
    public static async Task<string> Of(string path, string extension, CancellationToken ct)
    {
        await using var file = new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.Read, bufferSize: 0,
            FileOptions.Asynchronous | FileOptions.SequentialScan);
        var (hash, buffer) = (new ContentHash(), System.Buffers.ArrayPool<byte>.Shared.Rent(1 << 19));
        try
        {
            while (await file.ReadAsync(buffer, ct) is > 0 and var n) hash.Add(buffer.AsSpan(0, n));
            return hash.AddressWith(extension);
        }
        finally
        {
            System.Buffers.ArrayPool<byte>.Shared.Return(buffer);
        }
    }

    internal static string Of(ReadOnlySpan<byte> hash, string extension) => Convert.ToHexStringLower(hash[..(HashLength / 2)]) + extension;

    /// <summary>An address is made above; anything else never touches the store.</summary>
    public static bool IsOne(string address) =>
        address.Length is > HashLength + 1 and <= HashLength + 9 && address[HashLength] == '.'
        && !address.AsSpan(0, HashLength).ContainsAnyExcept("0123456789abcdef")
            && !address.AsSpan(HashLength + 1).ContainsAnyExcept("abcdefghijklmnopqrstuvwxyz0123456789");

    /// <summary>The same bytes have the same tag (RFC 9110, strong).</summary>
    public static string ETag(string address) => $"\"{address[..HashLength]}\"";

    public static async Task<string> Save(this IFileStore store, Stream content, string extension, CancellationToken ct)
    {
        var path = store.NewTemporary();
        try
        {
            await using (var file = File.Create(path)) await content.CopyToAsync(file, ct);
            var address = await Of(path, extension, ct);
            await store.Take(path, address, ct);
            return address;
        }
        finally
        {
            File.Delete(path);
        }
    }
}

/// <summary>Files in a folder, two levels deep, written beside and moved into place.</summary>
public sealed class FolderFileStore(string root) : IFileStore
{
    public string NewTemporary()
    {
        Directory.CreateDirectory(root);
        return Path.Combine(root, "tmp-" + Path.GetRandomFileName());
    }

    public Task Take(string path, string address, CancellationToken ct)
    {
        var to = PathOf(address);
        Directory.CreateDirectory(Path.GetDirectoryName(to)!);
        File.Move(path, to, overwrite: true);
        return Task.CompletedTask;
    }

    public Task<Stream?> Open(string address, CancellationToken ct)
    {
        if (!FileAddress.IsOne(address)) return Task.FromResult<Stream?>(null);
        try
        {
            return Task.FromResult<Stream?>(new FileStream(
                PathOf(address), FileMode.Open, FileAccess.Read, FileShare.Read | FileShare.Delete, 1 << 16,
                FileOptions.Asynchronous | FileOptions.SequentialScan));
        }
        catch (IOException e) when (e is FileNotFoundException or DirectoryNotFoundException)
        {
            return Task.FromResult<Stream?>(null);
        }
    }

    public Task Delete(string address, CancellationToken ct)
    {
        if (FileAddress.IsOne(address)) File.Delete(PathOf(address));
        return Task.CompletedTask;
    }

    string PathOf(string address) => Path.Combine(root, address[..2], address);
}
