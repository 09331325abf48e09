using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Text.Json;
using MimeKit;

namespace BrightCircle.StandIns;

public sealed record KeptMessage(long Id, DateTimeOffset At, string From, string To, string Subject, string MessageId, DateTimeOffset Date, byte[] Raw)
{
    public MimeMessage Parse() => MimeMessage.Load(new MemoryStream(Raw));
}

/// <summary>The Postbox's memory: messages and the addresses it refuses or delays on purpose.</summary>
public sealed class PostboxState : IDisposable
{
    readonly Lock gate = new();
    readonly List<KeptMessage> messages = [];
    readonly HashSet<string> seen = [];
    readonly Dictionary<string, string> rules = new(StringComparer.OrdinalIgnoreCase);
    readonly StreamWriter? file;
    readonly string? rulesPath;
    public volatile bool Down;

    sealed record Line(DateTimeOffset At, string From, string To, byte[] Raw);

    public PostboxState(string? folder)
    {
        if (folder is null) return;
        Directory.CreateDirectory(folder);
        var path = Path.Combine(folder, "messages.jsonl");
        rulesPath = Path.Combine(folder, "rules.json");
        if (File.Exists(path))
            foreach (var text in File.ReadLines(path))
            {
                try { if (JsonSerializer.Deserialize<Line>(text) is { } l) Take(l); }
                catch (JsonException) { }
            }
        if (File.Exists(rulesPath)) foreach (var (a, r) in JsonSerializer.Deserialize<Dictionary<string, string>>(File.ReadAllText(rulesPath)) ?? [])
            rules[a] = r;
        file = new(new FileStream(path, FileMode.Append, FileAccess.Write, FileShare.Read), new UTF8Encoding(false)) { AutoFlush = true };
    }

    /// <returns>False where a message with that Message-ID for that address is here already: mail stores keep one.</returns>
    bool Take(Line l)
    {
        var headers = HeaderList.Load(new MemoryStream(l.Raw));
        var id = headers[HeaderId.MessageId] ?? "";
        if (id.Length > 0 && !seen.Add(id + " " + l.To)) return false;
        var date = DateTimeOffset.TryParse(headers[HeaderId.Date], CultureInfo.InvariantCulture, out var d) ? d : l.At;
        messages.Add(new(messages.Count + 1, l.At, l.From, l.To, headers[HeaderId.Subject] ?? "", id, date, l.Raw));
        return true;
    }

    public void Add(string from, string to, byte[] raw)
    {
        lock (gate)
        {
            var line = new Line(DateTimeOffset.UtcNow, from, to, raw);
            if (Take(line)) file?.WriteLine(JsonSerializer.Serialize(line));
        }
    }

    public IReadOnlyList<KeptMessage> Find(string? search)
    {
        lock (gate)
            return [.. messages.Where(m => string.IsNullOrWhiteSpace(search) || m.To.Contains(search, StringComparison.OrdinalIgnoreCase)
                || m.Subject.Contains(search, StringComparison.OrdinalIgnoreCase)).Reverse()];
    }

    public KeptMessage? Get(long id)
    {
        lock (gate) return id >= 1 && id <= messages.Count ? messages[(int)id - 1] : null;
    }

    /// <param name="rule">"refuse", "delay", or null for neither.</param>
    public void SetRule(string address, string? rule)
    {
        lock (gate)
        {
            if (rule is null) rules.Remove(address);
            else rules[address] = rule;
            if (rulesPath is not null) File.WriteAllText(rulesPath, JsonSerializer.Serialize(rules));
        }
    }

    public string? RuleFor(string address)
    {
        lock (gate) return rules.GetValueOrDefault(address);
    }

    public IReadOnlyDictionary<string, string> Rules()
    {
        lock (gate) return new Dictionary<string, string>(rules);
    }

    public void Dispose() => file?.Dispose();
}

/// <summary>A small SMTP server (RFC 5321): takes mail on loopback, refuses or delays an address on purpose.</summary>
public sealed class SmtpServer(PostboxState box) : IDisposable
{
    const int MaxBytes = 30 * 1024 * 1024;
    readonly CancellationTokenSource stop = new();
    TcpListener? listener;

