using System.Diagnostics;
using System.Text;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.Core;
using BrightCircle.Core.Letters;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using MimeKit;
using MimeKit.Cryptography;
using Org.BouncyCastle.Crypto;
using Org.BouncyCastle.OpenSsl;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Letters on their way: signed so that others can tell, and what comes back is understood.</summary>
public class MailTests
{
    // After the example of RFC 3464, appendix E.1 ("simple DSN"), with our message in the place of theirs; from memory, shortened.
    static string Dsn(long letter, string to, string action = "failed", string status = "5.1.1", string? original = null) => $"""
        Date: Thu, 7 Jul 1994 17:16:05 -0400
        From: Mail Delivery Subsystem <MAILER-DAEMON@CS.UTK.EDU>
        Message-Id: <199407072116.RAA14128@CS.UTK.EDU>
        Subject: Returned mail: Cannot send message for 5 days
        To: <owner-info-mime@cs.utk.edu>
        MIME-Version: 1.0
        Content-Type: multipart/report; report-type=delivery-status;
              boundary="RAA14128.773615765/CS.UTK.EDU"

        --RAA14128.773615765/CS.UTK.EDU

        The original message was received at Sat, 2 Jul 1994 17:10:28 -0400
        from root@localhost

        --RAA14128.773615765/CS.UTK.EDU
        content-type: message/delivery-status

        Reporting-MTA: dns; cs.utk.edu

        {(original is null ? "" : $"Original-Recipient: rfc822;{original}\n")}Final-Recipient: rfc822; {to}
        Action: {action}
        Status: {status}
        Diagnostic-Code: smtp; 550 No such user
            <{to}>, sorry
        Last-Attempt-Date: Thu, 7 Jul 1994 17:15:49 -0400

        --RAA14128.773615765/CS.UTK.EDU
        content-type: text/rfc822-headers

        Message-ID: <letter-{letter}@localhost>
        Subject: Welcome
        To: {to}

        --RAA14128.773615765/CS.UTK.EDU--

        """.ReplaceLineEndings("\r\n");

    // After the example of RFC 5965, appendix B.2; from memory, shortened.
    static string Complaint(long letter, string to, string kind = "abuse") => $"""
        From: <abusedesk@example.com>
        Subject: FW: Earn money
        To: <abuse@example.net>
        MIME-Version: 1.0
        Content-Type: multipart/report; report-type=feedback-report;
             boundary="part1_13d.2e68ed54_boundary"

        --part1_13d.2e68ed54_boundary
        Content-Type: text/plain; charset="US-ASCII"

        This is an email abuse report.

        --part1_13d.2e68ed54_boundary
        Content-Type: message/feedback-report

        Feedback-Type: {kind}
        User-Agent: SomeGenerator/1.0
        Version: 1
        Original-Rcpt-To: <{to}>

        --part1_13d.2e68ed54_boundary
        Content-Type: message/rfc822

        From: <somespammer@example.net>
        Message-ID: <letter-{letter}@localhost>
        Subject: Welcome

        Hello
        --part1_13d.2e68ed54_boundary--

        """.ReplaceLineEndings("\r\n");

