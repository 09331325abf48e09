using BrightCircle.Data;

namespace BrightCircle.Web.Parts;

/// <summary>A field for a file of the site: a list to choose from, which scripts make into a picker with search and upload.</summary>
/// <param name="Kinds">The kinds it takes; any, where none is named.</param>
/// <param name="DocumentKinds">The endings of documents that the settings allow.</param>
public sealed record FileField(string Name, string Id, string Label, IReadOnlyList<FileKind> Kinds, FileId? Chosen, IEnumerable<StoredFile> Choices,
    IReadOnlyList<string> DocumentKinds)
{
    /// <summary>What it takes, in words.</summary>
    public string Takes => What(Kinds, DocumentKinds);

    /// <summary>The kinds of files that are taken, by the names people know them by.</summary>
    public static string What(IReadOnlyList<FileKind> kinds, IReadOnlyList<string> documents) =>
        string.Join("; ", (kinds.Count == 0 ? Enum.GetValues<FileKind>() : kinds).Select(k => k switch
        {
            FileKind.Picture => "pictures: JPEG, PNG, WebP, GIF",
            FileKind.Video => "video: MP4, WebM, OGV",
            FileKind.Audio => "sound: MP3, M4A, WAV, FLAC, OGG",
            FileKind.Document => "documents: " + string.Join(", ", documents.Select(d => d.ToUpperInvariant())),
            _ => throw new ArgumentOutOfRangeException(nameof(kinds), k, "No such kind of file."),
        }));
}
