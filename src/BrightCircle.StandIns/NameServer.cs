using System.Buffers.Binary;
using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;

namespace BrightCircle.StandIns;

/// <summary>A stand-in for the DNS (RFC 1035): answers questions for lines of text, over UDP, with those that were put in at the Postbox.</summary>
public sealed class NameServer : IDisposable
{
    const int Text = 16, MostAnswer = 4000;
    readonly Lock gate = new();
    readonly List<NameLine> lines = [];
    readonly string? path;
    UdpClient? udp;
    /// <summary>Doesn't answer, as if nobody were there.</summary>
    public volatile bool Silent;

    public NameServer(string? path)
    {
        this.path = path;
        if (path is not null && File.Exists(path)) lines = JsonSerializer.Deserialize<List<NameLine>>(File.ReadAllText(path)) ?? [];
    }

    public IReadOnlyList<NameLine> Lines { get { lock (gate) return [.. lines]; } }

    public void Put(string name, string text) => Change(l =>
    {
        l.RemoveAll(x => x.Is(name, text));
        l.Add(new(name.Trim().TrimEnd('.').ToLowerInvariant(), text.Trim()));
    });

    public void Take(string name, string text) => Change(l => l.RemoveAll(x => x.Is(name, text)));

    void Change(Action<List<NameLine>> change)
    {
        lock (gate)
        {
            change(lines);
            if (path is null) return;
            Directory.CreateDirectory(Path.GetDirectoryName(path)!);
            File.WriteAllText(path, JsonSerializer.Serialize(lines));
        }
    }

    public void Start(int port)
    {
        udp = new(new IPEndPoint(IPAddress.Loopback, port));
        _ = Answer(udp);
    }

    async Task Answer(UdpClient server)
    {
        while (true)
            try
            {
                var asked = await server.ReceiveAsync();
                if (!Silent && To(asked.Buffer) is { } answer) await server.SendAsync(answer, asked.RemoteEndPoint);
            }
            catch (ObjectDisposedException)
            {
                return;
            }
            catch (SocketException)
            {
                // Whoever asked has gone.
            }
    }

    /// <summary>RFC 1035, section 4.1: the header, the question as it was asked, and a record for each line.</summary>
    byte[]? To(byte[] asked)
    {
        var (at, name) = (12, new StringBuilder());
        while (at < asked.Length && asked[at] is > 0 and < 64 and var length && at + length < asked.Length)
        {
            name.Append(name.Length > 0 ? "." : "").Append(Encoding.ASCII.GetString(asked, at + 1, length));
            at += length + 1;
        }
        if (at + 5 > asked.Length) return null;
        var type = BinaryPrimitives.ReadUInt16BigEndian(asked.AsSpan(at + 1));
        var known = Lines.Where(l => l.Name.Equals(name.ToString(), StringComparison.OrdinalIgnoreCase)).ToArray();
        var found = type == Text ? known : [];
        using var answer = new MemoryStream();
        void Two(int value) => answer.Write([(byte)(value >> 8), (byte)value]);
        answer.Write(asked.AsSpan(0, 2));
        // An answer that counts, asked for and given in full; “no such name” where there is none.
        Two(0x8580 | (known.Length == 0 ? 3 : 0));
        Two(1);
        Two(found.Length);
        Two(0);
        Two(0);
        answer.Write(asked.AsSpan(12, at + 5 - 12));
        foreach (var line in found)
        {
            var bytes = Encoding.UTF8.GetBytes(line.Text);
            var parts = bytes.Chunk(255).ToArray();
            Two(0xC00C);
            Two(Text);
            Two(1);
            answer.Write([0, 0, 0, 60]);
            Two(bytes.Length + parts.Length);
            foreach (var part in parts)
            {
                answer.WriteByte((byte)part.Length);
                answer.Write(part);
            }
        }
        return answer.Length <= MostAnswer ? answer.ToArray() : null;
    }

    public void Dispose() => udp?.Dispose();
}

public sealed record NameLine(string Name, string Text)
{
    public bool Is(string name, string text) => Name.Equals(name.Trim().TrimEnd('.'), StringComparison.OrdinalIgnoreCase) && Text == text.Trim();
}
