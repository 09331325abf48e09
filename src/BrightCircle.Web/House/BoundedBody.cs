namespace BrightCircle.Web.House;

/// <summary>Reads a request's body as far as it may be long.</summary>
public static class BoundedBody
{
    /// <returns>Null where it is longer; no more of it is read then.</returns>
    public static async Task<byte[]?> Read(HttpRequest request, int most, CancellationToken ct)
    {
        if (request.ContentLength > most) return null;
        var buffer = new byte[most + 1];
        var length = 0;
        while (length < buffer.Length)
        {
            var n = await request.Body.ReadAsync(buffer.AsMemory(length), ct);
            if (n == 0) return buffer[..length];
            length += n;
        }
        return null;
    }
}
