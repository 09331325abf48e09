using System.Net;
using BrightCircle.Core.Letters;
using DnsClient;
using DnsClient.Protocol;

namespace BrightCircle.App.Letters;

public sealed class NamesSettings
{
    /// <summary>The name server that is asked, as address:port; null for the machine’s own.</summary>
    public string? Server { get; set; }
}

/// <summary>Asks the DNS (RFC 1035) for lines of text.</summary>
public sealed class NameServers
{
    readonly NamesSettings settings;
    readonly Lazy<LookupClient> client;

    public NameServers(NamesSettings settings)
    {
        this.settings = settings;
        client = new(Make);
    }

    LookupClient Make()
    {
        var options = settings.Server is { Length: > 0 } at ? new LookupClientOptions(IPEndPoint.Parse(at)) : new LookupClientOptions();
        (options.UseCache, options.Timeout, options.Retries, options.ThrowDnsErrors) = (false, TimeSpan.FromSeconds(3), 1, false);
        return new(options);
    }

    /// <returns>Each line with its parts put together; none where there are none; null where nobody answers.</returns>
    public async Task<IReadOnlyList<string>?> Texts(string name, CancellationToken ct)
    {
        try
        {
            var answer = await client.Value.QueryAsync(name, QueryType.TXT, cancellationToken: ct);
            if (answer.HasError && answer.Header.ResponseCode != DnsHeaderResponseCode.NotExistentDomain) return null;
            return [.. answer.Answers.OfType<TxtRecord>().Select(t => string.Concat(t.Text))];
        }
        catch (Exception e) when (e is DnsResponseException or System.Net.Sockets.SocketException or InvalidOperationException or ArgumentException)
        {
            return null;
        }
    }
}

/// <summary>The three lines about a domain’s mail, as the DNS has them now.</summary>
/// <param name="Key">Null while there is no key here.</param>
public sealed record MailLinesFound(MailLine? Key, MailLine Senders, MailLine Others);

public sealed class CheckMailLines(MailSigning signing, NameServers names)
{
    public async Task<MailLinesFound> Do(CancellationToken ct)
    {
        var line = signing.Line;
        var key = line is null ? Task.FromResult<IReadOnlyList<string>?>([]) : names.Texts(line.Name, ct);
        var (senders, others) = (names.Texts(signing.Domain, ct), Policy(signing.Domain, ct));
        return new(line is null ? null : Read(await key, l => MailLines.Key(l, line.Text)), Read(await senders, MailLines.Senders),
            Read(await others, MailLines.Others));
    }

    /// <summary>Where a domain says nothing of its own, what the one above it says counts (RFC 7489, section 6.6.3).</summary>
    async Task<IReadOnlyList<string>?> Policy(string domain, CancellationToken ct)
    {
        var own = await names.Texts("_dmarc." + domain, ct);
        return own is { Count: 0 } && domain.Split('.', 2) is [_, var above] && above.Contains('.', StringComparison.Ordinal) ? await Policy(above, ct) : own;
    }

    static MailLine Read(IReadOnlyList<string>? lines, Func<IReadOnlyList<string>, MailLine> read) => lines is null ? new MailLine.Unknown() : read(lines);
}
