using System.IO.Compression;
using System.Net;
using System.Net.Sockets;
using System.Text;
using BrightCircle.App.Clock;
using BrightCircle.App.Content;
using BrightCircle.App.Files;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using SkiaSharp;
using Xunit;

namespace BrightCircle.App.Tests;

public sealed class FileTests
{
    public static byte[] Png(int width, int height)
    {
        using var bitmap = new SKBitmap(width, height);
        bitmap.Erase(SKColors.SeaGreen);
        using var image = SKImage.FromBitmap(bitmap);
        return image.Encode(SKEncodedImageFormat.Png, 90).ToArray();
    }

    static byte[] Zip(params (string Name, string Text)[] entries)
    {
        using var buffer = new MemoryStream();
        using (var zip = new ZipArchive(buffer, ZipArchiveMode.Create, true))
            foreach (var (name, text) in entries)
            {
                using var w = new StreamWriter(zip.CreateEntry(name).Open());
                w.Write(text);
            }
        return buffer.ToArray();
    }

    static string Temporary(byte[] content)
    {
        var path = Path.GetTempFileName();
        File.WriteAllBytes(path, content);
        return path;
    }

    // Magic numbers as their formats state them: PDF 2.0 (ISO 32000-2) 7.5.2, ISO base media (ISO 14496-12) 4.3, EBML (RFC 8794), Ogg (RFC 3533), ID3v2, RIFF;
    // OCF for EPUB.
    [Fact]
    public void Files_are_known_by_what_is_in_them_not_by_their_names()
    {
        (byte[] Content, string Name, string? Type)[] cases =
        [
            (Png(4, 4), "photo.exe", "image/png"), (Png(4, 4), "photo.pdf", "image/png"), ("%PDF-2.0\n"u8.ToArray(), "a.pdf", "application/pdf"),
                ("%PDF-2.0\n"u8.ToArray(), "a.docx", null),
            ([0, 0, 0, 24, .. "ftypisom"u8, 0, 0, 0, 0], "a.mp4", "video/mp4"), ([0, 0, 0, 24, .. "ftypM4A "u8, 0, 0, 0, 0], "a.m4a", "audio/mp4"),
                ([0x1A, 0x45, 0xDF, 0xA3, 0, 0, 0, 0], "a.webm", "video/webm"), ("OggS\0\0"u8.ToArray(), "a.ogg", "audio/ogg"),
            ("ID3\u0004"u8.ToArray(), "a.mp3", "audio/mpeg"), ([.. "RIFF"u8, 0, 0, 0, 0, .. "WAVE"u8], "a.wav", "audio/wav"),
                ("MZ\0\0"u8.ToArray(), "a.pdf", null), ("#!/bin/sh\n"u8.ToArray(), "run.sh", null), ("<svg onload='x()'/>"u8.ToArray(), "a.svg", null),
                ("<html>"u8.ToArray(), "a.html", null),
            (Zip(("[Content_Types].xml", "<x/>"), ("word/document.xml", "<x/>")), "a.docx",
                "application/vnd.openxmlformats-officedocument.wordprocessingml.document"), (Zip(("x", "y")), "a.docx", null),
                (Zip(("mimetype", "application/epub+zip")), "a.epub", "application/epub+zip"), (Zip(("x", "y")), "a.zip", "application/zip"),
            ("a,b\n1,2\n"u8.ToArray(), "a.csv", "text/csv"), ([0x61, 0x00, 0x62], "a.csv", null), ([0xFF, 0xFE, 0x61], "a.txt", null),
                ("WEBVTT\n\n00:01.000 --> 00:02.000\nx\n"u8.ToArray(), "a.vtt", "text/vtt"), ("hello"u8.ToArray(), "a.vtt", null), ([], "a.txt", "text/plain"),
        ];
        foreach (var (content, name, type) in cases)
        {
            var path = Temporary(content);
            Assert.True(FileCheck.Know(path, name)?.MediaType == type, $"{name}: {FileCheck.Know(path, name)?.MediaType ?? "refused"}");
            File.Delete(path);
        }
    }

    // The digests of BLAKE3 for nothing and for the bytes 0, 1 … 250, 0 … (test_vectors.json of its authors, inputs of 0 and 1 bytes), and for “abc”, all from
    // memory.
    [Theory]
    [InlineData("", "af1349b9f5f9a1a6a0404dea36dcc949")]
    [InlineData("00", "2d3adedff11b61f14c886e35afa03673")]
    [InlineData("616263", "6437b3ac38465133ffb63b75273a8db5")]
    public async Task A_file_is_known_by_its_content(string hex, string address)
    {
        var path = Temporary(Convert.FromHexString(hex));
        Assert.Equal(address + ".txt", await FileAddress.Of(path, ".txt", default));
        File.Delete(path);
    }

