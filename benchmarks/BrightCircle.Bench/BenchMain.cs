using System.Diagnostics;
using System.Net;
using System.Text.RegularExpressions;
using BrightCircle.App.Billing;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Demo;
using BrightCircle.App.Due;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.AspNetCore.Mvc.Testing;
using NodaTime;

namespace BrightCircle.Bench;

/// <summary>Measures, each beside something run in the same process and minute, because absolute times on a shared machine tell little.</summary>
public static partial class BenchMain
{
    static readonly List<(string What, string Figure, string Beside, string Ratio, string Aim)> Rows = [];

    /// <param name="args">A part alone: core, pages, members, people, renewals, content, files or talk.</param>
    public static async Task<int> Main(string[] args)
    {
        if (args is ["bare", var port, var database])
        {
            await Bare(int.Parse(port, System.Globalization.CultureInfo.InvariantCulture), database);
            return 0;
        }
        bool Wanted(string part) => args.Length == 0 || args.Contains(part);
        if (Wanted("core"))
        {
            Decisions();
            Paced();
            Schedules();
        }
        if (Wanted("pages")) await Pages();
        if (Wanted("members")) await Members();
        if (Wanted("people")) await AboutPeople();
        if (Wanted("renewals")) await Renewals();
        if (Wanted("content")) await Content();
        if (Wanted("files")) await Files();
        if (Wanted("talk")) await TalkMuch();
        Print();
        return 0;
    }

    static void Row(string what, string figure, string beside = "", string ratio = "", string aim = "") => Rows.Add((what, figure, beside, ratio, aim));

    static void Decisions()
    {
        var start = Instant.FromUtc(2025, 1, 1, 9, 0);
        var editions = Enumerable.Range(0, 24).Select(
            m =>
            {
                var e = new Edition { Id = new(m + 1), FirstDay = new LocalDate(2024, 12, 1).PlusMonths(m) }; e.Release(start + Duration.FromDays(30 * m));
                return e;
            }).ToArray();
        var pieces = Enumerable.Range(0, 500).Select(
            i =>
            {
                var p = new Piece { Id = new(i + 1), ShelfId = new(i % 6), EditionId = editions[i % 24].Id, Ready = true };
                p.Release(editions[i % 24].ReleasedAt!.Value); return p;
            }).ToArray();
        Reach[] reaches = [new Reach.FromJoining(), new Reach.WhilePaid(), new Reach.EverythingReleased()];
        var plans = Enumerable.Range(0, 5).Select(i =>
            new Plan
            {
                Id = new(i + 1),
                Rank = i,
                Promise =
            [new(i % 2 == 0 ? new Coverage.OnShelf(new(i)) : new Coverage.Everything(), reaches[i % 2], new Keep.WhatHadOpened())]
            }).ToArray();
        var book = new AccessBook(plans, pieces, editions);
        var holdings = plans.Select((p, i) =>
        {
            var h = new Holding
            {
                Id = new(i + 1),
                PlanId = p.Id,
                StartsAt = start + Duration.FromDays(200 + 50 * i),
                Agreement = Agreement.ForNothing(start + Duration.FromDays(200 + 50 * i), "Europe/London")
            };
            for (var k = 0; k < 6; k++) h.Facts.Add(
                HoldingFact.Stored(h.Id, k + 1, HoldingFactKind.Paid, h.StartsAt + Duration.FromDays(30 * k), h.StartsAt + Duration.FromDays(30 * k),
                h.StartsAt + Duration.FromDays(30 * (k + 1))));
            return h;
        }).ToArray();
        var now = start + Duration.FromDays(700);
        var facts = MemberFacts.From(holdings, now);
        int Round() { var open = 0; foreach (var p in pieces) if (book.Decide(facts, p.Id, now).IsOpen) open++; return open; }
        for (var i = 0; i < 2000; i++) Round();
        var before = GC.GetAllocatedBytesForCurrentThread();
        var watch = Stopwatch.StartNew();
        var rounds = 0;
        while (watch.Elapsed < TimeSpan.FromSeconds(2)) { Round(); rounds++; }
        var perSecond = rounds * 500 / watch.Elapsed.TotalSeconds;
        var allocated = (GC.GetAllocatedBytesForCurrentThread() - before) / ((double)rounds * 500);
        var table = pieces.ToDictionary(p => p.Id, p => p);
        int Bare() { var n = 0; foreach (var p in pieces) if (table.TryGetValue(p.Id, out var x) && x.Ready) n++; return n; }
        for (var i = 0; i < 2000; i++) Bare();
        watch.Restart();
        var bare = 0;
        while (watch.Elapsed < TimeSpan.FromSeconds(1)) { Bare(); bare++; }
        var barePerSecond = bare * 500 / watch.Elapsed.TotalSeconds;
        Row("access decisions, 5 holdings × 500 pieces, one core", $"{perSecond / 1e6:0.0} million/s, {allocated:0.##} B each",
            $"one dictionary look-up {barePerSecond / 1e6:0.0} million/s", $"{perSecond / barePerSecond:0.00}", "over 2 million/s, 0 B");
    }

