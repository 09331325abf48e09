using System.IO.Compression;
using System.ServiceModel.Syndication;
using System.Text;
using System.Xml;
using System.Xml.Linq;
using BrightCircle.App.Content;
using BrightCircle.App.Demo;
using BrightCircle.App.Learning;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.App.Tests;

public class InOutTests
{
    static async Task<ImportReport> Import(House house, IContentSource source, bool dry)
    {
        var read = new ReadImport(house.Services.GetRequiredService<RichText>());
        read.Markdown(source);
        return await house.Get<ImportContent, ImportReport>(s => s.Run(house.Owner, read, source, dry, null, default));
    }

    static string Line(ImportLine l) => $"{l.Verb} {l.What} {l.Name}";

    [Fact]
    public async Task Markdown_comes_in_after_a_dry_run_once_and_changes_what_changed()
    {
        await using var house = await House.Open();
        var source = TextSource.Of(
            ("course/piece.md", "---\ntitle: Spring\nshelf: New shelf\nedition: 2027-03\nready: yes\n---\n"),
            ("course/01-week-one/01-first-look.md", "---\nminutes: 7\nready: yes\n---\nHello **there**.\n\n```timer\ntitle: Wait\nseconds: 60\n```\n\nMore.\n"),
            ("course/01-week-one/02-second.md", "---\nteaser: maybe\n---\nx\n"),
            ("course/03-broken.md", "---\ntitle: Broken\n---\ntext\n\n```practice\ntitle: x\nquestions:\n  - kind: nonsense\n```\n"),
            ("course/04-missing.md", "---\ntitle: Missing\n---\n```pictures\nitems:\n  - file: media/none.png\n```\n"));
        var pieces = house.Now.Pieces.Count;
        var dry = await Import(house, source, dry: true);
        Assert.Equal(pieces, house.Now.Pieces.Count);
        Assert.Equal(["Makes shelf New shelf", "Makes edition March 2027", "Makes piece Spring", "Makes module Week one", "Makes lesson First look"],
            dry.Lines.Where(l => l.Verb == ImportVerb.Makes).Select(Line));
        var refused = dry.Lines.Where(l => l.Verb == ImportVerb.Refuses).OrderBy(l => l.File).ToArray();
        Assert.Equal([("course/01-week-one/02-second.md", 2), ("course/03-broken.md", 7), ("course/04-missing.md", 5)], refused.Select(r => (r.File, r.Line)));
        Assert.Contains("yes or no, not “maybe”", refused[0].Note, StringComparison.Ordinal);
        var real = await Import(house, source, dry: false);
        Assert.Equal(dry.Lines.Select(Line), real.Lines.Select(Line));
        var piece = house.Now.Pieces.Single(p => p.Title == "Spring");
        var lesson = Assert.Single(piece.Outline.Lessons);
        Assert.Equal((7, "Week one", PieceState.Ready), (lesson.Minutes, piece.Outline.Modules.Single().Title, lesson.State));
        var course = new Course(house, piece.Id);
        var before = await course.Blocks(lesson.Id);
        Assert.Equal("<p>Hello <strong>there</strong>.</p>", ((Block.Text)before[0]).Html);

        var again = await Import(house, source, dry: false);
        Assert.DoesNotContain(again.Lines, l => l.Verb is ImportVerb.Makes or ImportVerb.Changes);
        Assert.Equal(1, await house.Ask(db => db.LessonVersions.CountAsync(v => v.LessonId == lesson.Id)));
        var edited =
            TextSource.Of(("course/01-week-one/01-first-look.md",
            "---\npiece: Spring\nmodule: Week one\nminutes: 9\n---\nHello **again**.\n\n```timer\ntitle: Wait\nseconds: 60\n```\n"));
        Assert.Equal(["Same piece Spring", "Changes lesson First look"], (await Import(house, edited, dry: false)).Lines.Select(Line));
        var after = await course.Blocks(lesson.Id);
        // The timer is the same block still: what members did with it stays.
        Assert.Equal([before[0].Id, before[1].Id], after.Select(b => b.Id));
    }

