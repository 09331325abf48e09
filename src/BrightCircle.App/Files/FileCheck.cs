using System.Buffers.Binary;
using System.IO.Compression;
using System.Net.Sockets;
using System.Text;
using BrightCircle.Data;
using SkiaSharp;

namespace BrightCircle.App.Files;

/// <summary>What a file is, by what is in it.</summary>
public sealed record KnownFile(FileKind Kind, string MediaType, string Extension);

/// <summary>Tells what a file is by its content; its name only has to agree.</summary>
public static class FileCheck
{
    /// <param name="path">The file on this machine.</param>
    /// <param name="name">The name it came with.</param>
    /// <returns>Null where it is nothing that is taken.</returns>
    public static KnownFile? Know(string path, string name)
    {
        var extension = Path.GetExtension(name).TrimStart('.').ToLowerInvariant();
        Span<byte> head = stackalloc byte[64];
        int read;
        using (var file = File.OpenRead(path)) read = file.ReadAtLeast(head, head.Length, throwOnEndOfStream: false);
        var h = head[..read];
        if (Picture(path) is { } picture) return picture;
        if (Starts(h, "%PDF-")) return extension == "pdf" ? new(FileKind.Document, "application/pdf", ".pdf") : null;
        if (h.Length >= 12 && h[4..8].SequenceEqual("ftyp"u8))
            return Ascii(h[8..12]) is "M4A " or "M4B "
                || extension == "m4a" ? new(FileKind.Audio, "audio/mp4", ".m4a") : new(FileKind.Video, "video/mp4", ".mp4");
        if (h.Length >= 4 && BinaryPrimitives.ReadUInt32BigEndian(h) == 0x1A45DFA3)
            return extension == "weba" ? new(FileKind.Audio, "audio/webm", ".weba") : new(FileKind.Video, "video/webm", ".webm");
        if (Starts(h, "OggS")) return extension == "ogv" ? new(FileKind.Video, "video/ogg", ".ogv") : new(FileKind.Audio, "audio/ogg", ".ogg");
        if (Starts(h, "RIFF") && h.Length >= 12 && Ascii(h[8..12]) == "WAVE") return new(FileKind.Audio, "audio/wav", ".wav");
        if (Starts(h, "fLaC")) return new(FileKind.Audio, "audio/flac", ".flac");
        if (Starts(h, "ID3") || h.Length >= 2 && h[0] == 0xFF && (h[1] & 0xE6) == 0xE2)
            return extension == "mp3" ? new(FileKind.Audio, "audio/mpeg", ".mp3") : null;
        if (Starts(h, "PK\u0003\u0004")) return Zip(path, extension);
        return extension is "txt" or "csv" or "md" or "ics" or "vtt"
            && IsText(path, extension) ? new(FileKind.Document, TextTypes[extension], "." + extension) : null;
    }

    static readonly Dictionary<string, string> TextTypes =
        new() { ["txt"] = "text/plain", ["csv"] = "text/csv", ["md"] = "text/markdown", ["ics"] = "text/calendar", ["vtt"] = "text/vtt" };

    static readonly Dictionary<string, string> OfficeTypes = new()
    {
        ["docx"] = "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
        ["xlsx"] = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        ["pptx"] = "application/vnd.openxmlformats-officedocument.presentationml.presentation",
        ["odt"] = "application/vnd.oasis.opendocument.text",
        ["ods"] = "application/vnd.oasis.opendocument.spreadsheet",
        ["odp"] = "application/vnd.oasis.opendocument.presentation",
        ["epub"] = "application/epub+zip",
    };

    static KnownFile? Picture(string path)
    {
        using var codec = SKCodec.Create(path);
        if (codec is null || !PictureSizes.Fits(codec.Info)) return null;
        return codec.EncodedFormat switch
        {
            SKEncodedImageFormat.Jpeg => new(FileKind.Picture, "image/jpeg", ".jpg"),
            SKEncodedImageFormat.Png => new(FileKind.Picture, "image/png", ".png"),
            SKEncodedImageFormat.Webp => new(FileKind.Picture, "image/webp", ".webp"),
            SKEncodedImageFormat.Gif => new(FileKind.Picture, "image/gif", ".gif"),
            _ => null,
        };
    }