    sealed class BenchApp : WebApplicationFactory<Web.Areas.Front.Pages.IndexModel>
    {
        public string Database { get; }
        public BenchApp(string? database = null)
        {
            Database = database ?? House.NewDatabase();
            UseKestrel(0);
            StartServer();
        }

        protected override void ConfigureWebHost(IWebHostBuilder b)
        {
            b.UseEnvironment("Testing");
            b.UseContentRoot(Path.Combine(TestServers.Root, "src/BrightCircle.Web"));
            foreach (var (key, value) in House.Settings(Database)) b.UseSetting(key, value);
            b.UseSetting("Worker", "false");
            b.UseSetting("Limits:SignInPerMinute", "10000");
            b.UseSetting("Serilog:MinimumLevel:Default", "Error");
            b.ConfigureServices(s => s.AddRazorPages().AddApplicationPart(typeof(BenchMain).Assembly));
        }
    }

    /// <summary>Answers at once: the Till's own time is not what is measured.</summary>
    sealed class InstantGateway : IPaymentGateway
    {
        int n;
        public Task<ChargeResult> Charge(ChargeRequest request, CancellationToken ct) =>
            Task.FromResult<ChargeResult>(new ChargeResult.Answered(ChargeOutcome.Approved, $"instant-{Interlocked.Increment(ref n)}", null));
        public Task<OpenedSession?> Open(SessionRequest request, CancellationToken ct) => throw new NotSupportedException();
        public Task<SessionResult?> Result(string session, CancellationToken ct) => throw new NotSupportedException();
        public Task<IReadOnlyList<GatewayCharge>?> List(Instant from, Instant to, CancellationToken ct) => Task.FromResult<IReadOnlyList<GatewayCharge>?>([]);
        public Task<RefundResult> Answer(string key, string disputeRef, string text, CancellationToken ct) => throw new NotSupportedException();
        public Task<IReadOnlyList<GatewayPayout>?> Payouts(Instant from, Instant to, CancellationToken ct) => throw new NotSupportedException();
        public Task<RefundResult> Refund(string key, string chargeRef, Money amount, Instant at, CancellationToken ct) => throw new NotSupportedException();
        public Task<bool> Forget(string cardToken, CancellationToken ct) => Task.FromResult(true);
        public GatewayCallback Read(string? timestamp, string? signature, ReadOnlySpan<byte> body) => new GatewayCallback.Other();
    }

    static async Task Renewals()
    {
        await using var house = await House.Open();
        const int Few = 4_000, Count = 100_000;
        await using var node = await house.AnotherNode(s => s.AddSingleton<IPaymentGateway, InstantGateway>());
        // The first few warm everything up: a house runs for months.
        await Renew(house, node, Few);
        var before = GC.GetTotalMemory(true);
        var seconds = await Renew(house, node, Count);
        var grown = (GC.GetTotalMemory(true) - before) / 1e6;
        var watch = Stopwatch.StartNew();
        for (var i = 0; i < 1000; i++) await house.Ask(
            db => Microsoft.EntityFrameworkCore.EntityFrameworkQueryableExtensions.FirstAsync(db.Members, m => m.Email != ""));
        var single = watch.Elapsed.TotalSeconds;
        Row("a renewal run, per thousand memberships", $"{seconds / Count * 1000:0.00} s", $"a thousand single reads {single:0.00} s",
            $"{seconds / Count * 1000 / single:0.0}");
        Row("renewals a second, without the payment service", $"{Count / seconds:N0}", aim: "≥ 1,000");
        Row($"memory kept after {Count:N0} renewals", $"{grown:0.0} MB", aim: "flat");
    }

    static async Task<double> Renew(House house, House node, int count)
    {
        var at = await ManyMembers.Add(house, count);
        node.Clock.StandAt(at);
        var watch = Stopwatch.StartNew();
        var happened = await node.Services.GetRequiredService<RunDue>().Run();
        var seconds = watch.Elapsed.TotalSeconds;
        if (happened.Counts["charged"] < count) throw new InvalidOperationException("Not all were charged.");
        return seconds;
    }

    static void Print()
    {
        string[] heads = ["measure", "figure", "beside it", "ratio", "aim"];
        var cells = Rows.Select(r => new[] { r.What, r.Figure, r.Beside, r.Ratio, r.Aim }).Prepend(heads).ToArray();
        var widths = heads.Select((_, i) => cells.Max(c => c[i].Length)).ToArray();
        foreach (var line in cells) Console.WriteLine(string.Join("  ", line.Select((c, i) => c.PadRight(widths[i]))).TrimEnd());
    }

    [GeneratedRegex("name=\"__RequestVerificationToken\" type=\"hidden\" value=\"([^\"]+)\"")] private static partial Regex Token();
}