    [Fact]
    public async Task An_outline_and_a_list_of_videos_come_in()
    {
        await using var house = await House.Open();
        var rich = house.Services.GetRequiredService<RichText>();
        var read = new ReadImport(rich);
        // RFC 4180: quotes, commas and line ends in fields; here with semicolons and a byte-order mark.
        const string csv = "piece;module;lesson;minutes;edition\r\nYear;Week 1;\"First; \"\"look\"\"\r\nand more\";12;2027-01\r\n"
            + "Year;Week 1;Second;soon;\r\n;;Third;;\r\nYear;Week 2;Fourth;;2027-W05\r\n";
        read.Outline("outline.csv", new MemoryStream([.. Encoding.UTF8.GetPreamble(), .. Encoding.UTF8.GetBytes(csv)]));
        Assert.Equal([4, 5], read.Refused.Select(r => r.Line));
        var report = await house.Get<ImportContent, ImportReport>(s => s.Run(house.Owner, read, TextSource.Of(), false, null, default));
        Assert.Equal("Week 1: First; \"look\"\nand more | Week 2: Fourth",
            new Course(house, house.Now.Pieces.Single(p => p.Title == "Year").Id).Shape.Replace("\r", "", StringComparison.Ordinal));
        Assert.Contains(house.Now.Editions, e => e.Title == "Week 5, 2027");

        var videos = new ReadImport(rich);
        videos.Videos("Opening the hive https://v.example/1\nhttps://v.example/2, The second\n\nno address here\nhttps://v.example/3", "Films", null);
        Assert.Equal([4, 5], videos.Refused.Select(r => r.Line));
        await house.Do<ImportContent>(s => s.Run(house.Owner, videos, TextSource.Of(), false, null, default));
        var films = new Course(house, house.Now.Pieces.Single(p => p.Title == "Films").Id);
        Assert.Equal("-: Opening the hive, The second", films.Shape);
        Assert.Equal("https://v.example/2", ((Block.Video)(await films.Blocks(films.Lesson("The second").Id))[0]).Recording.Url);
    }

    /// <summary>Everything that makes up the content, with files by what is in them instead of their numbers.</summary>
    static async Task<string> Whole(House house)
    {
        var files = await house.Ask(db => db.Files.AsNoTracking().ToDictionaryAsync(f => f.Id, f => f.Address));
        var contents = await house.Ask(db => db.LessonContents.AsNoTracking().ToDictionaryAsync(c => c.LessonId, c => c.Blocks));
        var b = new StringBuilder();
        string Plain(string json) => System.Text.RegularExpressions.Regex.Replace(
            Named(json), "\"tally\":(\\d+)", m => house.Now.TallyById[new(long.Parse(m.Groups[1].ValueSpan, System.Globalization.CultureInfo.InvariantCulture))]
            .Name);
        string Named(string json) => System.Text.RegularExpressions.Regex.Replace(
            System.Text.RegularExpressions.Regex.Replace(json, "\"id\":\\d+", "\"id\":0"),
            "(\"(?:file|poster|picture)\":|data-file=\\\\u0022|\"items\":\\[)(\\d+)",
            m => m.Groups[1].Value + files.GetValueOrDefault(new(long.Parse(m.Groups[2].ValueSpan, System.Globalization.CultureInfo.InvariantCulture)), "?"));
        foreach (var s in house.Now.Shelves.OrderBy(s => s.Name))
            b.AppendLine(System.Globalization.CultureInfo.InvariantCulture, $"shelf {s.Name} {s.Mark} {s.Colour} {s.Description}");
        foreach (var t in house.Now.Tallies) b.AppendLine(
            System.Globalization.CultureInfo.InvariantCulture, $"tally {t.Name} {t.Description} {t.Aims[^1].AWeek}");
        foreach (var e in house.Now.Editions) b.AppendLine(
            System.Globalization.CultureInfo.InvariantCulture, $"edition {new EditionName(e.Span, e.FirstDay)} {e.Title} {e.Opening}");
        foreach (var p in house.Now.Pieces.OrderBy(p => p.Title).ThenBy(p => p.Id.Value))
        {
            b.AppendLine(System.Globalization.CultureInfo.InvariantCulture,
                $"{PieceFacts.Of(p) with { Version = 0, Shelf = default, Edition = null, Cover = null }} on {house.Now.ShelfById[p.ShelfId].Name} in "
                + $"{house.Now.EditionOf(p)?.Title} ready {p.Ready} cover {(p.Cover is { } c ? files[c] : "")}");
            b.AppendLine("  modules: " + string.Join(" | ", p.Outline.Modules.Select(m => m.Title)));
            foreach (var part in p.Outline.Parts)
                foreach (var l in part.Lessons)
                    b.AppendLine(System.Globalization.CultureInfo.InvariantCulture,
                        $"  {part.Module?.Title} / {l.Title} {l.Minutes} {l.Teaser} {l.DoneWhen} {l.Ready} "
                        + $"{Plain(System.Text.Json.JsonSerializer.Serialize(contents[l.Id], CoreJson.Options))}");
        }
        return b.ToString();
    }

