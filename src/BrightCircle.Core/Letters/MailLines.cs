namespace BrightCircle.Core.Letters;

/// <summary>What the DNS says of the mail of a domain, in one of its three lines.</summary>
public abstract record MailLine
{
    private MailLine() { }
    /// <summary>It stands there and says what it should.</summary>
    public sealed record Good : MailLine;
    /// <summary>No such line stands there.</summary>
    public sealed record Missing : MailLine;
    /// <summary>Something stands there that doesn’t do.</summary>
    /// <param name="Why">A sentence.</param>
    public sealed record Wrong(string Why) : MailLine;
    /// <summary>Nobody answered.</summary>
    public sealed record Unknown : MailLine;
}

/// <summary>
/// Reads the TXT lines that decide where a domain’s letters arrive: its key (RFC 6376, section 3.6.1), who may send for it (RFC 7208, section 4.5) and what
/// becomes of the others (RFC 7489, section 6.3).
/// </summary>
public static class MailLines
{
    /// <param name="lines">The TXT lines of SELECTOR._domainkey.DOMAIN, each with its parts put together.</param>
    /// <param name="wanted">The line as it should stand there.</param>
    public static MailLine Key(IReadOnlyList<string> lines, string wanted)
    {
        var keys = lines.Select(Tags).Where(t => t.ContainsKey("p")).ToArray();
        if (keys.Length == 0) return lines.Count == 0 ? new MailLine.Missing() : new MailLine.Wrong("What stands there isn’t a key.");
        if (keys.Length > 1) return new MailLine.Wrong("More than one key stands there. Leave one.");
        var (key, ours) = (keys[0], Tags(wanted));
        if (key["p"].Length == 0) return new MailLine.Wrong("The key is taken back there: its “p” is empty.");
        if (key.GetValueOrDefault("v", "DKIM1") != "DKIM1") return new MailLine.Wrong("It has to begin with v=DKIM1.");
        if (key.GetValueOrDefault("k", "rsa") != "rsa") return new MailLine.Wrong("It is a key of another kind: k has to be rsa.");
        if (key.GetValueOrDefault("h") is { } hashes && !hashes.Split(':').Select(h => h.Trim()).Contains("sha256"))
            return new MailLine.Wrong("It doesn’t allow sha256 (its “h”).");
        return key["p"] == ours["p"] ? new MailLine.Good()
            : ours["p"].StartsWith(key["p"], StringComparison.Ordinal) ? new MailLine.Wrong("Its end is missing: the whole text has to stand there.")
            : new MailLine.Wrong("Another key stands there.");
    }

    /// <param name="lines">The TXT lines of the domain.</param>
    public static MailLine Senders(IReadOnlyList<string> lines)
    {
        var policies = lines.Where(l => l.Equals("v=spf1", StringComparison.OrdinalIgnoreCase)
            || l.StartsWith("v=spf1 ", StringComparison.OrdinalIgnoreCase)).ToArray();
        if (policies.Length == 0) return new MailLine.Missing();
        // Section 3.2: with two of them, neither counts.
        if (policies.Length > 1) return new MailLine.Wrong("Two lines begin with v=spf1, and so neither counts. Make one of them.");
        var terms = policies[0].ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries)[1..];
        if (terms.Any(t => t is "all" or "+all")) return new MailLine.Wrong("It lets anybody send in your name: “all” needs a - or ~ before it.");
        if (terms is ["-all"]) return new MailLine.Wrong("It says that nobody sends for this domain.");
        // Section 4.6.4: what has to be looked up for it, at most ten times.
        if (terms.Count(NeedsLookup) > MostLookups) return new MailLine.Wrong($"It names more than {MostLookups} others to look up; then it doesn’t count.");
        return new MailLine.Good();
    }

    const int MostLookups = 10;

    static bool NeedsLookup(string term)
    {
        var t = term.TrimStart('+', '-', '~', '?');
        return t.StartsWith("include:", StringComparison.Ordinal) || t.StartsWith("exists:", StringComparison.Ordinal)
            || t.StartsWith("redirect=", StringComparison.Ordinal)
            || new[] { "a", "mx", "ptr" }.Any(m => t == m || t.StartsWith(m + ":", StringComparison.Ordinal)
                || t.StartsWith(m + "/", StringComparison.Ordinal));
    }

    /// <param name="lines">The TXT lines of _dmarc.DOMAIN.</param>
    public static MailLine Others(IReadOnlyList<string> lines)
    {
        var policies = lines.Where(l => l.StartsWith("v=DMARC1", StringComparison.Ordinal)).ToArray();
        if (policies.Length == 0) return lines.Count == 0 ? new MailLine.Missing() : new MailLine.Wrong("What stands there doesn’t begin with v=DMARC1.");
        // Section 6.6.3: with two of them, neither counts.
        if (policies.Length > 1) return new MailLine.Wrong("Two lines begin with v=DMARC1, and so neither counts. Leave one.");
        return Tags(policies[0]).GetValueOrDefault("p")?.ToLowerInvariant() is "none" or "quarantine" or "reject" ? new MailLine.Good()
            : new MailLine.Wrong("It doesn’t say what to do: p has to be none, quarantine or reject.");
    }

    /// <summary>“a=b; c=d”, without the spaces within (RFC 6376, section 3.2). What is said twice counts as it is said first.</summary>
    static Dictionary<string, string> Tags(string line)
    {
        var tags = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var part in line.Split(';'))
            if (part.IndexOf('=', StringComparison.Ordinal) is > 0 and var at)
                tags.TryAdd(part[..at].Trim(), string.Concat(part[(at + 1)..].Where(c => !char.IsWhiteSpace(c))));
        return tags;
    }
}
