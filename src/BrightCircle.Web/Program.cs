using BrightCircle.App;
using BrightCircle.App.Community;
using BrightCircle.App.Demo;
using BrightCircle.App.Letters;
using BrightCircle.App.Routines;
using BrightCircle.App.Running;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.EntityFrameworkCore;
using Serilog;

// BrightCircle.Web            serve the site
// BrightCircle.Web migrate    bring the database up to date, and stop
// BrightCircle.Web demo       the same, then make the demo site in an empty database, and stop
var command = args.FirstOrDefault(a => a is "migrate" or "demo");
var builder = WebApplication.CreateBuilder([.. args.Where(a => a != command)]);

// Run from where it was built, compressed styles and scripts lie in the build's own folder; published, this does nothing.
builder.WebHost.UseStaticWebAssets();
builder.WebHost.ConfigureKestrel(k => k.AddServerHeader = false);
builder.Host.UseSerilog((context, log) => log.ReadFrom.Configuration(context.Configuration));
builder.Services.AddBrightApp(builder.Configuration);
builder.Services.AddBrightWeb(builder.Configuration);
if (command is null)
{
    builder.Services.AddHostedService<CatalogueListener>();
    builder.Services.AddHostedService(s => s.GetRequiredService<LiveTalk>());
    builder.Services.AddHostedService<LaterWriter>();
    if (builder.Configuration.GetValue("Worker", true)) builder.Services.AddHostedService<Worker>().AddHostedService<ProgramWorker>()
        .AddHostedService<NoticeWorker>();
}

var app = builder.Build();
await using (var scope = app.Services.CreateAsyncScope())
{
    // EF Core takes a lock of its own, so nodes that start together don't migrate twice.
    if (command is not null || builder.Configuration.GetValue("MigrateAtStart", true))
        await scope.ServiceProvider.GetRequiredService<BrightContext>().Database.MigrateAsync();
    var catalogue = scope.ServiceProvider.GetRequiredService<Catalogue>();
    await catalogue.Load();
    if (command == "migrate") return 0;
    if (command == "demo")
    {
        if (catalogue.Now.Site is not null) return 0;
        var watch = System.Diagnostics.Stopwatch.StartNew();
        using var till = new DemoTill(builder.Configuration["Till:Url"]!, builder.Configuration["Postbox:Url"]!);
        var seed = ActivatorUtilities.CreateInstance<SeedDemo>(app.Services);
        var happened = await seed.Run(till, builder.Configuration.GetValue("Demo:People", SeedDemo.People));
        var counts = happened.Counts.OrderBy(c => c.Key, StringComparer.Ordinal).Select(c => $"{c.Value} {c.Key}");
        Console.WriteLine($"Tansy Lane has lived its fourteen months in {watch.Elapsed.TotalSeconds:0.0} s: {string.Join(", ", counts)}");
        return 0;
    }
}

app.UseBrightWeb();
await app.RunAsync();
return 0;

public partial class Program;