    /// <summary>A server that takes the connection and says nothing, or goes quiet in the middle.</summary>
    [Theory]
    [InlineData("")]
    [InlineData("220 quiet\r\n")]
    [InlineData("220 quiet\r\n250 quiet\r\n")]
    public async Task A_mail_server_that_says_nothing_counts_as_gone_and_the_letter_waits(string says)
    {
        await using var house = await House.Open();
        var member = await house.Member(await house.Join(house.Free));
        await house.Deliver();
        await house.Do<SignInByLink>(s => s.Request(member.Email, "/me", default));
        using var quiet = new System.Net.Sockets.TcpListener(System.Net.IPAddress.Loopback, 0);
        quiet.Start();
        var held = new List<System.Net.Sockets.TcpClient>();
        var serving = Task.Run(async () =>
        {
            try
            {
                while (true)
                {
                    var client = await quiet.AcceptTcpClientAsync();
                    held.Add(client);
                    await client.GetStream().WriteAsync(Encoding.ASCII.GetBytes(says));
                }
            }
            catch (Exception e) when (e is System.Net.Sockets.SocketException or ObjectDisposedException)
            {
                // The test is over.
            }
        });
        var settings = house.Services.GetRequiredService<MailSettings>();
        var port = settings.Port;
        (settings.Port, settings.PatienceSeconds) = (((System.Net.IPEndPoint)quiet.LocalEndpoint).Port, 1);
        // The connection that is kept for the next round goes.
        ((IDisposable)house.Services.GetRequiredService<IMailTransport>()).Dispose();
        await house.Deliver();
        Assert.Equal(LetterState.Queued, await house.Ask(db => db.Letters.OrderByDescending(l => l.Id).Select(l => l.State).FirstAsync()));
        // When one answers again it goes.
        (settings.Port, settings.PatienceSeconds) = (port, 60);
        await house.Deliver();
        Assert.Equal(LetterState.Sent, await house.Ask(db => db.Letters.OrderByDescending(l => l.Id).Select(l => l.State).FirstAsync()));
        quiet.Stop();
        await serving;
        foreach (var client in held) client.Dispose();
    }

    [Fact]
    public async Task What_the_domain_says_is_looked_up_and_told_apart()
    {
        await using var house = await House.Open();
        Task<MailLinesFound> Look() => house.Get<CheckMailLines, MailLinesFound>(s => s.Do(default));
        house.Services.GetRequiredService<MailSettings>().From = "letters@mail.lookups.example";
        var domain = house.Services.GetRequiredService<MailSigning>().Domain;
        async Task Put(string name, string text) => await House.Control("/control/names", new { name, text });
        async Task Take(string name, string text) => await House.Control("/control/names/take", new { name, text });
        // No key yet: nothing to look for.
        Assert.Null((await Look()).Key);
        Assert.True((await house.Get<SetUpSigning, Result>(s => s.MakeKey(house.Owner, default))).Ok);
        var line = house.Services.GetRequiredService<MailSigning>().Line!;
        Assert.Equal(new MailLinesFound(new MailLine.Missing(), new MailLine.Missing(), new MailLine.Missing()), await Look());
        // A key of 2,048 bits is longer than one part of a line: it comes back whole.
        Assert.True(line.Text.Length > 255);
        await Put(line.Name, line.Text);
        await Put(domain, "v=spf1 mx -all");
        // The domain itself says nothing of others: the one above it does.
        var above = domain.Split('.', 2)[1];
        await Put("_dmarc." + above, "v=DMARC1; p=none");
        Assert.Equal(new MailLinesFound(new MailLine.Good(), new MailLine.Good(), new MailLine.Good()), await Look());
        await Put("_dmarc." + domain, "v=DMARC1; p=all");
        await Take(line.Name, line.Text);
        await Put(line.Name, line.Text[..^8]);
        var found = await Look();
        Assert.IsType<MailLine.Wrong>(found.Key);
        Assert.IsType<MailLine.Wrong>(found.Others);
        foreach (var (name, text) in new[] { (line.Name, line.Text[..^8]), (domain, "v=spf1 mx -all"), ("_dmarc." + above, "v=DMARC1; p=none"),
            ("_dmarc." + domain, "v=DMARC1; p=all") }) await Take(name, text);
        // Where nobody is asked at all, that is said, and nothing else.
        Assert.Null(await new NameServers(new() { Server = "127.0.0.1:1" }).Texts("nobody.example", default));
    }

    static MimeMessage Parse(string raw) => MimeMessage.Load(new MemoryStream(Encoding.ASCII.GetBytes(raw)));

