
namespace BrightCircle.App.Files;

/// <summary>Where uploads gather their parts; shared between nodes where there are several.</summary>
public sealed class UploadFolder(string root)
{
    /// <summary>So many uploads are hashed while they come in; of more the hash is made from the whole file.</summary>
    const int MostHashes = 200;
    readonly System.Collections.Concurrent.ConcurrentDictionary<long, (long UpTo, ContentHash Hash)> hashes = new();

    public string PathOf(long id)
    {
        Directory.CreateDirectory(root);
        return Path.Combine(root, $"upload-{id}");
    }

    /// <summary>A file in it by its name.</summary>
    internal string Named(string name) => Path.Combine(root, Path.GetFileName(name));

    /// <summary>The hash that has run along up to here, for whoever goes on with it; null where this node doesn't have it, after a restart or when the parts
    /// came to several nodes.</summary>
    internal ContentHash? TakeHash(long id, long upTo)
    {
        if (hashes.TryRemove(id, out var found) && found.UpTo == upTo) return found.Hash;
        return upTo == 0 ? new ContentHash() : null;
    }

    internal void KeepHash(long id, long upTo, ContentHash hash)
    {
        // Uploads that were left lying give their room to new ones.
        if (hashes.Count >= MostHashes && hashes.Keys.Min() is var oldest) hashes.TryRemove(oldest, out _);
        hashes[id] = (upTo, hash);
    }
}