    [Fact]
    public async Task An_upload_comes_in_parts_goes_on_after_a_break_and_is_finished_once()
    {
        await using var house = await House.Open();
        var content = Png(1300, 700);
        var upload = (await house.Get<KeepFiles, Result<Upload>>(s => s.Begin(house.Owner, @"C:\pictures\hive.png", content.Length, default))).Value!;
        Assert.Equal("hive.png", upload.Name);
        Task<Result<long>> Part(long at, int length) =>
            house.Get<KeepFiles, Result<long>>(s => s.Part(house.Owner, upload.Id, at, new MemoryStream(content, (int)at, length), default));
        Assert.Equal(1000, (await Part(0, 1000)).Value);
        // The same part again, or one too far ahead, is answered with how far it is.
        Assert.Equal(1000, (await Part(0, 1000)).Value);
        Assert.Equal(1000, (await Part(2000, 10)).Value);
        Assert.Contains("Only 1000", (await house.Get<KeepFiles, Result<StoredFile>>(s => s.Finish(house.Owner, upload.Id, null, default))).Refusal,
            StringComparison.Ordinal);
        Assert.Null(await house.Get<KeepFiles, Upload?>(s => s.Find(house.Owner with { AccountId = 9 }, upload.Id, default)));
        // A line that breaks: what came counts.
        var broken = await house.Get<KeepFiles, Result<long>>(s => s.Part(house.Owner, upload.Id, 1000, new Breaking(content.AsMemory(1000, 500)), default));
        Assert.Equal(1500, broken.Value);
        await Part(1500, content.Length - 1500);
        var file = (await house.Get<KeepFiles, Result<StoredFile>>(s => s.Finish(house.Owner, upload.Id, "A hive", default))).Value!;
        Assert.Equal((1300, 700, FileKind.Picture, "A hive"), (file.Width, file.Height, file.Kind, file.Alt));
        Assert.Equal(["1600", "480", "960"], file.Sizes.Keys.Order(StringComparer.Ordinal));
        Assert.Equal(file.Id, (await house.Get<KeepFiles, Result<StoredFile>>(s => s.Finish(house.Owner, upload.Id, null, default))).Value!.Id);
        await using var stored = await house.Services.GetRequiredService<IFileStore>().Open(file.Address, default);
        using var copy = new MemoryStream();
        await stored!.CopyToAsync(copy);
        Assert.Equal(content, copy.ToArray());
        // The address is the hash of the whole, though it came in pieces, one of them twice and one broken off.
        var all = new ContentHash();
        all.Add(content);
        var address = all.AddressWith(".png");
        Assert.Equal(address, file.Address);

        // Where the parts come to two nodes, neither of them has the hash that ran along: the file is read for it.
        await using var second = await house.AnotherNode();
        var split = (await house.Get<KeepFiles, Result<Upload>>(s => s.Begin(house.Owner, "again.png", content.Length, default))).Value!;
        for (var (at, n) = (0, 0); at < content.Length; at += 700, n++)
            await (n % 2 == 0 ? house : second).Get<KeepFiles,
                Result<long>>(s => s.Part(house.Owner, split.Id, at, new MemoryStream(content, at, Math.Min(700, content.Length - at)), default));
        Assert.Equal(address, (await second.Get<KeepFiles, Result<StoredFile>>(s => s.Finish(house.Owner, split.Id, null, default))).Value!.Address);
    }

    sealed class Breaking(ReadOnlyMemory<byte> first) : MemoryStream
    {
        bool sent;
        public override ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
        {
            if (sent) throw new IOException("The line broke.");
            sent = true;
            first.CopyTo(buffer);
            return new(first.Length);
        }
    }