    [Fact]
    public async Task What_goes_out_comes_in_on_an_empty_site_as_the_same_content()
    {
        await using var house = await House.Open();
        // The demo's course has every kind of block, with files; and a text that Markdown can't say.
        Assert.DoesNotContain((await Import(house, DemoMedia.Course(), dry: false)).Lines, l => l.Verb == ImportVerb.Refuses);
        // A module nobody has filled yet stands between the others.
        var checks = house.Now.Pieces.Single(p => p.Title == "Three quiet winter checks");
        await house.Do<AddModule>(s => s.Do(house.Owner, checks.Id, "Week 4: “later”", default));
        await house.Do<SavePiece>(s => s.New(house.Owner,
            new("Odd: “text” & more", null, null, "A \"summary\"\nwith lines",
            [Course.Text(house, "<p>a<br>b</p><ul><li>x<ul><li>y</li></ul></li></ul><p>1. not a list * _nor_ this</p><pre>code\n```\nmore</pre>"),
            Course.Text(house, "<blockquote><p>q</p></blockquote>")]), default));
        // Of one name there may be two: lessons in a module, modules in a piece, pieces on different shelves.
        foreach (var shelf in house.Now.Shelves.Take(2).Reverse())
        {
            await house.Do<SavePiece>(s => s.New(house.Owner,
                new("Asked and answered", shelf.Id, null, shelf.Name, [Course.Text(house, $"<p>On {System.Net.WebUtility.HtmlEncode(shelf.Name)}</p>")]),
                default));
            var asked = house.Now.Pieces.Where(p => p.Title == "Asked and answered").MaxBy(p => p.Id.Value)!;
            for (var i = 1; i <= 2; i++)
            {
                await house.Do<AddModule>(s => s.Do(house.Owner, asked.Id, "Part", default));
                await house.Do<AddLesson>(s => s.Do(house.Owner, asked.Id, null, "Asked and answered", null, default));
                await house.Do<AddLesson>(s => s.Do(
                    house.Owner, asked.Id, house.Now.PieceById[asked.Id].Outline.Modules.Last().Id, $"In part {i}", null, default));
            }
        }
        using var zip = new MemoryStream();
        await house.Do<ExportContent>(s => s.Write(house.Owner, zip, default));

        await using var other = await House.Open(empty: true);
        using var source = new ZipSource(new MemoryStream(zip.ToArray()));
        var report = await Import(other, source, dry: false);
        Assert.DoesNotContain(report.Lines, l => l.Verb == ImportVerb.Refuses);
        Assert.Equal(await Whole(house), await Whole(other));
        // And once more changes nothing.
        Assert.All((await Import(other, source, dry: false)).Lines, l => Assert.Equal(ImportVerb.Same, l.Verb));
    }

