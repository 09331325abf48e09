using System.Diagnostics;
using System.Net.ServerSentEvents;
using System.Text.Json;
using BrightCircle.App;
using BrightCircle.App.Community;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.Bench;

/// <summary>Much talk: 200,000 posts in 10,000 threads, one of which has 10,000 answers; and a storm of answers in it while many read.</summary>
public static partial class BenchMain
{
    const int Threads = 10_000, AnswersEach = 18, InTheLongOne = 10_000, TalkPeople = 2_000, Stormers = 25, StormReaders = 500, StormAnswers = 1_000;
    static readonly TimeSpan Storm = TimeSpan.FromMinutes(1);
    const long FirstTalker = 600_000_001;

    static async Task TalkMuch()
    {
        await using var house = await House.Open();
        var password = new Microsoft.AspNetCore.Identity.PasswordHasher<Account>().HashPassword(new(), "hive-tool-and-tea");
        await ManyMembers.WithAccounts(house, TalkPeople, FirstTalker, password);
        var spaces = new List<SpaceId>();
        for (var i = 1; i <= 8; i++)
            spaces.Add((await Gives<SaveSpace, App.Result<SpaceId>>(house, s => s.Do(house.Owner, null,
                SpaceDraft.Empty with { Name = $"Space {i}", ForGuests = true }, default))).Value);
        var longOne = await FillTalk(house, [.. spaces.Select(s => s.Value)]);
        var owner = $"owner-{Guid.NewGuid():N}@site.example";
        await house.Ask(db => db.Database.ExecuteSqlAsync($"""
            update accounts set email = {owner}, normalized_email = upper({owner}), user_name = {owner}, normalized_user_name = upper({owner}),
                password_hash = {password} where role = 'Owner'
            """));
        await using var app = new BenchApp(house.Database);
        app.Services.GetRequiredService<App.Clock.HouseClock>().StandAt(house.Clock.Moment);
        using var reader = await SignedIn(app, "reader@site.example", "hive-tool-and-tea");
        using var team = await SignedIn(app, owner, "hive-tool-and-tea");
        var (large, pages) = (spaces[0].Value, InTheLongOne / ReadTalk.PostsAPage);
        var empty = 0.0;
        foreach (var (what, who, path) in new (string, HttpClient, string)[]
        {
            ("an empty page", reader, "/bench/empty"), ("all spaces, 200,000 posts", reader, "/spaces"),
            ("a space of 6,500 threads", reader, $"/spaces/{large}"), ("the same, page 100", reader, $"/spaces/{large}?page=100"),
            ("a thread of 10,000 answers", reader, $"/spaces/threads/{longOne}"), ("the same, in the middle", reader,
                $"/spaces/threads/{longOne}?page={pages / 2}"),
            ("the same, its last page", reader, $"/spaces/threads/{longOne}?page={pages}"),
            ("a search with many hits", reader, "/spaces/search?q=willow"), ("a search with few", reader, "/spaces/search?q=number7777"),
            ("keeping it good", team, "/desk/talk"), ("Today", team, "/desk"),
        })
        {
            var (p50, p99, trips) = await Times(who, path);
            if (path == "/bench/empty") empty = p99;
            Row(what, $"p50 {p50:0.0} ms, p99 {p99:0.0} ms, {trips} round {(trips == 1 ? "trip" : "trips")}",
                path == "/bench/empty" ? "" : $"empty page, p99 {empty:0.0} ms", path == "/bench/empty" ? "" : $"{p99 / empty:0.0}");
        }
        await Stormy(house, app, reader, spaces[0], longOne);
    }

    static async Task<TResult> Gives<T, TResult>(House house, Func<T, Task<TResult>> ask) where T : notnull
    {
        TResult result = default!;
        await house.Do<T>(async t => result = await ask(t));
        return result;
    }

    /// <returns>The thread with very many answers.</returns>
    static Task<long> FillTalk(House house, long[] spaces) => house.Ask(async db =>
    {
        var at = house.Clock.Moment - Duration.FromDays(420);
        const long thread = 700_000_000, post = 800_000_000;
        db.Database.SetCommandTimeout(900);
        // Most of them in the first space. One every hour; the long one is the last.
        await db.Database.ExecuteSqlAsync($"""
            insert into talk_threads (id, space_id, title, at, last_at, answers)
            select {thread} + n, ({spaces}::bigint[])[case when n % 20 < 13 then 1 else n % 7 + 2 end], 'About the willow, ' || n, {at} + n * interval '1 hour',
                {at} + n * interval '1 hour' + interval '20 hours', case when n = {Threads} then {InTheLongOne} else {AnswersEach} end
            from generate_series(1, {Threads}) n
            """);
        await db.Database.ExecuteSqlAsync($"""
            insert into talk_posts (id, thread_id, answers_id, is_first, account_id, name, by_team, body, at, gone_by_team)
            select {post} + n::bigint * 20000 + a, {thread} + n, case when a % 4 = 3 then {post} + n::bigint * 20000 + a - 1 end, a = 0,
                {FirstTalker} + (n * 31 + a * 7) % {TalkPeople}, 'Reader ' || (n * 31 + a * 7) % {TalkPeople} + 1, false,
                '<p>' || case when a % 10 = 0 then 'The willow is out. ' else '' end || 'Heft every hive before the frost, number' || n || '.</p>',
                {at} + n * interval '1 hour' + a * interval '1 minute', false
            from generate_series(1, {Threads}) n, generate_series(0, case when n = {Threads} then {InTheLongOne} else {AnswersEach} end) a
            """);
        await db.Database.ExecuteSqlAsync($"""
            insert into talk_nods (post_id, account_id, word, at) select p.id, {FirstTalker} + p.id % {TalkPeople}, p.id % 3, p.at from talk_posts p where
                p.id % 5 = 0
            """);
        await db.Database.ExecuteSqlAsync($"""
            insert into talk_seen (account_id, thread_id, post_id, at) select {FirstTalker} + n % 50, t.id, 0, t.at from talk_threads t, generate_series(1, 5) n
            on conflict do nothing
            """);
        await db.Database.ExecuteSqlRawAsync("vacuum analyze");
        return thread + Threads;
    });

