using System.Net;
using System.Net.Sockets;
using System.Text.Json;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>What a member opened can be read where there is no network.</summary>
[Collection("demo")]
public class OfflineTests
{
    readonly DemoSite site;
    readonly Browser b;

    public OfflineTests(DemoSite site)
    {
        (this.site, b) = (site, site.Browser);
        b.Desktop();
        b.Dark(false);
    }

    /// <summary>A way to the site that can be cut: the browser knows the site by its address only.</summary>
    sealed class Cable : IDisposable
    {
        readonly TcpListener listener = new(IPAddress.Loopback, 0);
        readonly int to;
        readonly CancellationTokenSource cut = new();
        readonly List<TcpClient> open = [];
        public string Url { get; }

        public Cable(string site)
        {
            to = new Uri(site).Port;
            listener.Start();
            Url = $"http://localhost:{((IPEndPoint)listener.LocalEndpoint).Port}";
            _ = Serve();
        }

        async Task Serve()
        {
            try
            {
                while (true) _ = Carry(await listener.AcceptTcpClientAsync(cut.Token));
            }
            catch (Exception e) when (e is OperationCanceledException or SocketException or ObjectDisposedException)
            {
                // It is cut.
            }
        }

        async Task Carry(TcpClient near)
        {
            using var far = new TcpClient();
            lock (open) open.AddRange([near, far]);
            try
            {
                await far.ConnectAsync(IPAddress.Loopback, to, cut.Token);
                var (n, f) = (near.GetStream(), far.GetStream());
                await Task.WhenAny(n.CopyToAsync(f, cut.Token), f.CopyToAsync(n, cut.Token));
            }
            catch (Exception e) when (e is OperationCanceledException or IOException or SocketException or ObjectDisposedException)
            {
                // One of the two went away.
            }
            near.Dispose();
        }

        public void Cut()
        {
            cut.Cancel();
            listener.Stop();
            lock (open) open.ForEach(c => c.Dispose());
        }

        public void Dispose()
        {
            if (!cut.IsCancellationRequested) Cut();
            cut.Dispose();
        }
    }

    bool Holds(string script) => b.Driver.ExecuteAsyncScript(
        $"const done = arguments[0]; (async () => {script})().then(v => done(!!v), () => done(false))") is true;
    bool IsKept(string path) => Holds($"{{ const c = await caches.open('bright-pages'); return await c.match(location.origin + '{path}'); }}");

    [Fact]
    public void What_was_opened_is_read_without_a_network_and_nothing_stays_after_signing_out()
    {
        using var cable = new Cable(site.App.Url);
        var s = new SiteSteps(b, cable.Url);
        s.AsMirela();
        b.WaitUntil(() => Holds("{ return (await navigator.serviceWorker.ready).active && navigator.serviceWorker.controller; }"), "the worker is there");
        var piece = site.Catalogue.Now.Pieces.First(p => p.Title == "Making fondant at home");
        s.Go($"/read/{piece.Id.Value}/making-fondant-at-home");
        b.WaitFor("Watch the thermometer");
        s.Go("/me/account");
        b.WaitFor("On your phone");
        s.Go("/me");
        b.WaitUntil(() => IsKept($"/read/{piece.Id.Value}/making-fondant-at-home") && IsKept("/me"), "what was opened is kept");
        Assert.False(IsKept("/me/account"));

        // Signed out, nothing of it is left in this browser.
        b.Press("Sign out");
        b.WaitForPath("/");
        b.WaitUntil(() => !Holds("{ return await caches.has('bright-pages'); }"), "nothing is kept any more");

        s.AsMirela();
        s.Go($"/read/{piece.Id.Value}/making-fondant-at-home");
        b.WaitFor("Watch the thermometer");
        b.WaitUntil(() => IsKept($"/read/{piece.Id.Value}/making-fondant-at-home"), "it is kept again");
        cable.Cut();
        s.Go($"/read/{piece.Id.Value}/making-fondant-at-home?x=1");
        b.WaitFor("Watch the thermometer");
        s.Go("/me/account");
        b.WaitFor("No connection");
        b.WaitFor("Making fondant at home");
        Assert.Empty(b.Violations());
        b.Press("Making fondant at home");
        b.WaitFor("Watch the thermometer");
        s.B.Open(site.App.Url);
    }

    [Fact]
    public async Task The_site_can_be_put_on_a_home_screen_and_says_how()
    {
        using var p = new Plain(site.App.Url);
        using var answer = await p.Get("/site.webmanifest");
        Assert.Equal("application/manifest+json", answer.Content.Headers.ContentType!.MediaType);
        var manifest = JsonDocument.Parse(await answer.Content.ReadAsStringAsync()).RootElement;
        Assert.Equal("Tansy Lane", manifest.GetProperty("name").GetString());
        // W3C Web Application Manifest: what installing asks for.
        Assert.Equal("/me", manifest.GetProperty("start_url").GetString());
        Assert.Equal("standalone", manifest.GetProperty("display").GetString());
        Assert.Equal(["any", "any", "any", "maskable"], manifest.GetProperty("icons").EnumerateArray().Select(i => i.GetProperty("purpose").GetString()));
        foreach (var icon in manifest.GetProperty("icons").EnumerateArray())
        {
            using var sign = await p.Get(icon.GetProperty("src").GetString()!);
            var png = await sign.Content.ReadAsByteArrayAsync();
            // PNG (ISO/IEC 15948): the width is in bytes 16 to 19.
            Assert.Equal([0x89, 0x50, 0x4E, 0x47], png[..4]);
            var width = System.Buffers.Binary.BinaryPrimitives.ReadInt32BigEndian(png.AsSpan(16));
            Assert.Equal(icon.GetProperty("sizes").GetString(), $"{width}x{width}");
        }
        using var none = await p.Get("/site-icon/77.png");
        Assert.Equal(HttpStatusCode.NotFound, none.StatusCode);
        await p.Open("/phone");
        p.Says("Add to home screen");
        Assert.NotNull(p.Page.QuerySelector(".qr svg"));

        // Only a member's own reading is marked to be kept: no account, no Desk, nothing that is looked at through their eyes.
        static string? Keeps(HttpResponseMessage r) => r.Headers.TryGetValues("Keep-Offline", out var v) ? v.Single() : null;
        using var open = await p.Get("/read/1");
        Assert.Null(Keeps(open));
        using var mirela = new Plain(site.App.Url);
        await mirela.SignIn(App.Demo.SeedDemo.MemberEmail, App.Demo.SeedDemo.MemberPassword);
        using var home = await mirela.Get("/me");
        Assert.Equal("yes", Keeps(home));
        using var account = await mirela.Get("/me/account");
        Assert.Null(Keeps(account));
        using var owner = await site.Owner();
        using var team = await owner.Get("/me");
        Assert.Null(Keeps(team));
    }
}
