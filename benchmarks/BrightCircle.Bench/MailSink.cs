using System.Net;
using System.Net.Sockets;
using System.Text;

namespace BrightCircle.Bench;

/// <summary>A mail server (RFC 5321) that takes everything and keeps nothing, so that only the sending is measured.</summary>
sealed class MailSink : IDisposable
{
    readonly TcpListener listener = new(IPAddress.Loopback, 0);
    int taken;

    public MailSink()
    {
        listener.Start();
        _ = Task.Run(async () =>
        {
            try
            {
                while (true) _ = Serve(await listener.AcceptTcpClientAsync());
            }
            catch (Exception e) when (e is SocketException or ObjectDisposedException)
            {
                // It is over.
            }
        });
    }

    public int Port => ((IPEndPoint)listener.LocalEndpoint).Port;
    public int Taken => taken;

    async Task Serve(TcpClient client)
    {
        using (client)
        {
            client.NoDelay = true;
            using var stream = client.GetStream();
            using var reader = new StreamReader(stream, Encoding.Latin1, false, 64 * 1024);
            Task Say(string line) => stream.WriteAsync(Encoding.ASCII.GetBytes(line + "\r\n")).AsTask();
            await Say("220 sink");
            while (await reader.ReadLineAsync() is { } line)
                switch (line.Split(' ')[0].ToUpperInvariant())
                {
                    case "EHLO": await Say("250-sink\r\n250-PIPELINING\r\n250 8BITMIME"); break;
                    case "DATA":
                        await Say("354 go on");
                        while (await reader.ReadLineAsync() is { } text && text != ".") { }
                        Interlocked.Increment(ref taken);
                        await Say("250 taken");
                        break;
                    case "QUIT": await Say("221 good bye"); return;
                    default: await Say("250 fine"); break;
                }
        }
    }

    public void Dispose() => listener.Dispose();
}
