using System.Security.Cryptography;

namespace BrightCircle.App.House;

/// <summary>Keeps files by the hash of what is in them. An address, once given, always means the same bytes.</summary>
public interface IFileStore
{
    /// <summary>Takes a file over; its size may be anything, it never goes through memory whole.</summary>
    /// <param name="path">A file on this machine, which is gone afterwards.</param>
    /// <param name="extension">With its dot, in lower case: ".webp".</param>
    /// <returns>Its address.</returns>
    Task<string> Take(string path, string extension, CancellationToken ct);

    /// <summary>A stream that can be moved in, so that a range is read without what is before it; null where there is no such file.</summary>
    Task<Stream?> Open(string address, CancellationToken ct);

    Task Delete(string address, CancellationToken ct);

    /// <summary>A new file on this machine to write to, beside where files are kept.</summary>
    string NewTemporary();
}

public static class FileAddress
{
    const int HashLength = 32;

    public static async Task<string> Of(string path, string extension, CancellationToken ct)
    {
        await using var file = new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.Read, 1 << 16, FileOptions.Asynchronous | FileOptions.SequentialScan);
        return Convert.ToHexStringLower(await SHA256.HashDataAsync(file, ct))[..HashLength] + extension;
    }

    /// <summary>An address is made above; anything else never touches the store.</summary>
    public static bool IsOne(string address) =>
        address.Length is > HashLength + 1 and <= HashLength + 9 && address[HashLength] == '.'
        && !address.AsSpan(0, HashLength).ContainsAnyExcept("0123456789abcdef") && !address.AsSpan(HashLength + 1).ContainsAnyExcept("abcdefghijklmnopqrstuvwxyz0123456789");

    /// <summary>The same bytes have the same tag (RFC 9110, strong).</summary>
    public static string ETag(string address) => $"\"{address[..HashLength]}\"";

    public static async Task<string> Save(this IFileStore store, Stream content, string extension, CancellationToken ct)
    {
        var path = store.NewTemporary();
        try
        {
            await using (var file = File.Create(path)) await content.CopyToAsync(file, ct);
            return await store.Take(path, extension, ct);
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

    public async Task<string> Take(string path, string extension, CancellationToken ct)
    {
        var address = await FileAddress.Of(path, extension, ct);
        var to = PathOf(address);
        Directory.CreateDirectory(Path.GetDirectoryName(to)!);
        File.Move(path, to, overwrite: true);
        return address;
    }

    public Task<Stream?> Open(string address, CancellationToken ct)
    {
        if (!FileAddress.IsOne(address)) return Task.FromResult<Stream?>(null);
        try
        {
            return Task.FromResult<Stream?>(new FileStream(PathOf(address), FileMode.Open, FileAccess.Read, FileShare.Read | FileShare.Delete, 1 << 16, FileOptions.Asynchronous | FileOptions.SequentialScan));
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
