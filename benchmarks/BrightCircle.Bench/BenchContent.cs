using System.Diagnostics;
using System.Net.Http.Headers;
using System.Text;
using BrightCircle.App.Content;
using BrightCircle.App.Files;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.Bench;

/// <summary>A large site: 60 shelves of 50 pieces of 12 lessons, and 300,000 progress rows.</summary>
public static partial class BenchMain
{
    const int Shelves = 60, PiecesEach = 50, LessonsEach = 12, ProgressRows = 300_000;

    static async Task Content()
    {
        await using var house = await House.Open();
        var owner = $"owner-{Guid.NewGuid():N}@site.example";
        await Fill(house, owner);
        var watch = Stopwatch.StartNew();
        await house.Catalogue.Load();
        Row($"reading the catalogue of {house.Now.LessonById.Count:N0} lessons", $"{watch.Elapsed.TotalMilliseconds:0} ms");
        var course = house.Now.Pieces.First(p => p.Outline.Lessons.Count == 200);
        await Once("the same after one piece changed", async () => await house.Catalogue.Changed([course.Id]), 10);
        var order = course.Outline.Order;
        await Once("putting a course of 200 lessons in another order", async () =>
        {
            order = order.MoveLessons([order.Lessons.Last()], new(order.Groups[0].Module, 0));
            await house.Do<ReorderOutline>(s => s.Do(house.Owner, course.Id, order, default));
        }, 10);

        await using (var app = new BenchApp(house.Database))
        {
            using var http = await SignedIn(app, owner, "hive-tool-and-tea");
            using var reader = await SignedIn(app, "reader@site.example", "hive-tool-and-tea");
            var piece = house.Now.Pieces.First(p => p.Outline.Lessons.Count == LessonsEach && p.ReleasedAt is not null);
            var lesson = piece.Outline.Lessons[5].Id.Value;
            (string What, HttpClient Who, string Path)[] pages =
            [
                ("an empty page", reader, "/bench/empty"), ("the board, four months", http, "/desk/editions"),
                    ("the board, twelve months", http, "/desk/editions?span=12"), ("a piece’s outline on the Desk", http, $"/desk/pieces/{piece.Id.Value}"),
                    ("the lesson editor", http, $"/desk/lessons/{lesson}"),
                ("a course’s page", reader, $"/read/{piece.Id.Value}"), ("a lesson to read", reader, $"/lessons/{lesson}/x"),
                    ("a search with many hits", reader, "/search?q=willow"), ("a search with few", reader, "/search?q=number77"),
            ];
            var empty = 0.0;
            foreach (var (what, who, path) in pages)
            {
                var (p50, p99, trips) = await Times(who, path);
                if (path == "/bench/empty") empty = p50;
                Row(what, $"p50 {p50:0.0} ms, p99 {p99:0.0} ms, {trips} round {(trips == 1 ? "trip" : "trips")}",
                    path == "/bench/empty" ? "" : $"empty page {empty:0.0} ms", path == "/bench/empty" ? "" : $"{p50 / empty:0.0}");
            }
        }
        await ImportMany(house);
    }

    static async Task Once(string what, Func<Task> act, int times)
    {
        await act();
        var watch = Stopwatch.StartNew();
        for (var i = 0; i < times; i++) await act();
        Row(what, $"{watch.Elapsed.TotalMilliseconds / times:0} ms");
    }

    static async Task<HttpClient> SignedIn(BenchApp app, string email, string password)
    {
        var http = new HttpClient(new HttpClientHandler { CookieContainer = new() })
        {
            BaseAddress = app.ClientOptions.BaseAddress,
            Timeout = TimeSpan.FromMinutes(5)
        };
        var form = await http.GetStringAsync("/sign-in");
        await http.PostAsync("/sign-in?handler=password",
            new FormUrlEncodedContent(
                new Dictionary<string, string>
                { ["email"] = email, ["Password"] = password, ["then"] = "/", ["__RequestVerificationToken"] = Token().Match(form).Groups[1].Value }));
        return http;
    }