    [Fact]
    public async Task Two_pieces_of_one_title_are_told_apart_by_a_number_and_refused_without()
    {
        await using var house = await House.Open();
        TextSource Twins(string number) => TextSource.Of(
            ("bees/a/piece.md", "---\ntitle: Twin\nshelf: Bees\n---\n"), ("bees/a/one.md", "---\n---\nFirst."),
            ("bees/b/piece.md", $"---\ntitle: Twin\n{number}shelf: Bees\n---\n"), ("bees/b/one.md", "---\n---\nSecond."));
        var refused = Assert.Single((await Import(house, Twins(""), dry: true)).Lines, l => l.Verb == ImportVerb.Refuses);
        Assert.Equal(("bees/b/piece.md", 2), (refused.File, refused.Line));
        Assert.Contains("piece-number: 2", refused.Note, StringComparison.Ordinal);
        Assert.DoesNotContain((await Import(house, Twins("piece-number: 2\n"), dry: false)).Lines, l => l.Verb == ImportVerb.Refuses);
        Assert.Equal(["First.", "Second."], (await house.Ask(db => db.LessonContents.AsNoTracking().OrderBy(c => c.LessonId).ToListAsync())).TakeLast(2)
            .Select(c => c.Blocks[0].PlainText().Trim()));
        // A number without the one before it would be made anew each time.
        foreach (var (head, said) in new[] { ("Twin\npiece-number: 9", "number 8 isn’t there"),
            ("Twin\nmodule: Part\nmodule-number: 2", "number 1 isn’t there") })
            Assert.Contains(said, Assert.Single((await Import(house, TextSource.Of(("c.md", $"---\npiece: {head}\nlesson: Third\n---\nThird.")), dry: true))
                .Lines, l => l.Verb == ImportVerb.Refuses).Note, StringComparison.Ordinal);
        Assert.Contains("1 to 1,000", Assert.Single((await Import(house, Twins("piece-number: 0\n"), dry: true)).Lines, l => l.Verb == ImportVerb.Refuses)
            .Note, StringComparison.Ordinal);
    }

    static async Task<(ImportRun Run, ImportReport? Report)> Over(House house, long id)
    {
        var watch = System.Diagnostics.Stopwatch.StartNew();
        while (watch.Elapsed < TimeSpan.FromSeconds(60))
        {
            if (await house.Services.GetRequiredService<ImportJobs>().Find(id, default) is { } found
                && (found.Report is not null || found.Run.Failed is not null)) return found;
            await Task.Yield();
        }
        throw new TimeoutException("The import didn’t end.");
    }

    [Fact]
    public async Task An_import_begun_on_one_node_is_told_by_every_node_and_done_for_real_once()
    {
        await using var house = await House.Open();
        await using var second = await house.AnotherNode();
        var (here, there) = (house.Services.GetRequiredService<ImportJobs>(), second.Services.GetRequiredService<ImportJobs>());
        using var list = new MemoryStream("piece,lesson\nYear,First\nYear,Second\n"u8.ToArray());
        var dry = await here.Start(house.Owner, list, "outline.csv", "csv", "", dry: true, default);
        Assert.Equal(3, (await Over(second, dry)).Report!.Count(ImportVerb.Makes));
        Assert.DoesNotContain(house.Now.Pieces, p => p.Title == "Year");
        // Pressed twice, on two nodes at once: it is one import.
        var real = await Task.WhenAll(here.Again(house.Owner, dry, default), there.Again(house.Owner, dry, default));
        Assert.Equal(real[0], real[1]);
        Assert.Equal((2, 2), (await Over(house, real[0]!.Value)).Run is { } r ? (r.Done, r.Of) : default);
        Assert.Equal(1, await house.Ask(db => db.Pieces.CountAsync(p => p.Title == "Year")));
        Assert.Null(await here.Again(house.Owner, real[0]!.Value, default));
        // Whoever is done holds nothing up: each node in turn, and no lock is left.
        foreach (var node in new[] { second, house, second })
        {
            using var more = new MemoryStream("piece,lesson\nYear,First\n"u8.ToArray());
            await Over(house, await node.Services.GetRequiredService<ImportJobs>().Start(house.Owner, more, "outline.csv", "csv", "", dry: true, default));
        }
        Assert.Equal(
            0, await house.Ask(db => db.Database.SqlQuery<int>($"""
            select count(*)::int as "Value" from pg_locks where locktype = 'advisory' and database = (select oid from pg_database where datname =
                current_database())
            """).SingleAsync()));

        using var broken = new MemoryStream("not a zip"u8.ToArray());
        Assert.Contains("zip archive", (await Over(house, await here.Start(house.Owner, broken, "a.zip", "zip", "", true, default))).Run.Failed,
            StringComparison.Ordinal);
        // A node that was killed on the way leaves a run that never ends: it is told as such.
        await house.Ask(async db =>
        {
            db.Add(new ImportRun
            {
                Id = 77,
                Name = "a.zip",
                StartedAt = NodaTime.Instant.FromUtc(2020, 1, 1, 0, 0),
                BeatAt = NodaTime.Instant.FromUtc(2020, 1, 1, 0, 0)
            });
            return await db.SaveChangesAsync();
        });
        Assert.Contains("went away", (await there.Find(77, default))!.Value.Run.Failed, StringComparison.Ordinal);
        Assert.Null(await here.Find(78, default));
    }