    [Fact]
    public async Task A_file_is_replaced_everywhere_and_only_goes_when_it_is_used_nowhere()
    {
        await using var house = await House.Open();
        Task<Result<StoredFile>> Keep(byte[] content, string name) =>
            house.Get<KeepFiles, Result<StoredFile>>(s => s.Whole(house.Owner, new MemoryStream(content), name, null, default));
        var file = (await Keep(Png(20, 10), "hive.png")).Value!;
        Assert.Equal(file.Id, (await Keep(Png(20, 10), "hive.png")).Value!.Id);
        Assert.Contains("isn’t taken", (await Keep("MZ"u8.ToArray(), "hive.png")).Refusal, StringComparison.Ordinal);
        var piece =
            (await house.Get<SavePiece, Result<PieceId>>(
            s => s.New(house.Owner, new("Pictures", Blocks: [new Block.Pictures([new(file.Id, "A hive", "")]) { Id = house.NextBlock() }]), default))).Value;
        Assert.Equal("It is still used. Take it out there first, or replace it.",
            (await house.Get<KeepFiles, Result>(s => s.Remove(house.Owner, file.Id, default))).Refusal);
        Assert.Contains("of its own kind", (await house.Get<KeepFiles,
            Result>(s => s.Replace(house.Owner, file.Id, new MemoryStream("%PDF-1.7"u8.ToArray()), "a.pdf", default))).Refusal, StringComparison.Ordinal);
        Assert.True((await house.Get<KeepFiles, Result>(s => s.Replace(house.Owner, file.Id, new MemoryStream(Png(30, 10)), "better.png", default))).Ok);
        Assert.Equal(30, await house.Ask(db => db.Files.Select(f => f.Width).SingleAsync()));
        var lesson = house.Now.PieceById[piece].Outline.Lessons[0];
        await house.Do<SaveLesson>(s => s.Do(house.Owner, lesson.Id, new("Pictures", null, false, DoneWhen.Marked, null, false, [], lesson.Version), default));
        Assert.Equal(1, (await house.Get<FileList, (IReadOnlyList<FileRow>, int)>(s => s.List(new(UnusedOnly: true), default))).Item2);
        Assert.True((await house.Get<KeepFiles, Result>(s => s.Remove(house.Owner, file.Id, default))).Ok);
    }

    [Fact]
    public async Task A_cover_is_cut_and_turned()
    {
        await using var house = await House.Open();
        var file = (await house.Get<KeepFiles, Result<StoredFile>>(s => s.Whole(house.Owner, new MemoryStream(Png(400, 200)), "a.png", null, default))).Value!;
        var cut = (await house.Get<KeepFiles, Result<StoredFile>>(s => s.Cut(house.Owner, file.Id, new(0.25, 0.5, 0.5, 0.25, 0), default))).Value!;
        Assert.Equal((200, 50), (cut.Width, cut.Height));
        var turned = (await house.Get<KeepFiles, Result<StoredFile>>(s => s.Cut(house.Owner, file.Id, new(0, 0, 1, 1, 90), default))).Value!;
        Assert.Equal((200, 400), (turned.Width, turned.Height));
        Assert.False((await house.Get<KeepFiles, Result<StoredFile>>(s => s.Cut(house.Owner, file.Id, new(0, 0, 0, 1, 0), default))).Ok);
    }

    [Fact]
    public async Task Signed_addresses_are_good_for_what_they_say_and_for_a_while()
    {
        var wall = new StandingWall();
        await using var house = await House.Open(s => s.AddSingleton<IWallClock>(wall));
        var links = house.Services.GetRequiredService<FileLinks>();
        await links.Ready();
        var parts = links.For(new FileId(7), "a b.pdf", 480).Split('/');
        bool Good(long id, string size) => links.IsGood(id, size, long.Parse(parts[4], System.Globalization.CultureInfo.InvariantCulture), parts[5]);
        Assert.True(Good(7, "w480"));
        Assert.False(Good(8, "w480"));
        Assert.False(Good(7, "full"));
        // Within the hour the address stays the same, so that browsers keep what they have.
        Assert.Equal(string.Join('/', parts), links.For(new FileId(7), "a b.pdf", 480));
        wall.Moment += NodaTime.Duration.FromHours(8);
        Assert.False(Good(7, "w480"));
        var token = links.TokenFor("feed", 12, 3);
        Assert.Equal((12, 3), links.ReadToken("feed", token));
        Assert.Null(links.ReadToken("calendar", token));
        Assert.Null(links.ReadToken("feed", "13" + token[2..]));
    }

    sealed class StandingWall : IWallClock
    {
        public NodaTime.Instant Moment { get; set; } = NodaTime.Instant.FromUtc(2026, 11, 24, 10, 5);
    }

    [Fact]
    public async Task A_store_that_speaks_S3_keeps_and_gives_ranges()
    {
        using var server = new SmallS3();
        using var store = new S3FileStore(new() { Bucket = "tansy", Url = server.Url, AccessKey = "key", Secret = "secret" },
            Path.Combine(Path.GetTempPath(), "bright-s3"));
        var content = new byte[300_000];
        new Random(5).NextBytes(content);
        var address = await store.Save(new MemoryStream(content), ".bin", default);
        Assert.True(FileAddress.IsOne(address));
        await using (var whole = await store.Open(address, default))
        {
            Assert.Equal(content.Length, whole!.Length);
            whole.Position = 250_000;
            var tail = new byte[60_000];
            Assert.Equal(50_000, await whole.ReadAtLeastAsync(tail, 50_000, throwOnEndOfStream: false));
            Assert.Equal(content[250_000..], tail[..50_000]);
            // Nothing before the range was fetched.
            Assert.Equal(50_000, server.Sent);
            Assert.Equal(0, await whole.ReadAsync(tail));
        }
        Assert.Null(await store.Open(new string('0', 32) + ".bin", default));
        Assert.Null(await store.Open("../../etc/passwd", default));
        await store.Delete(address, default);
        Assert.Null(await store.Open(address, default));
    }

