using System.Net;
using System.Net.Sockets;

namespace BrightCircle.App.Routines;

/// <summary>Settings under "Programs".</summary>
/// <param name="Inside">Other programs may also be on this machine or in its own network: for rehearsing, or where only the owner's own programs run
/// there.</param>
public sealed record ProgramSettings(bool Inside = false)
{
    public ProgramSettings() : this(false) { }
}

/// <summary>Where another program is told: an address out in the open, never one of the house's own network.</summary>
public static class CallAddress
{
    /// <returns>What is wrong with it; null where nothing is, and where none is given yet.</returns>
    public static string? WrongWith(string url) => url.Length == 0 ? null
        : url.Length > Core.Routines.Step.MostText || !Uri.TryCreate(url, UriKind.Absolute, out var at) || !IsSafe(at)
            || at.UserInfo.Length > 0 || at.Host.Length == 0 ? "Write the address of the other program, beginning with https://." : null;

    /// <summary>Nobody on the way reads who it is about; on this machine there is no way.</summary>
    static bool IsSafe(Uri at) => at.Scheme == Uri.UriSchemeHttps || at.Scheme == Uri.UriSchemeHttp && at.IsLoopback;

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
    public static async ValueTask<Stream> ConnectOutside(SocketsHttpConnectionContext context, CancellationToken ct)
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