    [Fact]
    public void Every_kind_of_block_goes_through_Markdown_and_back()
    {
        var rich = new RichText();
        string Clean(string h) => rich.CleanStored(rich.ToHtml(h));
        Block[] blocks =
        [
            new Block.Text(
                "<h2>Title</h2>\n<p>With <strong>bold</strong>, <em>soft</em> and a <a href=\"https://a.example/x?y=1&amp;z=2\" rel=\"noopener "
                + "nofollow\">link</a>.</p>") { Id = new(1) },
            new Block.Timer("“Quoted”: yes", 90) { Id = new(2) }, new Block.Timer("", null) { Id = new(3) },
                new Block.Links([new("a: b", "https://a.example", "- note #1")]) { Id = new(4) },
                new Block.Booking("t", "https://a.example", "") { Id = new(5) },
            new Block.Live("12", new(2026, 12, 3, 19, 30), 45, "https://a.example", "https://b.example") { Id = new(6) },
                new Block.Video(new("true", "https://a.example/v", null, null, "WEBVTT\n\n00:01.000 --> 00:02.000\nHi\n", "0:01 Hi")) { Id = new(7) },
            new Block.Practice(
                new("null", "", [new Question.Single("q1", "2 + 2?", 1, "", [new("4", true, ""), new("5", false, "no: it isn’t")]),
                new Question.FillNumber("q2", "n", 1, "", 1.50m, 0.25m, "kg"), new Question.Ordering("q3", "o", 2, "", ["1", "2"]),
                new Question.Match("q4", "m", 2, "", [new("a", "b"), new("c", "d")]), new Question.Open("q5", "w", 1, "")], null, 60)) { Id = new(8) },
            new Block.Follow(new("f", [new("s", "", 30, null, 0, null), new("t", "n", null, 8, 5, null)], 2, 0, 10, 3, false, new(7))) { Id = new(9) },
            new Block.CheckIn(
                new("c", [new("q1", FormQuestionKind.YesNo, "ok?", true, [], null),
                new("q2", FormQuestionKind.One, "which?", false, ["yes", "no"], new("q1", ShowWhen.Is, "yes"))], FormRepeat.EveryWeek,
                "Thanks, {{ first_name }}")) { Id = new(10) },
        ];
        var text = BlockYaml.Write(blocks, _ => "", t => $"Tally {t.Value}", Clean);
        var next = 1L;
        var back =
            BlockYaml.Read(text, 1, new((_, _) => default, (name, _) => new(long.Parse(name[6..], System.Globalization.CultureInfo.InvariantCulture)),
            () => new(next++)), rich.ToHtml, rich.CleanStored);
        Assert.Equal(System.Text.Json.JsonSerializer.Serialize<IReadOnlyList<Block>>(blocks, CoreJson.Options),
            System.Text.Json.JsonSerializer.Serialize(back, CoreJson.Options));
        Assert.Contains("## Title", text, StringComparison.Ordinal);
    }

