using System.Net;
using Amazon.Runtime;
using Amazon.S3;
using Amazon.S3.Model;
using Amazon.S3.Transfer;

namespace BrightCircle.App.Files;

/// <summary>Settings of an S3-compatible store. With a bucket set, files are kept there instead of in a folder.</summary>
public sealed class S3Settings
{
    public string Bucket { get; set; } = "";
    /// <summary>The service's address, like https://s3.example.net.</summary>
    public string Url { get; set; } = "";
    public string Region { get; set; } = "us-east-1";
    public string AccessKey { get; set; } = "";
    public string Secret { get; set; } = "";
}

/// <summary>Files in a bucket of an S3-compatible store, streamed in both directions.</summary>
public sealed class S3FileStore : IFileStore, IDisposable
{
    readonly AmazonS3Client client;
    readonly string bucket, temporary;

    public S3FileStore(S3Settings settings, string temporary)
    {
        (bucket, this.temporary) = (settings.Bucket, temporary);
        client = new(new BasicAWSCredentials(settings.AccessKey, settings.Secret), new AmazonS3Config
        {
            ServiceURL = settings.Url,
            ForcePathStyle = true,
            AuthenticationRegion = settings.Region,
            // Not every compatible store knows the newer checksums.
            RequestChecksumCalculation = RequestChecksumCalculation.WHEN_REQUIRED,
            ResponseChecksumValidation = ResponseChecksumValidation.WHEN_REQUIRED,
        });
    }

    public string NewTemporary()
    {
        Directory.CreateDirectory(temporary);
        return Path.Combine(temporary, "tmp-" + Path.GetRandomFileName());
    }

    public async Task Take(string path, string address, CancellationToken ct)
    {
        using (var transfer = new TransferUtility(client)) await transfer.UploadAsync(path, bucket, address, ct);
        File.Delete(path);
    }

    public async Task<Stream?> Open(string address, CancellationToken ct)
    {
        if (!FileAddress.IsOne(address)) return null;
        try
        {
            var facts = await client.GetObjectMetadataAsync(bucket, address, ct);
            return new RangedStream(facts.ContentLength,
                async (from, token) =>
                (await client.GetObjectAsync(new GetObjectRequest
                {
                    BucketName = bucket,
                    Key = address,
                    ByteRange = new ByteRange(from, facts.ContentLength - 1)
                }, token)).ResponseStream);
        }
        catch (AmazonS3Exception e) when (e.StatusCode == HttpStatusCode.NotFound)
        {
            return null;
        }
    }

    public async Task Delete(string address, CancellationToken ct)
    {
        if (FileAddress.IsOne(address)) await client.DeleteObjectAsync(bucket, address, ct);
    }

    public void Dispose() => client.Dispose();
}

/// <summary>Reads something far away of a known length from wherever it is moved to; nothing is fetched before it is read.</summary>
sealed class RangedStream(long length, Func<long, CancellationToken, Task<Stream>> open) : Stream
{
    Stream? inner;
    long position;

    public override bool CanRead => true;
    public override bool CanSeek => true;
    public override bool CanWrite => false;
    public override long Length => length;
    public override long Position { get => position; set => Seek(value, SeekOrigin.Begin); }

    public override long Seek(long offset, SeekOrigin origin)
    {
        var to = origin switch { SeekOrigin.Begin => offset, SeekOrigin.Current => position + offset, _ => length + offset };
        ArgumentOutOfRangeException.ThrowIfNegative(to);
        if (to != position)
        {
            inner?.Dispose();
            (inner, position) = (null, to);
        }
        return position;
    }

    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        if (position >= length || buffer.IsEmpty) return 0;
        inner ??= await open(position, cancellationToken);
        var read = await inner.ReadAsync(buffer, cancellationToken);
        position += read;
        return read;
    }

    public override Task<int> ReadAsync(byte[] buffer, int offset, int count, CancellationToken cancellationToken) =>
        ReadAsync(buffer.AsMemory(offset, count), cancellationToken).AsTask();
    public override int Read(byte[] buffer, int offset, int count) => ReadAsync(buffer.AsMemory(offset, count)).AsTask().GetAwaiter().GetResult();
    public override void Flush() { }
    public override void SetLength(long value) => throw new NotSupportedException();
    public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();

    protected override void Dispose(bool disposing)
    {
        if (disposing) inner?.Dispose();
        base.Dispose(disposing);
    }
}
