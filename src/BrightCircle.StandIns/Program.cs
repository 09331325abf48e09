using System.Text.Json.Serialization;
using BrightCircle.StandIns;

// Usage: BrightCircle.StandIns --Till:Port N --Postbox:Port N --Smtp:Port N --Folder DIR --Secret S   (port 0: any free one)
var options = new ConfigurationBuilder().AddEnvironmentVariables("STANDINS_").AddCommandLine(args).Build().Get<StandInOptions>() ?? new();

using var till = new TillState(options.Folder is null ? null : Path.Combine(options.Folder, "till.jsonl"));
using var box = new PostboxState(options.Folder is null ? null : Path.Combine(options.Folder, "postbox"));
using var smtp = new SmtpServer(box);
var smtpPort = smtp.Start(options.Smtp.Port);
// The DNS speaks UDP, letters TCP: one number does for both.
using var names = new NameServer(options.Folder is null ? null : Path.Combine(options.Folder, "names.json"));
names.Start(smtpPort);

var tillApp = Make(options.Till.Port);
TillPages.Map(tillApp, till, new(options.Secret), options);
var boxApp = Make(options.Postbox.Port);
PostboxPages.Map(boxApp, box, names);
PushService.Map(boxApp);
await tillApp.StartAsync();
await boxApp.StartAsync();
Console.WriteLine($"READY till={tillApp.Urls.First()} postbox={boxApp.Urls.First()} smtp={smtpPort}");
await Task.WhenAny(tillApp.WaitForShutdownAsync(), boxApp.WaitForShutdownAsync());

static WebApplication Make(int port)
{
    var b = WebApplication.CreateSlimBuilder();
    b.WebHost.UseUrls($"http://127.0.0.1:{port}");
    b.Logging.ClearProviders();
    b.Services.ConfigureHttpJsonOptions(o => o.SerializerOptions.Converters.Add(new JsonStringEnumConverter()));
    return b.Build();
}

public sealed class StandInOptions
{
    public sealed class OnPort { public int Port { get; set; } }
    public OnPort Till { get; set; } = new();
    public OnPort Postbox { get; set; } = new();
    public OnPort Smtp { get; set; } = new();
    /// <summary>Where they keep their state; null keeps it in memory.</summary>
    public string? Folder { get; set; }
    public string Secret { get; set; } = "";
    /// <summary>Where callbacks about charges without a page go.</summary>
    public string? DefaultCallback { get; set; }
    public TimeSpan TimeOut { get; set; } = TimeSpan.FromSeconds(8);
    public TimeSpan ChargebackAfter { get; set; } = TimeSpan.FromSeconds(60);
}

internal partial class Program;