    static async Task<(double P50, double P99, int Trips)> Times(HttpClient http, string path)
    {
        var trips = 0;
        using var listener = new ActivityListener
        {
            ShouldListenTo = a => a.Name == "Npgsql",
            Sample = (ref ActivityCreationOptions<ActivityContext> _) => ActivitySamplingResult.AllData,
            ActivityStopped = a =>
            {
                if (a.Tags.Any(t => t.Key.StartsWith("db.", StringComparison.Ordinal))
            && !a.OperationName.Contains("onnect", StringComparison.Ordinal)) Interlocked.Increment(ref trips);
            }
        };
        for (var i = 0; i < 25; i++) (await http.GetAsync(path)).EnsureSuccessStatusCode();
        ActivitySource.AddActivityListener(listener);
        await http.GetStringAsync(path);
        var counted = trips;
        listener.Dispose();
        var times = new List<double>();
        for (var i = 0; i < 200; i++)
        {
            var watch = Stopwatch.StartNew();
            (await http.GetAsync(path)).EnsureSuccessStatusCode();
            times.Add(watch.Elapsed.TotalMilliseconds);
        }
        times.Sort();
        return (times[100], times[197], counted);
    }

    /// <summary>Rows by the database itself: making them one by one isn't what is measured.</summary>
    static async Task Fill(House house, string owner)
    {
        var text =
            string.Join(' ', Enumerable.Repeat("The willow is the first table laid in spring; heft every hive before the frost and keep the brood nest warm.",
            12));
        var password = new Microsoft.AspNetCore.Identity.PasswordHasher<Account>().HashPassword(new(), "hive-tool-and-tea");
        var at = house.Clock.Moment;
        await ManyMembers.WithAccounts(house, 1000, 600_000_001, password);
        await house.Ask(async db =>
        {
            db.Database.SetCommandTimeout(600);
            await db.Database.ExecuteSqlAsync($"""
                update accounts set email = {owner}, normalized_email = upper({owner}), user_name = {owner}, normalized_user_name =
                    upper({owner}), password_hash = {password} where role = 'Owner'
                """);
            await db.Database.ExecuteSqlAsync($"""
                insert into shelves (id, name, mark, colour, "order", description) select 100000000 + s, 'Shelf ' || s, lpad(s::text, 2, '0'), s %
                    8 + 1, s + 10, '' from generate_series(1, {Shelves}) s
                """);
            await db.Database.ExecuteSqlAsync($"""
                insert into pieces (id, shelf_id, edition_id, title, subtitle, summary, learn, for_whom, support_address, terms, questions_on, end_note,
                    end_link_text, certificate, copy_guard, worked_on_by, ready, released_at, version, changed_at)
                select 200000000 + n, 100000000 + (n - 1) / {PiecesEach} + 1, (array(select id from editions order by id))[n % 2 + 1], 'Piece ' || n, '',
                    'What it is', '', '', '', '', false, '', '', false, false, '', true, case when n % 2 = 0 then {at}::timestamptz end, 1, {at}
                        from generate_series(1, {Shelves * PiecesEach}) n
                """);
            await db.Database.ExecuteSqlAsync($"""
                insert into modules (id, piece_id, title, position) select 300000000 + n * 4 + m, 200000000 + n, 'Week ' || m, m from
                    generate_series(1, {Shelves * PiecesEach}) n, generate_series(1, 3) m
                """);
            await db.Database.ExecuteSqlAsync($"""
                insert into lessons (id, piece_id, module_id, position, title, minutes, teaser, ready, released_at, version, changed_at, changed_by, kinds)
                select 400000000 + n * 300 + l, 200000000 + n, 300000000 + n * 4 + (l - 1) % 3 + 1, l, 'Lesson ' || l, 10, false, true, {at}, 1, {at}, 'Ines',
                    'text'
                from generate_series(1, {Shelves * PiecesEach}) n, generate_series(1, case when n = 2 then 200 else {LessonsEach} end) l
                """);
            await db.Database.ExecuteSqlAsync($"""
                insert into lesson_contents (lesson_id, blocks) select id, jsonb_build_array(jsonb_build_object('kind', 'text', 'id', id, 'html',
                    '<p>' || {text} || ' number' || id % 1000 || '</p>'), jsonb_build_object('kind', 'timer', 'id', id + 500000000, 'title',
                    'Wait', 'seconds', 60)) from lessons where id between 400000000 and 499999999
                """);
            await db.Database.ExecuteSqlAsync($"""
                insert into search_texts (id, piece_id, lesson_id, title, body, transcript, tsv) select id, piece_id, id, title, {text} || '
                    number' || id % 1000, '', setweight(to_tsvector('english', title), 'A') || setweight(to_tsvector('english', {text} || '
                    number' || id % 1000), 'B') from lessons where id between 400000000 and 499999999
                """);
            await db.Database.ExecuteSqlAsync($"""
                insert into openings (member_id, lesson_id, first_at, last_at, done_at) select 600000001 + n % 1000, 400000000 + (1 + (n / 1000 *
                    7 + n % 1000) % {Shelves * PiecesEach}) * 300 + 1 + n / 1000 % {LessonsEach}, {at}, {at}, {at} from generate_series(0,
                    {ProgressRows - 1}) n on conflict do nothing
                """);
            await db.Database.ExecuteSqlRawAsync("analyze");
            return 0;
        });
    }

