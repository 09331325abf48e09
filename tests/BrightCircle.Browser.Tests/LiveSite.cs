using System.Net;
using System.Net.Sockets;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Demo;
using BrightCircle.App.Tests;
using BrightCircle.Data;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.Extensions.DependencyInjection;

namespace BrightCircle.Browser.Tests;

/// <summary>The application on a real Kestrel socket in this process, so that the browser can reach it and tests can reach its services.</summary>
public sealed class LiveApp : WebApplicationFactory<Program>
{
    readonly string database = House.NewDatabase();
    readonly int port = FreePort();

    public LiveApp()
    {
        UseKestrel(port);
        StartServer();
    }

    public string Url => $"http://localhost:{port}";

    static int FreePort()
    {
        using var l = new TcpListener(IPAddress.Loopback, 0);
        l.Start();
        return ((IPEndPoint)l.LocalEndpoint).Port;
    }

    protected override void ConfigureWebHost(IWebHostBuilder b)
    {
        b.UseEnvironment("Testing");
        foreach (var (key, value) in House.Settings(database)) b.UseSetting(key, value);
        b.UseSetting("Site:Url", $"http://localhost:{port}");
        b.UseSetting("Till:CallbackUrl", $"http://localhost:{port}/callbacks/till");
        b.UseSetting("Limits:SignInPerMinute", "10000");
        b.UseSetting("Serilog:MinimumLevel:Default", "Error");
    }

    protected override void Dispose(bool disposing)
    {
        base.Dispose(disposing);
        if (disposing) TestServers.DropDatabase(database);
    }
}

/// <summary>A demo site with few people, for all journeys: making one takes some seconds.</summary>
public sealed class DemoSite : IDisposable
{
    public static int People => int.TryParse(Environment.GetEnvironmentVariable("DEMO_PEOPLE"), out var n) ? n : 45;

    public DemoSite()
    {
        App = new();
        using var till = new DemoTill(TestServers.Till, TestServers.Postbox);
        ActivatorUtilities.CreateInstance<SeedDemo>(App.Services).Run(till, People).GetAwaiter().GetResult();
        Browser = new();
    }

    public LiveApp App { get; }
    public Browser Browser { get; }
    public Catalogue Catalogue => App.Services.GetRequiredService<Catalogue>();

    /// <summary>Asks the site's own database.</summary>
    public async Task<T> Db<T>(Func<BrightContext, Task<T>> ask)
    {
        await using var scope = App.Services.CreateAsyncScope();
        return await ask(scope.ServiceProvider.GetRequiredService<BrightContext>());
    }

    /// <summary>The demo's owner, signed in, without scripts.</summary>
    public async Task<Plain> Owner()
    {
        var owner = new Plain(App.Url);
        await owner.SignIn(SeedDemo.OwnerEmail, SeedDemo.OwnerPassword);
        return owner;
    }

    /// <summary>Somebody who has just joined the free tier, signed in, without scripts.</summary>
    public async Task<(Plain Page, string Email)> Newcomer(string name)
    {
        var (p, email) = (new Plain(App.Url), House.NewAddress());
        await p.Open("/join/meadow");
        await p.Press("Go on", ("Name", name), ("Email", email));
        await p.Press("Join");
        p.Says("Welcome, " + name.Split(' ')[0]);
        return (p, email);
    }

    public void Dispose()
    {
        Browser.Dispose();
        App.Dispose();
    }
}

[Xunit.CollectionDefinition("demo")]
public sealed class DemoCollection : Xunit.ICollectionFixture<DemoSite>;
