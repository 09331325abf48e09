using System.Net;
using System.Net.Sockets;

namespace BrightCircle.App;

/// <summary>Calls to addresses that somebody typed: they go out into the open, never into the house’s own network.</summary>
public static class Outside
{
    /// <summary>An address of this machine, of a private network, or of nobody (RFC 6890).</summary>
    public static bool IsInside(IPAddress address)
    {
        if (address.IsIPv4MappedToIPv6) address = address.MapToIPv4();
        if (IPAddress.IsLoopback(address)) return true;
        if (address.AddressFamily == AddressFamily.InterNetworkV6)
            return address.IsIPv6LinkLocal || address.IsIPv6UniqueLocal || address.IsIPv6Multicast || address.IsIPv6SiteLocal
                || address.Equals(IPAddress.IPv6Any);
        var b = address.GetAddressBytes();
        return b[0] is 0 or 10 or 127 or >= 224 || b[0] == 100 && b[1] is >= 64 and < 128 || b[0] == 169 && b[1] == 254
            || b[0] == 172 && b[1] is >= 16 and < 32 || b[0] == 192 && b[1] == 168 || b[0] == 192 && b[1] == 0 && b[2] == 0
            || b[0] == 198 && b[1] is 18 or 19;
    }

    /// <summary>Connects to what a name stands for only where that is outside: looked up and used once, so that nobody can change it in between.</summary>
    /// <exception cref="HttpRequestException">It stands for nothing outside.</exception>
    public static async ValueTask<Stream> Connect(SocketsHttpConnectionContext context, CancellationToken ct)
    {
        var found = (await Dns.GetHostAddressesAsync(context.DnsEndPoint.Host, ct)).Where(a => !IsInside(a)).ToArray();
        if (found.Length == 0) throw new HttpRequestException("It is an address within the house’s own network.");
        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        try
        {
            await socket.ConnectAsync(found, context.DnsEndPoint.Port, ct);
            return new NetworkStream(socket, ownsSocket: true);
        }
        catch
        {
            socket.Dispose();
            throw;
        }
    }
}