    /// <summary>Files up and down, beside copying them on the disk.</summary>
    static async Task Files()
    {
        await using var house = await House.Open();
        var owner = $"owner-{Guid.NewGuid():N}@site.example";
        var password = new Microsoft.AspNetCore.Identity.PasswordHasher<Account>().HashPassword(new(), "hive-tool-and-tea");
        await house.Ask(db => db.Database.ExecuteSqlAsync($"""
            update accounts set email = {owner}, normalized_email = upper({owner}), user_name = {owner}, normalized_user_name = upper({owner}),
                password_hash = {password} where role = 'Owner'
            """));
        await using var app = new BenchApp(house.Database);
        using var http = await SignedIn(app, owner, "hive-tool-and-tea");
        // A film of 2 GB, sparse on disk, straight into the folder the store keeps files in.
        var store = app.Services.GetRequiredService<IFileStore>();
        const long Size = 2L * 1024 * 1024 * 1024;
        var path = store.NewTemporary();
        await using (var file = File.Create(path))
        {
            file.Write([0x1A, 0x45, 0xDF, 0xA3]);
            file.SetLength(Size);
        }
        var address = await FileAddress.Of(path, ".webm", default);
        await store.Take(path, address, default);
        var id = house.Services.GetRequiredService<Ids>().Next<FileId>();
        await house.Ask(async db =>
        {
            db.Files.Add(new()
            {
                Id = id,
                Address = address,
                Name = "film.webm",
                MediaType = "video/webm",
                Kind = FileKind.Video,
                Bytes = Size,
                AddedAt = house.Clock.Moment
            });
            return await db.SaveChangesAsync();
        });
        async Task<double> Download(RangeHeaderValue? range)
        {
            using var request = new HttpRequestMessage(HttpMethod.Get, $"/desk/files/{id.Value}/raw") { Headers = { Range = range } };
            var watch = Stopwatch.StartNew();
            using var answer = await http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead);
            answer.EnsureSuccessStatusCode();
            await using var body = await answer.Content.ReadAsStreamAsync();
            var buffer = new byte[1 << 17];
            long bytes = 0;
            while (await body.ReadAsync(buffer) is > 0 and var n) bytes += n;
            return bytes / watch.Elapsed.TotalSeconds / 1e6;
        }
        async Task<double> Copy()
        {
            var watch = Stopwatch.StartNew();
            await using var from = (await store.Open(address, default))!;
            var copied = store.NewTemporary();
            await using (var to = File.Create(copied)) await from.CopyToAsync(to, 1 << 17);
            var speed = Size / watch.Elapsed.TotalSeconds / 1e6;
            File.Delete(copied);
            return speed;
        }
        await Download(new(0, 100_000_000));
        GC.Collect();
        using var me = Process.GetCurrentProcess();
        me.Refresh();
        var before = me.WorkingSet64;
        var most = before;
        using var watching = new Timer(_ => { using var p = Process.GetCurrentProcess(); most = Math.Max(most, p.WorkingSet64); }, null, 0, 50);
        var whole = await Download(null);
        watching.Change(Timeout.Infinite, Timeout.Infinite);
        var copy = await Copy();
        var ranged = await Download(new(Size / 2, null));
        Row("sending a file of 2 GB", $"{whole:0} MB/s, memory +{(most - before) / 1e6:0} MB", $"copying it on disk {copy:0} MB/s", $"{whole / copy:0.00}",
            "at least 0.5, memory flat");
        Row("its second half, by range", $"{ranged:0} MB/s", $"copying it on disk {copy:0} MB/s", $"{ranged / copy:0.00}", "at least 0.5");
        await store.Delete(address, default);