    /// <summary>As much of an S3-compatible store as the product uses, on loopback.</summary>
    sealed class SmallS3 : IDisposable
    {
        readonly HttpListener listener = new();
        readonly Dictionary<string, byte[]> objects = [];
        public string Url { get; }
        public long Sent { get; private set; }

        public SmallS3()
        {
            using (var l = new TcpListener(IPAddress.Loopback, 0))
            {
                l.Start();
                Url = $"http://127.0.0.1:{((IPEndPoint)l.LocalEndpoint).Port}";
            }
            listener.Prefixes.Add(Url + "/");
            listener.Start();
            _ = Task.Run(Serve);
        }

        async Task Serve()
        {
            while (listener.IsListening)
            {
                HttpListenerContext c;
                try { c = await listener.GetContextAsync(); }
                catch (Exception e) when (e is HttpListenerException or ObjectDisposedException) { return; }
                var key = c.Request.Url!.AbsolutePath;
                Assert.StartsWith("AWS4-HMAC-SHA256", c.Request.Headers["Authorization"], StringComparison.Ordinal);
                switch (c.Request.HttpMethod)
                {
                    case "PUT":
                        using (var body = new MemoryStream())
                        {
                            await c.Request.InputStream.CopyToAsync(body);
                            objects[key] = Unchunked(body.ToArray(), c.Request.Headers["x-amz-decoded-content-length"]);
                        }
                        c.Response.Headers["ETag"] = "\"x\"";
                        break;
                    case "DELETE": objects.Remove(key); c.Response.StatusCode = 204; break;
                    case var _ when !objects.ContainsKey(key): c.Response.StatusCode = 404; break;
                    case "HEAD": c.Response.ContentLength64 = objects[key].Length; c.Response.Headers["ETag"] = "\"x\""; break;
                    default:
                        var range = c.Request.Headers["Range"]!["bytes=".Length..].Split('-').Select(long.Parse).ToArray();
                        var part = objects[key].AsMemory((int)range[0], (int)(range[1] - range[0] + 1));
                        c.Response.StatusCode = 206;
                        c.Response.ContentLength64 = part.Length;
                        Sent += part.Length;
                        await c.Response.OutputStream.WriteAsync(part);
                        break;
                }
                c.Response.Close();
            }
        }

        /// <summary>The client may sign its body in chunks: each has its length in hex before it.</summary>
        static byte[] Unchunked(byte[] body, string? decoded)
        {
            if (decoded is null) return body;
            using var plain = new MemoryStream();
            var at = 0;
            while (at < body.Length)
            {
                var end = body.AsSpan(at).IndexOf("\r\n"u8) + at;
                var size = Convert.ToInt32(Encoding.ASCII.GetString(body, at, end - at).Split(';')[0], 16);
                if (size == 0) break;
                plain.Write(body, end + 2, size);
                at = end + 2 + size + 2;
            }
            return plain.ToArray();
        }

        public void Dispose() => listener.Close();
    }

    [Fact]
    public async Task What_the_virus_scanner_finds_is_not_kept()
    {
        using var scanner = new TcpListener(IPAddress.Loopback, 0);
        scanner.Start();
        var answering = Task.Run(async () =>
        {
            foreach (var answer in new[] { "stream: OK\0", "stream: Test.Signature FOUND\0" })
            {
                using var client = await scanner.AcceptTcpClientAsync();
                await using var net = client.GetStream();
                var command = new byte[10];
                await net.ReadExactlyAsync(command);
                Assert.Equal("zINSTREAM\0", Encoding.ASCII.GetString(command));
                var length = new byte[4];
                while (true)
                {
                    await net.ReadExactlyAsync(length);
                    var n = System.Buffers.Binary.BinaryPrimitives.ReadInt32BigEndian(length);
                    if (n == 0) break;
                    await net.ReadExactlyAsync(new byte[n]);
                }
                await net.WriteAsync(Encoding.ASCII.GetBytes(answer));
            }
        });
        var scan = new StreamVirusScan("127.0.0.1", ((IPEndPoint)scanner.LocalEndpoint).Port);
        var path = Temporary(new byte[200_000]);
        Assert.Null(await scan.Find(path, default));
        Assert.Equal("Test.Signature", await scan.Find(path, default));
        await answering;
        File.Delete(path);
    }
}
