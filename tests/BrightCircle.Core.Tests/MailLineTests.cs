using BrightCircle.Core.Letters;
using Xunit;

namespace BrightCircle.Core.Tests;

public class MailLineTests
{
    const string Ours = "v=DKIM1; k=rsa; p=MIIBIjANBg";

    static string Said(MailLine line) => line switch
    {
        MailLine.Good => "good",
        MailLine.Missing => "missing",
        MailLine.Wrong w => w.Why,
        _ => throw new InvalidOperationException("No such line."),
    };

    // RFC 6376, section 3.6.1: v, if there, is DKIM1; k is rsa unless said; an empty p takes the key back; h names the hashes that may be used. Section 3.2:
    // white space around tags and within a value of base64 means nothing. Section 3.6.2.2: more than one key, and what happens is not known.
    [Theory]
    [InlineData("good", Ours)]
    [InlineData("good", "p=MIIBIj ANBg")]
    [InlineData("good", "v=DKIM1;k=rsa;h=sha1:sha256;p=MIIBIjANBg;")]
    [InlineData("good", "v=spf1 -all", Ours)]
    [InlineData("missing")]
    [InlineData("What stands there isn’t a key.", "v=spf1 -all")]
    [InlineData("More than one key stands there. Leave one.", Ours, "p=MIIBIjANBg")]
    [InlineData("The key is taken back there: its “p” is empty.", "v=DKIM1; p=")]
    [InlineData("It has to begin with v=DKIM1.", "v=DKIM2; p=MIIBIjANBg")]
    [InlineData("It is a key of another kind: k has to be rsa.", "k=ed25519; p=MIIBIjANBg")]
    [InlineData("It doesn’t allow sha256 (its “h”).", "h=sha1; p=MIIBIjANBg")]
    [InlineData("Its end is missing: the whole text has to stand there.", "v=DKIM1; k=rsa; p=MIIBIjAN")]
    [InlineData("Another key stands there.", "v=DKIM1; k=rsa; p=MIIBIjANBh")]
    public void The_key_is_there_if_the_receivers_would_take_it(string said, params string[] lines) => Assert.Equal(said, Said(MailLines.Key(lines, Ours)));

    // RFC 7208, section 4.5 (which line it is), 3.2 (no more than one), 5.1 (all), 4.6.4 (ten lookups at most).
    [Theory]
    [InlineData("good", "v=spf1 mx ~all")]
    [InlineData("good", "V=SPF1 include:the-server.example -ALL", "something-else=1")]
    [InlineData("good", "v=spf1 ip4:192.0.2.0/24 ?all")]
    [InlineData("good",
        "v=spf1 a:one.example +mx/24 ptr include:a.example include:b.example include:c.example exists:d.example mx:e.example a redirect=f.example")]
    [InlineData("missing")]
    [InlineData("missing", "v=spf10 -all")]
    [InlineData("Two lines begin with v=spf1, and so neither counts. Make one of them.", "v=spf1 mx -all", "v=spf1")]
    [InlineData("It lets anybody send in your name: “all” needs a - or ~ before it.", "v=spf1 mx all")]
    [InlineData("It lets anybody send in your name: “all” needs a - or ~ before it.", "v=spf1 +all")]
    [InlineData("It says that nobody sends for this domain.", "v=spf1 -all")]
    [InlineData("It names more than 10 others to look up; then it doesn’t count.",
        "v=spf1 a mx ptr include:a.example include:b.example include:c.example exists:d.example mx:e.example a:g.example ?a/8 redirect=f.example")]
    public void Who_may_send_is_read_as_receivers_do(string said, params string[] lines) => Assert.Equal(said, Said(MailLines.Senders(lines)));

    // RFC 7489, section 6.3 (tags) and 6.6.3 (one line, no more).
    [Theory]
    [InlineData("good", "v=DMARC1; p=none; rua=mailto:help@site.example")]
    [InlineData("good", "v=DMARC1;p=Quarantine")]
    [InlineData("good", "other", "v=DMARC1; p=reject")]
    [InlineData("missing")]
    [InlineData("What stands there doesn’t begin with v=DMARC1.", "p=none; v=DMARC1")]
    [InlineData("Two lines begin with v=DMARC1, and so neither counts. Leave one.", "v=DMARC1; p=none", "v=DMARC1; p=reject")]
    [InlineData("It doesn’t say what to do: p has to be none, quarantine or reject.", "v=DMARC1; p=nothing")]
    [InlineData("It doesn’t say what to do: p has to be none, quarantine or reject.", "v=DMARC1")]
    public void What_becomes_of_others_is_read_as_receivers_do(string said, params string[] lines) => Assert.Equal(said, Said(MailLines.Others(lines)));
}