    [Fact]
    public void A_report_says_of_which_letter_to_whom_and_why()
    {
        Assert.Equal([new MailReport.Failed(77, "una@post.example", "5.1.1", "550 No such user <una@post.example>, sorry")],
            MailReports.Read(Parse(Dsn(77, "una@post.example"))));
        // Where it was passed on, it is about whom we wrote to.
        Assert.Equal("una@post.example", Assert.Single(MailReports.Read(Parse(Dsn(77, "u2@other.example", original: "una@post.example")))).Recipient);
        foreach (var passing in new[] { "delayed", "delivered", "relayed", "expanded" })
            Assert.IsType<MailReport.Passing>(Assert.Single(MailReports.Read(Parse(Dsn(77, "una@post.example", passing, "4.4.7")))));
        Assert.Empty(MailReports.Read(Parse(Dsn(77, "una@post.example", "unheard-of"))));
        Assert.Equal([new MailReport.Complaint(77, "una@post.example")], MailReports.Read(Parse(Complaint(77, "una@post.example"))));
        Assert.Empty(MailReports.Read(Parse(Complaint(77, "una@post.example", "not-spam"))));
        Assert.Empty(MailReports.Read(Parse("From: a@b.example\r\nSubject: I am away\r\n\r\nUntil Monday.\r\n")));
        Assert.Null(Assert.Single(MailReports.Read(Parse(Dsn(77, "una@post.example").Replace("letter-77", "another-77", StringComparison.Ordinal)))).Letter);
    }

    /// <summary>Debian's python3 reads the same report as we do, with its own email package.</summary>
    [Fact]
    public void Another_reader_of_mail_understands_the_report_the_same()
    {
        const string program = """
            import sys, email
            m = email.message_from_bytes(sys.stdin.buffer.read())
            s = [p for p in m.walk() if p.get_content_type() == 'message/delivery-status'][0].get_payload()
            print(m.get_content_type(), m.get_param('report-type'), s[1]['Action'], s[1]['Status'], s[1]['Final-Recipient'].split(';')[1].strip())
            """;
        var start = new ProcessStartInfo("python3", ["-c", program]) { RedirectStandardInput = true, RedirectStandardOutput = true };
        using var python = Process.Start(start)!;
        python.StandardInput.Write(Dsn(77, "una@post.example"));
        python.StandardInput.Close();
        Assert.Equal("multipart/report delivery-status failed 5.1.1 una@post.example", python.StandardOutput.ReadToEnd().Trim());
    }

    static Task<int?> Take(House house, string raw) =>
        house.Get<ReturnedMail, int?>(s => s.Take(new MemoryStream(Encoding.ASCII.GetBytes(raw)), default));

