using System.Diagnostics;
using System.Globalization;
using System.Net;
using System.Net.Sockets;
using System.Text.RegularExpressions;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Demo;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.AspNetCore.Mvc.ApplicationParts;

namespace BrightCircle.Bench;

/// <summary>Pages, measured from outside: the site, the bare app beside it and the load generator (wrk) are processes of their own.</summary>
public static partial class BenchMain
{
    const int Connections = 32;

    /// <summary>An ASP.NET app with one line of Razor and nothing else, and a page that asks the database once through EF: what the machine can do.</summary>
    static async Task Bare(int port, string database)
    {
        var builder = WebApplication.CreateBuilder();
        builder.Logging.ClearProviders();
        builder.Services.AddBrightData(database);
        builder.Services.AddRazorPages().ConfigureApplicationPartManager(parts =>
        {
            foreach (var part in parts.ApplicationParts.Where(p => p.Name != "BrightCircle.Bench").ToArray()) parts.ApplicationParts.Remove(part);
        });
        var app = builder.Build();
        app.MapRazorPages();
        await app.RunAsync($"http://127.0.0.1:{port}");
    }

    sealed class Site(Process process) : IDisposable
    {
        public void Dispose()
        {
            process.Kill(entireProcessTree: true);
            process.WaitForExit();
            process.Dispose();
        }

        public static Site Start(string dll, IEnumerable<string> args, IEnumerable<(string Key, string Value)> settings, int port)
        {
            var start = new ProcessStartInfo("dotnet") { RedirectStandardOutput = true, RedirectStandardError = true };
            foreach (var a in args.Prepend(dll)) start.ArgumentList.Add(a);
            foreach (var (key, value) in settings) start.Environment[key.Replace(":", "__", StringComparison.Ordinal)] = value;
            var process = Process.Start(start)!;
            process.OutputDataReceived += (_, _) => { };
            process.ErrorDataReceived += (_, _) => { };
            process.BeginOutputReadLine();
            process.BeginErrorReadLine();
            for (var i = 0; i < 600 && !process.HasExited; i++)
            {
                try
                {
                    using var tcp = new TcpClient("127.0.0.1", port);
                    return new(process);
                }
                catch (SocketException)
                {
                    Thread.Sleep(100);
                }
            }
            throw new InvalidOperationException($"{dll} did not start.");
        }
    }