    /// <summary>An archive is what it holds: office files have their list of parts, OpenDocument and EPUB name their type in the first entry.</summary>
    static KnownFile? Zip(string path, string extension)
    {
        try
        {
            using var zip = ZipFile.OpenRead(path);
            if (extension is "docx" or "xlsx" or "pptx")
            {
                var folder = extension switch { "docx" => "word/", "xlsx" => "xl/", _ => "ppt/" };
                return zip.GetEntry("[Content_Types].xml") is not null
                    && zip.Entries.Any(e => e.FullName.StartsWith(folder, StringComparison.Ordinal))
                    ? new(FileKind.Document, OfficeTypes[extension], "." + extension) : null;
            }
            if (extension is "odt" or "ods" or "odp" or "epub")
            {
                if (zip.GetEntry("mimetype") is not { Length: < 200 } type) return null;
                using var reader = new StreamReader(type.Open(), Encoding.ASCII);
                return reader.ReadToEnd().Trim() == OfficeTypes[extension] ? new(FileKind.Document, OfficeTypes[extension], "." + extension) : null;
            }
            return extension == "zip" && zip.Entries.Count >= 0 ? new(FileKind.Document, "application/zip", ".zip") : null;
        }
        catch (InvalidDataException)
        {
            return null;
        }
    }

    /// <summary>Text is UTF-8 without control characters; captions and calendars have their first line.</summary>
    static bool IsText(string path, string extension)
    {
        if (new FileInfo(path).Length > 20 * 1024 * 1024) return false;
        try
        {
            var text = new UTF8Encoding(false, throwOnInvalidBytes: true).GetString(File.ReadAllBytes(path));
            if (text.Any(c => c < ' ' && c is not ('\n' or '\r' or '\t' or '\f'))) return false;
            return extension switch
            {
                "vtt" => Core.Content.WebVtt.Read(text).Ok,
                "ics" => text.TrimStart('\uFEFF').StartsWith("BEGIN:VCALENDAR", StringComparison.OrdinalIgnoreCase),
                _ => true,
            };
        }
        catch (DecoderFallbackException)
        {
            return false;
        }
    }

    static bool Starts(ReadOnlySpan<byte> head, string with) => head.Length >= with.Length && Ascii(head[..with.Length]) == with;
    static string Ascii(ReadOnlySpan<byte> bytes) => Encoding.Latin1.GetString(bytes);
}

/// <summary>Looks for malware in what is uploaded.</summary>
public interface IVirusScan
{
    /// <returns>What was found, or null.</returns>
    Task<string?> Find(string path, CancellationToken ct);
}

/// <summary>Where no scanner is set up.</summary>
public sealed class NoVirusScan : IVirusScan
{
    public Task<string?> Find(string path, CancellationToken ct) => Task.FromResult<string?>(null);
}

/// <summary>Asks a scanner that speaks clamd's stream protocol (INSTREAM) over TCP.</summary>
public sealed class StreamVirusScan(string host, int port) : IVirusScan
{
    public async Task<string?> Find(string path, CancellationToken ct)
    {
        using var tcp = new TcpClient();
        await tcp.ConnectAsync(host, port, ct);
        await using var net = tcp.GetStream();
        await net.WriteAsync("zINSTREAM\0"u8.ToArray(), ct);
        var buffer = new byte[64 * 1024 + 4];
        await using (var file = File.OpenRead(path))
            while (await file.ReadAsync(buffer.AsMemory(4), ct) is > 0 and var n)
            {
                BinaryPrimitives.WriteInt32BigEndian(buffer, n);
                await net.WriteAsync(buffer.AsMemory(0, n + 4), ct);
            }
        await net.WriteAsync(new byte[4], ct);
        using var reader = new StreamReader(net, Encoding.UTF8);
        var answer = (await reader.ReadToEndAsync(ct)).TrimEnd('\0', '\n');
        return answer.EndsWith(" OK", StringComparison.Ordinal) ? null : answer.EndsWith(" FOUND", StringComparison.Ordinal)
            ? answer.Replace("stream: ", "", StringComparison.Ordinal)[..^6] : throw new IOException("The virus scanner answered: " + answer);
    }
}