    // EPUB 3.3 (W3C): the container (4.2), the package document's required metadata and manifest (5), one navigation document (7).
    [Fact]
    public async Task A_piece_becomes_a_book_that_reads_back()
    {
        await using var house = await House.Open();
        await Import(house, DemoMedia.Course(), dry: false);
        var piece = house.Now.Pieces.Single(p => p.Title == "Three quiet winter checks");
        var course = new Course(house, piece.Id);
        var modules = piece.Outline.Modules.ToDictionary(m => m.Id, m => m.Title);
        var lessons = new List<BookLesson>();
        foreach (var l in piece.Outline.Lessons) lessons.Add(new(modules[l.ModuleId!.Value], l, await course.Blocks(l.Id)));
        var files =
            await house.Ask(db => db.Files.Select(f => new FileState(f.Id, f.Address, f.Name, f.MediaType, f.Kind, f.Bytes, f.Width, f.Height, f.Alt, f.Sizes))
            .ToDictionaryAsync(f => f.Id));
        using var book = new MemoryStream();
        await house.Services.GetRequiredService<Epub>().Write(book, piece, "Tansy & Lane", lessons, files, house.Clock.Moment, default);
        Assert.Equal("mimetype"u8.ToArray(), book.ToArray()[30..38]);
        Assert.Equal("application/epub+zip"u8.ToArray(), book.ToArray()[38..58]);
        using var zip = new ZipArchive(new MemoryStream(book.ToArray()));
        XDocument Xml(string path)
        {
            using var reader = XmlReader.Create(zip.GetEntry(path)!.Open(), new XmlReaderSettings { DtdProcessing = DtdProcessing.Ignore });
            return XDocument.Load(reader);
        }
        var package = Xml(Xml("META-INF/container.xml").Descendants().Single(e => e.Name.LocalName == "rootfile").Attribute("full-path")!.Value).Root!;
        XNamespace opf = "http://www.idpf.org/2007/opf", dc = "http://purl.org/dc/elements/1.1/";
        Assert.Equal("3.0", package.Attribute("version")!.Value);
        Assert.Equal(package.Attribute("unique-identifier")!.Value, package.Descendants(dc + "identifier").Single().Attribute("id")!.Value);
        Assert.Equal(("Three quiet winter checks", "en"),
            (package.Descendants(dc + "title").Single().Value, package.Descendants(dc + "language").Single().Value));
        Assert.Matches(@"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ$",
            package.Descendants(opf + "meta").Single(m => m.Attribute("property")?.Value == "dcterms:modified").Value);
        var items = package.Descendants(opf + "item").ToArray();
        Assert.Equal(items.Length, items.Select(i => i.Attribute("id")!.Value).Distinct().Count());
        // Everything in the manifest is there, and everything there is in the manifest.
        Assert.Equal(items.Select(i => "EPUB/" + i.Attribute("href")!.Value).Append("EPUB/package.opf").Order(),
            zip.Entries.Select(e => e.FullName).Where(n => n.StartsWith("EPUB/", StringComparison.Ordinal)).Order());
        Assert.Single(items, i => i.Attribute("properties")?.Value == "nav");
        Assert.All(package.Descendants(opf + "itemref"), r => Assert.Contains(items, i => i.Attribute("id")!.Value == r.Attribute("idref")!.Value));
        Assert.All(items.Where(i => i.Attribute("media-type")!.Value.StartsWith("image/", StringComparison.Ordinal)),
            i => Assert.Contains(i.Attribute("media-type")!.Value, new[] { "image/png", "image/jpeg", "image/gif", "image/webp" }));
        var text = "";
        foreach (var page in items.Where(i => i.Attribute("media-type")!.Value == "application/xhtml+xml"))
        {
            var xhtml = Xml("EPUB/" + page.Attribute("href")!.Value);
            Assert.Equal("http://www.w3.org/1999/xhtml", xhtml.Root!.Name.NamespaceName);
            Assert.All(xhtml.Descendants().Where(e => e.Name.LocalName == "img"),
                i => Assert.Contains(items, x => x.Attribute("href")!.Value == i.Attribute("src")!.Value));
            text += xhtml.Root.Value;
        }
        Assert.Contains("Hefting, by hand and by scale", text, StringComparison.Ordinal);
        Assert.DoesNotContain("sugar fondant", text, StringComparison.Ordinal);
        Assert.Equal(9, Xml("EPUB/nav.xhtml").Descendants().Count(e => e.Name.LocalName == "a") - 1);
    }