    static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }

    /// <summary>What wrk says: requests a second, and the times (in ms) that half and 99 of 100 requests stay under.</summary>
    sealed record Load(double PerSecond, double Half, double Most)
    {
        public static Load Of(string url, string? cookie, double seconds)
        {
            var start = new ProcessStartInfo("wrk") { RedirectStandardOutput = true };
            foreach (var a in new[] { "-t2", $"-c{Connections}", $"-d{seconds}s", "--latency", "--timeout", "10s" }) start.ArgumentList.Add(a);
            if (cookie is not null) foreach (var a in new[] { "-H", "Cookie: " + cookie }) start.ArgumentList.Add(a);
            start.ArgumentList.Add(url);
            using var process = Process.Start(start) ?? throw new InvalidOperationException("wrk did not start.");
            var said = process.StandardOutput.ReadToEnd();
            process.WaitForExit();
            if (said.Contains("Non-2xx", StringComparison.Ordinal)) throw new InvalidOperationException($"{url} refused: {said}");
            double Ms(string percent)
            {
                var m = Regex.Match(said, $@"\s{percent}%\s+([\d.]+)(us|ms|s)");
                return double.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture) * m.Groups[2].Value switch { "us" => 0.001, "ms" => 1, _ => 1000 };
            }
            return new(double.Parse(PerSecondOf().Match(said).Groups[1].Value, CultureInfo.InvariantCulture), Ms("50"), Ms("99"));
        }

        public Load Better(Load? other) => other is null || PerSecond > other.PerSecond ? this : other;
    }

    static async Task Pages()
    {
        string database, signedIn, piece, member;
        await using (var app = new BenchApp())
        {
            var watch = Stopwatch.StartNew();
            using (var till = new DemoTill(TestServers.Till, TestServers.Postbox))
                await ActivatorUtilities.CreateInstance<SeedDemo>(app.Services).Run(till);
            Row("making the demo: 320 members, 14 months", $"{watch.Elapsed.TotalSeconds:0.0} s", "", "", "under 20 s");
            database = app.Database;
            piece = app.Services.GetRequiredService<Catalogue>().Now.Pieces.First(p => p.Title == "Making fondant at home").Id.Value
                .ToString(CultureInfo.InvariantCulture);
            using var scope = app.Services.CreateScope();
            member = scope.ServiceProvider.GetRequiredService<BrightContext>().Members.First(m => m.Email == SeedDemo.MemberEmail).Id.Value
                .ToString(CultureInfo.InvariantCulture);
        }

        var (sitePort, barePort) = (FreePort(), FreePort());
        var (site, bare) = ($"http://127.0.0.1:{sitePort}", $"http://127.0.0.1:{barePort}");
        var web = Path.Combine(TestServers.Root, "src/BrightCircle.Web/bin/Release/net10.0/BrightCircle.Web.dll");
        using var theSite = Site.Start(web, ["--urls", site, "--contentRoot", Path.Combine(TestServers.Root, "src/BrightCircle.Web")],
            House.Settings(database).Select(s => (s.Key, s.Value!)).Concat([("Site:Url", site), ("ASPNETCORE_ENVIRONMENT", "Production")]), sitePort);
        using var theBare = Site.Start(typeof(BenchMain).Assembly.Location, ["bare", barePort.ToString(CultureInfo.InvariantCulture), database], [], barePort);

        var jar = new CookieContainer();
        using (var http = new HttpClient(new HttpClientHandler { CookieContainer = jar }) { BaseAddress = new(site) })
        {
            var form = await http.GetStringAsync("/sign-in");
            (await http.PostAsync("/sign-in?handler=password", new FormUrlEncodedContent(new Dictionary<string, string>
            {
                ["email"] = SeedDemo.MemberEmail,
                ["Password"] = SeedDemo.MemberPassword,
                ["then"] = "/me",
                ["__RequestVerificationToken"] = Token().Match(form).Groups[1].Value,
            }))).EnsureSuccessStatusCode();
            signedIn = jar.GetCookieHeader(new(site));
        }

        var measured = new (string What, string Url, string? Cookie, string Aim)[]
        {
            ("a bare page of an empty app", bare + "/bench/empty", null, ""),
            ("a bare page with one EF query", $"{bare}/bench/one-query?id={member}", null, ""),
            ("sign-in page (no query)", site + "/sign-in", null, "at least 0.40"),
            ("front home", site + "/", null, "at least 0.40"),
            ("shelves", site + "/shelves", signedIn, "at least 0.10"),
            ("member home", site + "/me", signedIn, "at least 0.10, p99 under 60 ms"),
            ("reading page", $"{site}/read/{piece}", signedIn, "at least 0.10, p99 under 60 ms"),
        };
        // Until the runtime has done compiling what is hot.
        for (var round = 0; round < 2; round++) foreach (var m in measured) Load.Of(m.Url, m.Cookie, 4);
        // Rounds take turns, so that a slow moment of the machine hits all of them.
        var best = new Load?[measured.Length];
        for (var round = 0; round < 3; round++)
            for (var i = 0; i < measured.Length; i++) best[i] = Load.Of(measured[i].Url, measured[i].Cookie, 4).Better(best[i]);
        for (var i = 0; i < measured.Length; i++)
            Row(measured[i].What, $"{best[i]!.PerSecond:0} requests/s, half under {best[i]!.Half:0.0} ms, 99 % under {best[i]!.Most:0.0} ms",
                i == 0 ? "" : $"bare page {best[0]!.PerSecond:0}", i == 0 ? "" : $"{best[i]!.PerSecond / best[0]!.PerSecond:0.000}", measured[i].Aim);
    }

    [GeneratedRegex(@"Requests/sec:\s+([\d.]+)")] private static partial Regex PerSecondOf();
}