        // Up, in parts of 8 MB as the browser sends them; the store's hashing is part of it.
        const long Up = Size;
        const int Part = 8 * 1024 * 1024;
        var token = Token().Match(await http.GetStringAsync("/desk/files")).Groups[1].Value;
        http.DefaultRequestHeaders.Add("RequestVerificationToken", token);
        var part = new byte[Part];
        part[0] = 0x1A; part[1] = 0x45; part[2] = 0xDF; part[3] = 0xA3;
        async Task<double> UpInParts(int n)
        {
            part[8] = (byte)n;
            var watch = Stopwatch.StartNew();
            var begun = await (await http.PostAsync($"/desk/uploads?name=clip{n}.webm&bytes={Up}", null)).Content.ReadAsStringAsync();
            var upload = System.Text.Json.JsonDocument.Parse(begun).RootElement.GetProperty("id").GetInt64();
            for (var at = 0L; at < Up; at += Part) (await http.PutAsync($"/desk/uploads/{upload}?offset={at}", new ByteArrayContent(part)))
                .EnsureSuccessStatusCode();
            (await http.PostAsync($"/desk/uploads/{upload}/finish", null)).EnsureSuccessStatusCode();
            return Up / watch.Elapsed.TotalSeconds / 1e6;
        }
        async Task<double> CopyOnDisk(int n)
        {
            var stored = (await house.Ask(db => db.Files.SingleAsync(f => f.Name == $"clip{n}.webm"))).Address;
            var watch = Stopwatch.StartNew();
            await using var from = (await store.Open(stored, default))!;
            var copied = store.NewTemporary();
            await using (var to = File.Create(copied)) await from.CopyToAsync(to, 1 << 17);
            var speed = Up / watch.Elapsed.TotalSeconds / 1e6;
            File.Delete(copied);
            await store.Delete(stored, default);
            return speed;
        }
        // In turn, so that both meet the same disk; the middle one of three.
        var pairs = new List<(double Up, double Copy)>();
        for (var n = 0; n < 3; n++) pairs.Add((await UpInParts(n), await CopyOnDisk(n)));
        var (up, copyUp) = pairs.OrderBy(p => p.Up / p.Copy).ElementAt(pairs.Count / 2);
        Row("taking a file of 2 GB up in parts", $"{up:0} MB/s", $"copying it on disk {copyUp:0} MB/s", $"{up / copyUp:0.00}", "at least 0.5");
    }

    static async Task ImportMany(House house)
    {
        var files = Enumerable.Range(0, 1000).ToDictionary(
            i => $"piece-{i / 20}/week-{i / 5 % 4}/{i % 5:00}-lesson-{i}.md",
            i => Encoding.UTF8.GetBytes(
            $"---\ntitle: Lesson {i}\nminutes: 7\nready: yes\n---\nSome **words** about it, and more of them.\n\n```timer\ntitle: Wait\nseconds: 60\n```\n"));
        async Task<double> Run(bool dry)
        {
            var read = new ReadImport(house.Services.GetRequiredService<RichText>());
            var source = new TextSource(files);
            var watch = Stopwatch.StartNew();
            read.Markdown(source);
            await house.Do<ImportContent>(s => s.Run(house.Owner, read, source, dry, null, default));
            return watch.Elapsed.TotalSeconds;
        }
        var dry = await Run(true);
        var real = await Run(false);
        Row("importing 1,000 lessons of Markdown", $"{real:0.0} s", $"dry run {dry:0.0} s", $"{real / dry:0.0}");
        Row("importing them again, nothing changed", $"{await Run(false):0.0} s");
    }
}