    public int Start(int port)
    {
        listener = new(IPAddress.Loopback, port);
        listener.Start();
        _ = Accept();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    async Task Accept()
    {
        while (!stop.IsCancellationRequested)
        {
            try
            {
                var client = await listener!.AcceptTcpClientAsync(stop.Token);
                _ = Serve(client);
            }
            catch (Exception e) when (e is OperationCanceledException or SocketException or ObjectDisposedException)
            {
                if (stop.IsCancellationRequested) return;
            }
        }
    }

    async Task Serve(TcpClient client)
    {
        using var _ = client;
        try
        {
            client.NoDelay = true;
            await using var stream = client.GetStream();
            var reader = new LineReader(stream);
            async Task Say(string line) => await stream.WriteAsync(Encoding.UTF8.GetBytes(line + "\r\n"), stop.Token);

            if (box.Down)
            {
                await Say("421 postbox.example is closed for now");
                return;
            }
            await Say("220 postbox.example ready");
            string from = "";
            var to = new List<string>();
            while (await reader.Line(stop.Token) is { } bytes)
            {
                var line = Encoding.UTF8.GetString(bytes);
                var verb = line.Split(' ', 2)[0].ToUpperInvariant();
                switch (verb)
                {
                    case "EHLO": await Say($"250-postbox.example\r\n250-SIZE {MaxBytes}\r\n250-8BITMIME\r\n250-SMTPUTF8\r\n250 PIPELINING"); break;
                    case "HELO": await Say("250 postbox.example"); break;
                    case "MAIL": from = Address(line); to.Clear(); await Say("250 ok"); break;
                    case "RCPT":
                        var address = Address(line);
                        switch (box.RuleFor(address))
                        {
                            case "refuse": await Say($"550 {address} doesn't live here"); break;
                            case "delay": await Say($"451 {address} is busy, try later"); break;
                            default: to.Add(address); await Say("250 ok"); break;
                        }
                        break;
                    case "DATA" when to.Count > 0:
                        await Say("354 go on, end with a dot");
                        var raw = await Data(reader);
                        if (raw is null)
                        {
                            await Say("552 too large");
                            break;
                        }
                        foreach (var one in to) box.Add(from, one, raw);
                        to.Clear();
                        await Say("250 kept");
                        break;
                    case "DATA": await Say("503 nobody to give it to"); break;
                    case "RSET": from = ""; to.Clear(); await Say("250 ok"); break;
                    case "NOOP": await Say("250 ok"); break;
                    case "QUIT": await Say("221 good bye"); return;
                    default: await Say("500 not understood"); break;
                }
            }
        }
        catch (Exception e) when (e is IOException or OperationCanceledException or SocketException) { /* the client went away */ }
    }

    static string Address(string line)
    {
        var a = line.IndexOf('<');
        var b = line.IndexOf('>');
        return a >= 0 && b > a ? line[(a + 1)..b] : "";
    }

    async Task<byte[]?> Data(LineReader reader)
    {
        var all = new MemoryStream();
        while (await reader.Line(stop.Token) is { } line)
        {
            if (line is [(byte)'.']) return all.Length > MaxBytes ? null : all.ToArray();
            if (all.Length > MaxBytes) continue;
            // RFC 5321, 4.5.2: a leading dot was doubled on the way.
            all.Write(line.AsSpan(line is [(byte)'.', ..] ? 1 : 0));
            all.Write("\r\n"u8);
        }
        throw new IOException("Cut off in the middle of a message.");
    }

    public void Dispose()
    {
        stop.Cancel();
        listener?.Stop();
    }

    /// <summary>Lines of bytes up to LF, without the line end.</summary>
    sealed class LineReader(Stream stream)
    {
        readonly byte[] buffer = new byte[32 * 1024];
        int at, filled;

        public async Task<byte[]?> Line(CancellationToken ct)
        {
            var line = new MemoryStream();
            while (true)
            {
                if (at == filled)
                {
                    filled = await stream.ReadAsync(buffer, ct);
                    at = 0;
                    if (filled == 0) return line.Length == 0 ? null : line.ToArray();
                }
                var end = Array.IndexOf(buffer, (byte)'\n', at, filled - at);
                var take = end < 0 ? filled : end;
                line.Write(buffer, at, take - at);
                at = end < 0 ? filled : end + 1;
                if (end < 0) continue;
                var bytes = line.ToArray();
                return bytes is [.., (byte)'\r'] ? bytes[..^1] : bytes;
            }
        }

    }
}