    /// <summary>A thousand answers in a minute, while five hundred have the thread open: what that costs others who load pages, and whether all get
    /// all.</summary>
    static async Task Stormy(House house, BenchApp app, HttpClient reader, SpaceId space, long thread)
    {
        var page = $"/spaces/threads/{thread}";
        var quiet = await During(reader, page, TimeSpan.FromSeconds(10));
        var since = await house.Ask(db => db.TalkPosts.Where(p => p.ThreadId == thread).MaxAsync(p => p.Id));
        using var stop = new CancellationTokenSource();
        var (got, open) = (0L, 0);
        var readers = Enumerable.Range(0, StormReaders).Select(async _ =>
        {
            var last = since;
            while (!stop.IsCancellationRequested)
                try
                {
                    using var request = new HttpRequestMessage(HttpMethod.Get, $"{page}/live?after={last}");
                    using var answer = await reader.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, stop.Token);
                    answer.EnsureSuccessStatusCode();
                    Interlocked.Increment(ref open);
                    await using var stream = await answer.Content.ReadAsStreamAsync(stop.Token);
                    await foreach (var item in SseParser.Create(stream).EnumerateAsync(stop.Token))
                    {
                        if (item.EventType != "posts") continue;
                        using var news = JsonDocument.Parse(item.Data);
                        foreach (var one in news.RootElement.EnumerateArray())
                            if (long.Parse(one.GetProperty("id").GetString()!, System.Globalization.CultureInfo.InvariantCulture) is var id && id > last)
                            {
                                last = id;
                                Interlocked.Increment(ref got);
                            }
                    }
                }
                catch (Exception e) when (e is OperationCanceledException or IOException or HttpRequestException) { }
        }).ToArray();
        while (Volatile.Read(ref open) < StormReaders) await Task.Delay(50);
        var still = await During(reader, page, TimeSpan.FromSeconds(10));
        var before = GC.GetTotalMemory(true);
        var by = new List<SpaceReader>();
        for (var n = 0; n < Stormers; n++)
        {
            var person = (await Gives<MemberReader, SignedIn?>(house, r => r.Load(FirstTalker + 100 + n, default)))!;
            by.Add(SpaceReader.For(house.Now, person, person.FactsAt(house.Clock.Moment), space, house.Clock.Moment)!);
        }
        var stormed = During(reader, page, Storm);
        var watch = Stopwatch.StartNew();
        for (var n = 0; n < StormAnswers; n++)
        {
            var due = Storm * n / StormAnswers - watch.Elapsed;
            if (due > TimeSpan.Zero) await Task.Delay(due);
            var done = await Gives<Talk, App.Result<Said>>(house, t => t.Answer(by[n % Stormers], thread, null, $"Answer {n} in the storm.", default));
            if (!done.Ok) throw new InvalidOperationException(done.Refusal);
        }
        var took = watch.Elapsed;
        var during = await stormed;
        var wanted = (long)StormAnswers * StormReaders;
        for (var i = 0; i < 600 && Interlocked.Read(ref got) < wanted; i++) await Task.Delay(100);
        var all = watch.Elapsed;
        var kept = (GC.GetTotalMemory(true) - before) / 1e6;
        await stop.CancelAsync();
        await Task.WhenAll(readers);
        Row("a page of a thread, quiet", $"p50 {quiet.P50:0.0} ms, p99 {quiet.P99:0.0} ms");
        Row($"the same, {StormReaders} with it open", $"p50 {still.P50:0.0} ms, p99 {still.P99:0.0} ms", $"quiet {quiet.P50:0.0} ms",
            $"{still.P50 / quiet.P50:0.00}");
        Row($"the same, {StormAnswers:N0} answers in {took.TotalSeconds:0} s", $"p50 {during.P50:0.0} ms, p99 {during.P99:0.0} ms", $"quiet {quiet.P50:0.0} ms",
            $"{during.P50 / quiet.P50:0.00}", "< 2");
        Row("answers that came to those who read", $"{Interlocked.Read(ref got):N0} of {wanted:N0}, the last after {all.TotalSeconds:0.0} s", aim: "all");
        Row("memory kept after the storm", $"{kept:0.0} MB", aim: "flat");
    }

    /// <summary>How long a page takes, asked for again and again for so long.</summary>
    static async Task<(double P50, double P99)> During(HttpClient http, string path, TimeSpan so)
    {
        var times = new List<double>();
        var all = Stopwatch.StartNew();
        while (all.Elapsed < so)
        {
            var watch = Stopwatch.StartNew();
            (await http.GetAsync(path)).EnsureSuccessStatusCode();
            times.Add(watch.Elapsed.TotalMilliseconds);
            await Task.Delay(20);
        }
        times.Sort();
        return (times[times.Count / 2], times[Math.Min(times.Count - 1, times.Count * 99 / 100)]);
    }
}