    // RFC 5545 read back with Ical.Net, RFC 4287 with System.ServiceModel.Syndication.
    [Fact]
    public async Task Releases_and_news_are_told_to_other_programs()
    {
        await using var house = await House.Open();
        var feeds = house.Services.GetRequiredService<Feeds>();
        var text = feeds.TeamCalendar(house.Clock.Moment);
        Assert.All(text.Split("\r\n"), line => Assert.True(Encoding.UTF8.GetByteCount(line) <= 75, line));
        var calendar = Ical.Net.Calendar.Load(text)!;
        Assert.Equal(house.Now.Editions.Count, calendar.Events.Count);
        var december = calendar.Events.Single(e => e.Summary!.StartsWith("Edition 12", StringComparison.Ordinal));
        Assert.Equal(new DateTime(2026, 12, 1, 9, 0, 0), december.Start!.AsUtc);
        var live = feeds.LiveSession(new("Clinic, live; now", new(2026, 7, 1, 19, 0), 60, "https://a.example", null) { Id = new(5) },
            house.Now.Pieces[0].Outline.Lessons[0], house.Clock.Moment);
        var session = Ical.Net.Calendar.Load(live)!.Events.Single();
        Assert.Equal((new DateTime(2026, 7, 1, 18, 0, 0), "Clinic, live; now"), (session.Start!.AsUtc, session.Summary));

        SyndicationFeed Read(string xml) => SyndicationFeed.Load(XmlReader.Create(new StringReader(xml)));
        var open = Read(feeds.Public(house.Clock.Moment));
        Assert.Equal(["Piece 11"], open.Items.Select(i => i.Title.Text));
        Assert.Equal("Summary", open.Items.First().Summary.Text);
        Assert.DoesNotContain("Body", feeds.Public(house.Clock.Moment), StringComparison.Ordinal);
        Assert.Empty(Read(feeds.Private(MemberFacts.Nobody, "Nobody", "http://site.example/feed/x/news.xml", house.Clock.Moment)).Items);
        var member = await house.Join(house.Free);
        Assert.Single(
            Read(feeds.Private(MemberFacts.From(await house.Holdings(member), house.Clock.Moment), "Mirela", "http://site.example/feed/x/news.xml",
            house.Clock.Moment)).Items);
    }

    [Fact]
    public void A_certificate_is_a_PDF_with_its_fonts()
    {
        var pdf =
            Encoding.Latin1.GetString(Certificate.Pdf(
            new("Mirela Duarte-Żółć", "Three quiet winter checks, and a very long title that needs two lines", "s", "Tansy Lane", "24 November 2026",
                "9 lessons",
                "5-7", "/read/5", "/read/5/certificate.pdf", "en-GB")));
        Assert.StartsWith("%PDF-", pdf, StringComparison.Ordinal);
        // Fonts with axes are embedded as drawings of their letters (PDF 1.7, 9.6.5); no font of the reader's is asked for.
        Assert.Contains("/Type3", pdf, StringComparison.Ordinal);
        Assert.DoesNotContain("/TrueType", pdf, StringComparison.Ordinal);
        Assert.EndsWith("%%EOF", pdf.TrimEnd(), StringComparison.Ordinal);
        Assert.Contains("/Lang (en-GB)", pdf, StringComparison.Ordinal);
        Assert.Contains("/DisplayDocTitle true", pdf, StringComparison.Ordinal);
    }

    // A file as ISO 32000-1, 7.5.6 has it: the last cross-reference names the catalogue's new place, and points back to the one before.
    [Fact]
    public void A_receipt_is_a_PDF_whose_last_table_leads_to_its_language()
    {
        var pdf = BrightCircle.App.Billing.ReceiptPdf.Of(new("2026-00042", "Tansy Lane", "9 Tansy Lane\nHoneywick", "help@tansy-lane.example",
            [("For", "Mirela Duarte, mirela@post.example"), ("Paid on", "24 November 2026")],
            [.. Enumerable.Range(1, 60).Select(n => ($"Line {n} of a receipt that is longer than a page", "£18.00"))], ("Paid", "£1,080.00"), "en-GB"));
        var text = Encoding.Latin1.GetString(pdf);
        var start = int.Parse(System.Text.RegularExpressions.Regex.Matches(text, @"startxref\s+(\d+)")[^1].Groups[1].Value,
            System.Globalization.CultureInfo.InvariantCulture);
        Assert.StartsWith("xref", text[start..], StringComparison.Ordinal);
        var table = System.Text.RegularExpressions.Regex.Match(text[start..], @"^xref\n(\d+) 1\n(\d{10}) 00000 n");
        Assert.StartsWith($"{table.Groups[1].Value} 0 obj", text[int.Parse(table.Groups[2].Value, System.Globalization.CultureInfo.InvariantCulture)..],
            StringComparison.Ordinal);
        Assert.Contains("/Lang (en-GB)", text[int.Parse(table.Groups[2].Value, System.Globalization.CultureInfo.InvariantCulture)..], StringComparison.Ordinal);
        var before = int.Parse(System.Text.RegularExpressions.Regex.Match(text[start..], @"/Prev (\d+)").Groups[1].Value,
            System.Globalization.CultureInfo.InvariantCulture);
        Assert.StartsWith("xref", text[before..], StringComparison.Ordinal);
        Assert.Matches(@"/Count [2-9]", text);
    }
}