    [Fact]
    public async Task What_came_back_stands_among_what_couldnt_be_delivered_once()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Free);
        await house.Deliver();
        var letter = await house.Ask(db => db.Letters.AsNoTracking().FirstAsync(l => l.MemberId == member && l.Kind == LetterKind.Welcome));
        Assert.Equal(LetterState.Sent, letter.State);
        async Task<(LetterState, string?)> State() => await house.Ask(db => db.Letters.Where(l => l.Id == letter.Id).Select(l => new { l.State, l.LastError })
            .FirstAsync()) is var l ? (l.State, l.LastError) : default;
        Assert.Null(await Take(house, "Subject: Hello\r\n\r\nNo report.\r\n"));
        Assert.Equal(0, await Take(house, Dsn(letter.Id, letter.ToAddress, "delayed", "4.4.7")));
        // About somebody else, or a letter there isn't: anybody can write such a thing.
        Assert.Equal(0, await Take(house, Dsn(letter.Id, "somebody@else.example")));
        Assert.Equal(0, await Take(house, Dsn(letter.Id + 1_000_000, letter.ToAddress)));
        Assert.Equal(LetterState.Sent, (await State()).Item1);
        var twice = await Task.WhenAll(Take(house, Dsn(letter.Id, letter.ToAddress.ToUpperInvariant())), Take(house, Dsn(letter.Id, letter.ToAddress)));
        Assert.Equal(1, twice.Sum());
        Assert.Equal((LetterState.Refused, $"5.1.1 550 No such user <{letter.ToAddress}>, sorry"), await State() is var (s, e)
            ? (s, e!.Replace(letter.ToAddress.ToUpperInvariant(), letter.ToAddress, StringComparison.Ordinal)) : default);
        Assert.Single(await house.Ask(db => db.Journal.Where(j => j.MemberId == member && j.Kind == "letter-refused").ToListAsync()));
        Assert.Equal(1, await Take(house, Complaint(letter.Id, letter.ToAddress)));
        Assert.Equal(0, await Take(house, Complaint(letter.Id, letter.ToAddress)));
        Assert.False((await house.Member(member)).WantsNews);
    }

    static Task<Result?> Answer(House house, string raw) =>
        house.Get<AnsweredMail, Result?>(s => s.Take(Encoding.UTF8.GetBytes(raw.ReplaceLineEndings("\r\n")), default));

    static async Task<List<Data.Message>> Written(House house, MemberId member) =>
        await house.Ask(db => db.Messages.AsNoTracking().Where(m => m.MemberId == member).OrderBy(m => m.Id).ToListAsync());

    [Fact]
    public async Task What_a_member_answers_to_a_letter_comes_into_the_inbox_once_and_nobody_elses_does()
    {
        await using var house = await House.Open();
        var (member, other) = (await house.Join(house.Free), await house.Join(house.Free));
        await house.Deliver();
        var address = (await house.Member(member)).Email;
        var sent = MimeMessage.Load(new MemoryStream(Encoding.UTF8.GetBytes(await House.Raw((await House.Letter(address, "")).GetProperty("id").GetInt64()))));
        // An answer names the letter and all that the letter named (RFC 5322, section 3.6.4).
        var names = $"In-Reply-To: <{sent.MessageId}>\nReferences: {string.Join(" ", sent.References.Append(sent.MessageId).Select(r => $"<{r}>"))}";
        string Reply(string from, string words, string id = "one@mail.example", string more = "", string? refers = null) =>
            $"From: Una <{from}>\nTo: help@site.example\nSubject: Re: Hello\nMessage-ID: <{id}>\n{refers ?? names}\n{more}"
                + $"Content-Type: text/plain; charset=utf-8\n\n{words}\n";
        Assert.True((await Answer(house, Reply(address.ToUpperInvariant(), "Can I come *later*?\n\nThey wrote:\n> Hello")))!.Value.Ok);
        var message = Assert.Single(await Written(house, member));
        Assert.Equal(("<p>Can I come <em>later</em>?</p>", false, "one@mail.example"), (message.Body, message.ByTeam, message.MailId));
        // Handed in twice, also at once, it is there once.
        var again = await Task.WhenAll(Answer(house, Reply(address, "Can I come?")), Answer(house, Reply(address, "Can I come?")));
        Assert.All(again, a => Assert.True(a!.Value.Ok));
        Assert.Single(await Written(house, member));
        Assert.True((await Answer(house, Reply(address, "And on Friday?", "two@mail.example")))!.Value.Ok);
        Assert.Equal(2, (await Written(house, member)).Count);
        // From another address, without the letter's sign, with one that is made up, or of a machine, it is nobody's answer.
        Assert.Null(await Answer(house, Reply((await house.Member(other)).Email, "Let me in", "three@mail.example")));
        Assert.Null(await Answer(house, Reply(address, "x", "four@mail.example", refers: $"In-Reply-To: <{sent.MessageId}>")));
        Assert.Null(await Answer(house, Reply(address, "x", "five@mail.example", refers: "References: <reply-abcd@localhost>")));
        Assert.Null(await Answer(house, Reply(address, "I am away", "six@mail.example", "Auto-Submitted: auto-replied\n")));
        Assert.Null(await Answer(house, Reply(address, "x", "seven@mail.example", "Precedence: bulk\n")));
        Assert.Null(await Answer(house, Reply(address, "x", "eight@mail.example", "List-Id: <many.example>\n")));
        Assert.Null(await Answer(house, "no letter at all"));
        // What says nothing is refused, and told.
        Assert.Equal("Write something first.", (await Answer(house, Reply(address, "> Hello", "nine@mail.example")))!.Value.Refusal);
        Assert.Equal(2, (await Written(house, member)).Count);
        Assert.Empty(await Written(house, other));
        // Written as HTML only, or with lines that flow (RFC 3676).
        var html = Reply(address, "<div>Dear <b>all</b>,<br>thanks</div><blockquote>Hello</blockquote>", "ten@mail.example")
            .Replace("text/plain", "text/html", StringComparison.Ordinal);
        Assert.True((await Answer(house, html))!.Value.Ok);
        Assert.Contains("Dear all,", (await Written(house, member))[^1].Body, StringComparison.Ordinal);
        Assert.DoesNotContain("Hello", (await Written(house, member))[^1].Body, StringComparison.Ordinal);
        var flowed = Reply(address, "one line \nthat goes on\n", "eleven@mail.example").Replace("charset=utf-8", "charset=utf-8; format=flowed",
            StringComparison.Ordinal);
        Assert.True((await Answer(house, flowed))!.Value.Ok);
        Assert.Equal("<p>one line that goes on</p>", (await Written(house, member))[^1].Body);
    }

    /// <summary>The DNS as it would be with the line that is shown.</summary>
    sealed class Published(DnsLine line) : DkimPublicKeyLocatorBase
    {
        public override AsymmetricKeyParameter LocatePublicKey(string methods, string domain, string selector, CancellationToken ct = default)
        {
            Assert.Equal(line.Name, $"{selector}._domainkey.{domain}");
            return GetPublicKey(line.Text);
        }

        public override Task<AsymmetricKeyParameter> LocatePublicKeyAsync(string methods, string domain, string selector, CancellationToken ct = default) =>
            Task.FromResult(LocatePublicKey(methods, domain, selector, ct));
    }

    [Fact]
    public async Task Signed_letters_are_verified_by_whoever_reads_the_published_line()
    {
        await using var house = await House.Open();
        Task<Result> SetUp(Func<SetUpSigning, Task<Result>> act) => house.Get(act);
        Assert.Contains("Make a key first", (await SetUp(s => s.Use(house.Owner, true, default))).Refusal, StringComparison.Ordinal);
        await Assert.ThrowsAsync<NotAllowedException>(() => SetUp(s => s.MakeKey(house.Owner with { Role = TeamRole.Editor }, default)));
        Assert.True((await SetUp(s => s.MakeKey(house.Owner, default))).Ok);
        var signing = house.Services.GetRequiredService<MailSigning>();
        var first = signing.Line!;
        Assert.StartsWith("bright1._domainkey.", first.Name, StringComparison.Ordinal);
        async Task<MimeMessage> Sent()
        {
            var email = House.NewAddress();
            await house.Join(house.Free, email: email);
            await house.Deliver();
            var raw = await House.Raw((await House.Letter(email, "Welcome")).GetProperty("id").GetInt64());
            return MimeMessage.Load(new MemoryStream(Encoding.UTF8.GetBytes(raw)));
        }
        Assert.False((await Sent()).Headers.Contains(HeaderId.DkimSignature));
        Assert.True((await SetUp(s => s.MakeKey(house.Owner, default))).Ok);
        Assert.True((await SetUp(s => s.Use(house.Owner, true, default))).Ok);
        Assert.False((await SetUp(s => s.MakeKey(house.Owner, default))).Ok);
        var line = signing.Line!;
        Assert.StartsWith("bright2._domainkey.", line.Name, StringComparison.Ordinal);
        Assert.NotEqual(first.Text, line.Text);
        var verifier = new DkimVerifier(new Published(line));
        var letter = await Sent();
        var signature = letter.Headers[letter.Headers.IndexOf(HeaderId.DkimSignature)];
        Assert.True(await verifier.VerifyAsync(letter, signature));
        // A word changed on the way, or a line of its head, and it doesn't hold any more.
        letter.Subject += "!";
        Assert.False(await verifier.VerifyAsync(letter, signature));
        var other = await Sent();
        ((TextPart)((Multipart)other.Body!)[0]).Text += "Send money.";
        Assert.False(await verifier.VerifyAsync(other, other.Headers[other.Headers.IndexOf(HeaderId.DkimSignature)]));
        // Nothing secret is in the line, and the key isn't in the database as it is.
        Assert.DoesNotContain("PRIVATE", (await house.Ask(db => db.Sites.AsNoTracking().SingleAsync())).MailKey, StringComparison.Ordinal);
        Assert.True((await SetUp(s => s.Use(house.Owner, false, default))).Ok);
        Assert.False((await Sent()).Headers.Contains(HeaderId.DkimSignature));
        Assert.True(signing.IsReportKey(signing.ReportKey));
        foreach (var wrong in new[] { null, "", "reports", signing.ReportKey[..^3] }) Assert.False(signing.IsReportKey(wrong));
    }
}
