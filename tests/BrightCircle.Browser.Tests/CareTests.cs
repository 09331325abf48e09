using System.IO.Compression;
using System.Net;
using System.Text;
using AngleSharp.Html.Dom;
using BrightCircle.App.Demo;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>What is done now and then: put right, taken back, given, brought in and out. Through the forms as they stand on the pages.</summary>
[Collection("demo")]
public class CareTests(DemoSite site)
{
    Piece Piece(string title) => site.Catalogue.Now.Pieces.First(p => p.Title == title);
    Edition Edition(string title) => site.Catalogue.Now.Editions.First(e => e.Title == title);

    async Task<Plain> SignedIn(string email, string password)
    {
        var p = new Plain(site.App.Url);
        await p.SignIn(email, password);
        return p;
    }

    Task<Plain> Owner() => site.Owner();

    [Fact]
    public async Task An_edition_is_put_right_scheduled_moved_and_taken_away()
    {
        using var p = await Owner();
        await p.Open("/desk/editions/new");
        await p.Press("Save", ("Day", "some day"));
        p.Says("Choose a day.");
        await p.Press("Save", ("Day", "2028-03-10"), ("Title", "A weekend in March"), ("Span", nameof(EditionSpan.Day)), ("ReleaseAt", "at noon"));
        p.Says("That isn’t a day and a time.");
        await p.Press("Save", ("ReleaseAt", "2028-03-10T12:00"));
        p.Says("Saved.");
        var id = Edition("A weekend in March").Id.Value;
        await p.Press("Schedule it");
        p.Says("It opens");
        Assert.Equal(EditionState.Scheduled, Edition("A weekend in March").State);
        await p.Press("Save", ("ReleaseAt", "2028-03-11T18:30"), ("Opening", "For two days."));
        Assert.Equal(new NodaTime.LocalDateTime(2028, 3, 11, 18, 30), site.Catalogue.Now.Calendar.Local(Edition("A weekend in March").ReleaseAt));
        Assert.Equal(1, await site.Db(db => db.DueWork.CountAsync(d => d.SubjectId == id)));
        await p.Press("Save", ("ReleaseAt", "2020-01-01T09:00"));
        p.Says("passed");
        await p.Open($"/desk/editions/{id}?handler=Effect");
        p.Says("It opens for nobody");
        await p.Open($"/desk/editions/{id}");
        await p.Press("Take it back to draft");
        p.Says("a draft again");
        Assert.Equal(0, await site.Db(db => db.DueWork.CountAsync(d => d.SubjectId == id)));
        await p.Press("Remove the edition");
        p.Says("its parts are to come");
        Assert.DoesNotContain(site.Catalogue.Now.Editions, e => e.Id.Value == id);
    }

    [Fact]
    public async Task A_card_is_edited_in_its_drawer_and_last_years_edition_comes_again()
    {
        using var p = await Owner();
        await p.Open("/desk/pieces/new");
        await p.Press("Make it", ("Title", "In the drawer"));
        var id = Piece("In the drawer").Id;
        await p.Open($"/desk/editions?card=p{id.Value}");
        await p.Press("Save", ("title", ""), ("workedOnBy", "Odile"));
        p.Says("title");
        await p.Open($"/desk/editions?card=p{id.Value}");
        await p.Press("Save", ("title", "Out of the drawer"), ("workedOnBy", "Odile"), ("ready", "true"));
        // An empty lesson can't be ready: it is told, and the piece with it.
        Assert.Equal("Odile", Piece("Out of the drawer").WorkedOnBy);
        var source = site.Catalogue.Now.Editions.First(e => e.State == EditionState.Released && site.Catalogue.Now.PartsOf[e.Id].Count() > 2);
        await p.Open("/desk/editions");
        await p.Press("Copy it in, as drafts", ("edition", $"{source.Id.Value}"), ("into", "sometime"));
        p.Says("Choose the month");
        await p.Press("Copy it in, as drafts", ("edition", $"{source.Id.Value}"), ("into", "2029-05"));
        p.Says("stand in May 2029 now");
        var copy = site.Catalogue.Now.Editions.Single(e => e.FirstDay == new NodaTime.LocalDate(2029, 5, 1));
        Assert.Equal(site.Catalogue.Now.PartsOf[source.Id].Count(), site.Catalogue.Now.PartsOf[copy.Id].Count());
        Assert.All(site.Catalogue.Now.PartsOf[copy.Id], x => Assert.Equal(PieceState.Draft, x.State));
    }

    [Fact]
    public async Task Lessons_are_changed_many_at_once_split_joined_and_begun_from_a_pattern()
    {
        using var p = await Owner();
        await p.Open("/desk/pieces/new");
        await p.Press("Make it", ("Title", "Many at once"));
        var id = Piece("Many at once").Id.Value;
        Lesson[] Lessons() => [.. Piece("Many at once").Outline.Lessons];
        await p.Open($"/desk/lessons/{Lessons()[0].Id.Value}");
        await p.Press("Text");
        await p.Press("Timer");
        var blocks = p.Page.QuerySelectorAll(".block").Select(b => b.GetAttribute("data-block")).ToArray();
        await p.Press("Save", ($"b-{blocks[0]}-html", "<p>First half</p>"), ($"b-{blocks[1]}-title", "Second half"));
        await p.Press("Keep", ("name", "Halves"));
        p.Says("New lessons can start from “Halves”");
        // Split before the timer, and joined again: nothing is lost.
        var split = p.Page.QuerySelectorAll("button[value^='split:']").OfType<IHtmlButtonElement>().First(b => b.Value == $"split:{blocks[1]}");
        await p.Press((split.GetAttribute("aria-label") ?? split.TextContent).Trim(), []);
        Assert.Equal(2, Lessons().Length);
        await p.Press("Merge into the one before");
        p.Says("Both are one lesson now");
        var first = Lessons()[0].Id;
        Assert.Equal(["text", "timer"],
            (await site.Db(db => db.LessonContents.AsNoTracking().SingleAsync(c => c.LessonId == first))).Blocks.Select(b => b.Word));
        await p.Press("Duplicate");
        p.Says("This is the copy");

        await p.Open($"/desk/pieces/{id}");
        await p.Press("Teaser", []);
        p.Says("Select some lessons first");
        (string, string?)[] all = [.. Lessons().Select(l => ("lesson", (string?)$"{l.Id.Value}"))];
        await p.Press("Teaser", all);
        Assert.All(Lessons(), l => Assert.True(l.Teaser));
        await p.Press("min each", [.. all, ("minutes", "7")]);
        Assert.All(Lessons(), l => Assert.Equal(7, l.Minutes));
        await p.Press("min each", [.. all, ("minutes", "soon")]);
        p.Says("Minutes are a whole number");
        await p.Press("Ready", all);
        Assert.All(Lessons(), l => Assert.Equal(PieceState.Ready, l.State));
        await p.Press("Draft", all);
        Assert.All(Lessons(), l => Assert.Equal(PieceState.Draft, l.State));
        await p.Press("Into the trash", all[1]);
        Assert.Single(Lessons());
        await p.Press("Duplicate all of it");
        p.Says("This is the copy");
        await p.Press("Put it into the trash");
    }

    [Fact]
    public async Task A_piece_outside_any_edition_opens_at_its_moment_and_is_withdrawn()
    {
        using var p = await Owner();
        await p.Open("/desk/pieces/new");
        await p.Press("Make it", ("Title", "On its own"));
        var (piece, lesson) = (Piece("On its own").Id, Piece("On its own").Outline.Lessons[0].Id);
        await p.Open($"/desk/lessons/{lesson.Value}");
        await p.Press("Text");
        await p.Press("Ready", ($"b-{p.Page.QuerySelector(".block")!.GetAttribute("data-block")}-html", "<p>By itself</p>"));
        await p.Open($"/desk/pieces/{piece.Value}");
        await p.Press("Make it ready");
        await p.Press("Release on this day");
        p.Says("Say the day it is released on.");
        await p.Press("Release on this day", ("at", "soon"));
        p.Says("That isn’t a day and a time.");
        await p.Press("Release on this day", ("at", "2029-01-01T09:00"));
        p.Says("It is released then, by itself.");
        p.Says("To be released Mon 1 Jan");
        await p.Press("Don’t release it by itself");
        p.Says("isn’t released by itself any more");
        Assert.False(await site.Db(db => db.DueWork.AnyAsync(d => d.SubjectId == piece.Value)));
        await p.Open($"/desk/pieces/{piece.Value}?handler=Effect");
        p.Says("It opens for ");
        Assert.Contains(" member", p.Text, StringComparison.Ordinal);
        await p.Open($"/desk/pieces/{piece.Value}");
        await p.Press("Release now");
        await Until(() => Task.FromResult(Piece("On its own").State == PieceState.Released), "it is open");
        await p.Open($"/desk/pieces/{piece.Value}?handler=Effect&withdraw=true");
        p.Says("who can open it now; 0 of them had begun it");
        await p.Open($"/desk/pieces/{piece.Value}");
        await p.Press("Withdraw");
        p.Says("closed again");
        Assert.Equal(PieceState.Draft, Piece("On its own").State);
    }

    static async Task Until(Func<Task<bool>> look, string what)
    {
        for (var watch = System.Diagnostics.Stopwatch.StartNew(); !await look(); await Task.Yield())
            Assert.True(watch.Elapsed < TimeSpan.FromSeconds(60), $"It didn’t come true that {what}.");
    }

    [Fact]
    public async Task A_member_asks_for_a_link_sets_a_password_and_wants_no_news()
    {
        var (p, email) = await site.Newcomer("Lorne Ash");
        using (p)
        {
            await p.Open("/me/password");
            await p.Press("Save", ("New", "short"));
            p.Says("10");
            await p.Press("Save", ("New", "a-long-enough-one"));
            p.Says("Your password is saved.");
            await p.Open("/me/password");
            await p.Press("Save", ("Old", "not that one"), ("New", "another-long-one"));
            p.Says("That isn’t the password you have.");
            await p.Open("/me/account");
            await p.Open(p.Link("Choose which"));
            await p.Press("Save", ("wants", null));
            p.Says("Only letters about your own payments come");
            Assert.False(await site.Db(db => db.Members.Where(m => m.Email == email).Select(m => m.WantsNews).SingleAsync()));
        }
        using var other = new Plain(site.App.Url);
        await other.Open("/sign-in?then=%2Fme%2Fkept");
        await other.Press("Send me a sign-in link", ("Email", "nobody"));
        other.Says("doesn’t look like an email address");
        await other.Press("Send me a sign-in link", ("Email", email));
        await other.Open(SiteSteps.LinkIn(await SiteSteps.Letter(email, "Your way in to"), "/in/"));
        // Looking at the link doesn't use it up: mail programs look too.
        await other.Press("Come in");
        Assert.Equal("/me/kept", other.At.AbsolutePath);
        using var third = await SignedIn(email, "a-long-enough-one");
        Assert.Equal("/me", third.At.AbsolutePath);
        using var wrong = await SignedIn(email, "a-wrong-one");
        wrong.Says("don’t go together");
    }

    [Fact]
    public async Task A_gift_is_given_and_ended_and_another_card_put_in()
    {
        var (p, email) = await site.Newcomer("Edda Moor");
        var member = await site.Db(db => db.Members.Where(m => m.Email == email).Select(m => m.Id).SingleAsync());
        using var o = await Owner();
        await o.Open($"/desk/members/{member.Value}/give");
        var keeper = site.Catalogue.Now.Plans.Single(x => x.Name == "Keeper").Id.Value;
        await o.Press("Give it", ("Plan", $"{keeper}"), ("Until", "whenever"));
        o.Says("That isn’t a date.");
        await o.Press("Give it", ("Until", "2020-01-01"));
        o.Says("A gift ends in the future");
        await o.Press("Give it", ("Until", "2030-06-01"), ("Note", "for the talk in May"));
        o.Says("Given.");
        o.Says("for the talk in May");
        await p.Open("/me/account");
        p.Says("A gift, open until");
        // A card kept for later: to the Till and back.
        await p.Open("/me/card");
        await p.Press("Go on");
        await p.Press("Keep this card", ("number", DemoTill.Approves));
        p.Says("Your card is kept.");
        Assert.Equal(1, await site.Db(db => db.Cards.CountAsync(c => c.MemberId == member)));
        var holding = await site.Db(db => db.Holdings.Where(h => h.MemberId == member && h.Source == HoldingSource.Gift).Select(h => h.Id).SingleAsync());
        await o.Open($"/desk/members/{member.Value}/end/{holding.Value}");
        await o.Press("End");
        o.Says("It has ended.");
        p.Dispose();
    }

    [Fact]
    public async Task A_file_is_described_replaced_everywhere_and_deleted_only_when_unused()
    {
        using var p = await Owner();
        await p.Open("/desk/files");
        await p.Press("Add them");
        p.Says("Choose a file first.");
        p.Attach("upload", "frame.png", FileTests.Png(300, 200));
        p.Attach("upload", "trick.png", Encoding.UTF8.GetBytes("<script>no picture</script>"));
        await p.Press("Add them");
        p.Says("trick.png");
        var id = await site.Db(db => db.Files.Where(f => f.Name == "frame.png").Select(f => f.Id).SingleAsync());
        await p.Open($"/desk/files/{id.Value}");
        await p.Press("Save", ("Name", "a frame.png"), ("Alt", "A wooden frame"));
        p.Says("Saved.");
        var before = await site.Db(db => db.Files.AsNoTracking().SingleAsync(f => f.Id == id));
        Assert.Equal(("a frame.png", "A wooden frame"), (before.Name, before.Alt));
        await p.Press("Replace");
        p.Says("Choose the file that takes its place.");
        p.Attach("upload", "better.png", FileTests.Png(320, 240));
        await p.Press("Replace");
        p.Says("Replaced, everywhere");
        Assert.NotEqual(before.Address, await site.Db(db => db.Files.Where(f => f.Id == id).Select(f => f.Address).SingleAsync()));
        await p.Press("Delete this file");
        p.Says("The file is gone.");
        // One that something uses stays.
        var used = await site.Db(db => db.FileUses.Select(u => u.FileId).FirstAsync());
        await p.Open($"/desk/files/{used.Value}");
        Assert.True(p.Page.QuerySelectorAll("button").All(b => !b.TextContent.Contains("Delete", StringComparison.Ordinal)) || await Refused());
        async Task<bool> Refused()
        {
            await p.Press("Delete this file");
            return await site.Db(db => db.Files.AnyAsync(f => f.Id == used));
        }
    }

    [Fact]
    public async Task The_site_says_what_its_owner_writes()
    {
        using var p = await Owner();
        await p.Open("/desk/settings");
        var name = ((IHtmlInputElement)p.Page.QuerySelector("#Name")!).Value;
        await p.Press("Save", ("Name", " "));
        Assert.Equal(name, site.Catalogue.Now.Site!.Name);
        p.Attach("Picture", "x.png", Encoding.UTF8.GetBytes("no picture"));
        await p.Press("Save", ("Name", name), ("Tagline", "Kept & kept warm"));
        Assert.NotEqual("Kept & kept warm", site.Catalogue.Now.Site!.Tagline);
        p.Attach("Picture", "lane.png", FileTests.Png(400, 300));
        await p.Press("Save", ("Name", name), ("Tagline", "Kept & kept warm"));
        p.Says("Saved.");
        Assert.Equal("image/webp", (await p.Get("/site-picture")).Content.Headers.ContentType!.MediaType);
        using var visitor = new Plain(site.App.Url);
        await visitor.Open("/");
        visitor.Says("Kept & kept warm");
    }

    [Fact]
    public async Task All_content_goes_out_and_an_archive_comes_in_with_its_pictures()
    {
        using var p = await Owner();
        using var zip = new ZipArchive(await (await p.Get("/desk/import?handler=Export")).Content.ReadAsStreamAsync());
        Assert.Contains(zip.Entries, e => e.FullName == "site.md");
        Assert.Contains(zip.Entries, e => e.FullName.EndsWith("three-quiet-winter-checks/piece.md", StringComparison.Ordinal));

        using var made = new MemoryStream();
        using (var archive = new ZipArchive(made, ZipArchiveMode.Create, leaveOpen: true))
            foreach (var (name, bytes) in new[] { ("brought/piece.md", Encoding.UTF8.GetBytes("---\ntitle: Brought by zip\n---\n")),
                ("brought/one.md", Encoding.UTF8.GetBytes("---\nminutes: 4\n---\n\n```pictures\nitems:\n  - {file: media/hive.png, alt: A hive}\n```\n")),
                ("media/hive.png", FileTests.Png(64, 48)) })
            {
                await using var entry = archive.CreateEntry(name).Open();
                await entry.WriteAsync(bytes);
            }
        await p.Open("/desk/import");
        await p.Press("Dry run");
        p.Says("Choose a file first");
        p.Attach("upload", "brought.zip", made.ToArray());
        await p.Press("Dry run");
        async Task Over(string words) => await Until(async () =>
        {
            await p.Open(p.At.PathAndQuery);
            return p.Text.Contains(words, StringComparison.Ordinal);
        }, $"the page says {words}");
        await Over("Would make");
        Assert.DoesNotContain(site.Catalogue.Now.Pieces, x => x.Title == "Brought by zip");
        await p.Press("Do it");
        await Over("Made ");
        Assert.Equal(4, Piece("Brought by zip").Outline.Lessons.Single().Minutes);
        Assert.Equal(
            "A hive",
            ((Block.Pictures)(await site.Db(db => db.LessonContents.AsNoTracking()
                .SingleAsync(c => c.LessonId == Piece("Brought by zip").Outline.Lessons[0].Id)))
            .Blocks[0]).Items[0].Alt);
    }

    [Fact]
    public async Task What_a_member_holds_can_be_taken_along_and_a_finished_piece_is_certified()
    {
        using var m = await SignedIn(SeedDemo.MemberEmail, SeedDemo.MemberPassword);
        var course = Piece("Three quiet winter checks");
        var book = await m.Get($"/read/{course.Id.Value}/book.epub");
        Assert.Equal("application/epub+zip", book.Content.Headers.ContentType!.MediaType);
        using var epub = new ZipArchive(await book.Content.ReadAsStreamAsync());
        Assert.Equal("mimetype", epub.Entries[0].FullName);
        Assert.True(epub.Entries.Count(e => e.FullName.Contains("chapter-", StringComparison.Ordinal)) >= 3);
        await m.Open($"/read/{course.Id.Value}/print");
        foreach (var l in course.Outline.Lessons) m.Says(l.Title);
        // Not before all of it is done, and not without wanting certificates.
        using var o = await Owner();
        await o.Open($"/desk/pieces/{course.Id.Value}/facts");
        await o.Press("Save", ("Certificate", "true"));
        var (member, at) = (await site.Db(db => db.Members.Where(x => x.Email == SeedDemo.MemberEmail).Select(x => x.Id).SingleAsync()),
            site.App.Services.GetRequiredService<App.Clock.HouseClock>().Moment);
        var reader = site.App.Services.GetRequiredService<MemberReader>();
        await site.Db(db => db.Openings.Where(x => x.MemberId == member).ExecuteUpdateAsync(u => u.SetProperty(x => x.DoneAt, (NodaTime.Instant?)null)));
        Assert.Equal(HttpStatusCode.NotFound, (await m.Get($"/read/{course.Id.Value}/certificate.pdf")).StatusCode);
        await reader.NoteOpened(member, course.Outline.Lessons, [.. course.Outline.Lessons.Select(l => l.Id)], at, default);
        var pdf = await (await m.Get($"/read/{course.Id.Value}/certificate.pdf")).Content.ReadAsByteArrayAsync();
        Assert.Equal("%PDF-", Encoding.ASCII.GetString(pdf, 0, 5));
        await m.Open($"/read/{course.Id.Value}/certificate");
        m.Says("Mirela Duarte");
    }

    [Fact]
    public async Task Answers_are_marked_questions_hidden_and_a_form_read_as_a_table()
    {
        using var o = await Owner();
        await o.Open("/desk/marking");
        var waiting = await site.Db(db => db.SheetTries.CountAsync(t => t.Waiting > 0));
        await o.Press("Give them", ("points", ""));
        o.Says("Give points first");
        await o.Press("Give them", ("points", "999"));
        o.Says("Points go from 0 to");
        await o.Press("Give them", ("points", "1"), ("comment", "Well seen."));
        o.Says("Marked");
        Assert.Equal(waiting - 1, await site.Db(db => db.SheetTries.CountAsync(t => t.Waiting > 0)));
        var question = await site.Db(async db =>
        {
            var lesson = Piece("Three quiet winter checks").Outline.Lessons[0].Id;
            var asked = new LessonQuestion
            {
                Id = 4_242,
                LessonId = lesson,
                AccountId = (await db.Members.FirstAsync(m => m.Email == SeedDemo.MemberEmail)).Id.Value,
                Name = "Mirela Duarte",
                Text = "Is this a rude question?",
                At = site.App.Services.GetRequiredService<App.Clock.HouseClock>().Moment
            };
            db.Add(asked);
            await db.SaveChangesAsync();
            return asked;
        });
        await o.Open("/desk/questions?all=true");
        await o.Press("Hide", ("question", "4242"));
        Assert.NotNull(await site.Db(db => db.LessonQuestions.Where(q => q.Id == 4_242).Select(q => q.HiddenAt).SingleAsync()));
        await o.Press("Show again", ("question", "4242"));
        await o.Press("Needs no answer", ("question", "4242"));
        Assert.NotNull(await site.Db(db => db.LessonQuestions.Where(q => q.Id == 4_242).Select(q => q.SettledAt).SingleAsync()));
        await o.Open("/desk/questions");
        Assert.DoesNotContain(question.Text, o.Text, StringComparison.Ordinal);

        var form = await site.Db(async db => (await db.LessonContents.AsNoTracking().ToListAsync())
            .SelectMany(c => c.Blocks.OfType<Block.CheckIn>().Select(b => (c.LessonId, b))).First());
        var csv = await (await o.Get($"/desk/lessons/{form.LessonId.Value}/form/{form.b.Id.Value}?handler=Csv")).Content.ReadAsStringAsync();
        Assert.StartsWith("name,email,week,answered,", csv.TrimStart('\ufeff'), StringComparison.Ordinal);
        Assert.Equal(await site.Db(db => db.FormEntries.CountAsync(e => e.BlockId == form.b.Id)),
            csv.Split("\r\n", StringSplitOptions.RemoveEmptyEntries).Length - 1);
    }

    [Fact]
    public async Task Opening_a_lesson_and_saving_it_changes_nothing_in_it()
    {
        using var p = await Owner();
        var kinds = new HashSet<Type>();
        foreach (var lesson in site.Catalogue.Now.Pieces.Where(x => x.IsCourse || x.Id.Value % 7 == 0).SelectMany(x => x.Outline.Lessons).ToArray())
        {
            var before = await Blocks(lesson.Id);
            kinds.UnionWith(before.Select(b => b.GetType()));
            await p.Open($"/desk/lessons/{lesson.Id.Value}");
            await p.Press("Save");
            Assert.Equal(Written(before), Written(await Blocks(lesson.Id)));
            var now = site.Catalogue.Now.LessonById[lesson.Id];
            Assert.Equal((lesson.Title, lesson.Minutes, lesson.Teaser, lesson.DoneWhen, lesson.EditionId, lesson.State),
                (now.Title, now.Minutes, now.Teaser, now.DoneWhen, now.EditionId, now.State));
        }
        Assert.Equal(12, kinds.Count);
    }

    static string Written(IReadOnlyList<Block> blocks) => System.Text.Json.JsonSerializer.Serialize(blocks, CoreJson.Options);
    async Task<IReadOnlyList<Block>> Blocks(LessonId lesson) =>
        (await site.Db(db => db.LessonContents.AsNoTracking().SingleAsync(c => c.LessonId == lesson))).Blocks;

    [Fact]
    public async Task Every_kind_of_question_is_written_as_it_is_meant_and_mistakes_are_told_where_they_stand()
    {
        using var p = await Owner();
        await p.Open("/desk/pieces/new");
        await p.Press("Make it", ("Title", "All questions"));
        var lesson = Piece("All questions").Outline.Lessons[0].Id;
        await p.Open($"/desk/lessons/{lesson.Value}");
        foreach (var kind in new[] { "practice", "form", "live", "booking", "video", "links", "follow" }) await p.Press($"add:{kind}:end");
        string Block(int n) => p.Page.QuerySelectorAll(".block")[n].GetAttribute("data-block")!;
        var (sheet, form, live, booking, video, links, follow) = (Block(0), Block(1), Block(2), Block(3), Block(4), Block(5), Block(6));
        var asked = new (string Kind, (string Field, string Value)[] Answers)[]
        {
            ("single", [("option-0", "* yes // or no"), ("right", "0"), ("feedback-0", "Right you are."), ("option-1", "no, see https://bees.example/why")]),
            ("multiple", [("option-0", "one"), ("right", "0"), ("option-1", "two"), ("right", "1")]),
            ("text", [("option-0", "fondant")]),
            ("number", [("number", "114"), ("tolerance", "about 2"), ("unit", "°C")]),
            ("order", [("option-0", "first")]),
            ("match", [("option-0", "2 + 2 = 4"), ("pair-0", "true // so")]),
            ("open", []),
        };
        for (var i = 1; i < asked.Length; i++) await p.Press($"row:{sheet}:add:0");
        for (var i = 1; i < 3; i++) await p.Press($"row:{form}:add:0");
        // Another kind has other fields: they come with the kind.
        await p.Press("Save", [.. asked.Select((q, i) => ($"b-{sheet}-q{i + 1}-kind", (string?)q.Kind)), ($"b-{form}-q1-kind", "YesNo"),
            ($"b-{form}-q2-kind", "Scale")]);
        await p.Press("Save", [.. asked.SelectMany((q, i) =>
            new (string, string?)[] { ($"b-{sheet}-q{i + 1}-text", $"Question {i + 1}"), ($"b-{sheet}-q{i + 1}-points", "2") }
                .Concat(q.Answers.Select(x => ($"b-{sheet}-q{i + 1}-{x.Field}", (string?)x.Value)))),
            ($"b-{sheet}-pass", "75"), ($"b-{sheet}-tries", "three"),
            ($"b-{form}-q1-text", "Were they flying?"), ($"b-{form}-q2-text", "How many?"),
                ($"b-{form}-q2-options", "few\nmany"), ($"b-{form}-q2-if", "q1"), ($"b-{form}-q2-value", "yes"), ($"b-{form}-q3-text", "Anything else?"),
                ($"b-{form}-repeat", "week"), ($"b-{form}-thanks", "Thank you, {{ first_name }}."),
            ($"b-{live}-title", "Clinic"), ($"b-{live}-starts", "tomorrow"), ($"b-{live}-url", "https://meet.example/clinic"),
            ($"b-{booking}-title", "Ten minutes"), ($"b-{booking}-url", "https://book.example/ten"),
            ($"b-{video}-url", "https://films.example/1"), ($"b-{video}-captions", "WEBVTT\n\n00:00.000 --> 00:02.000\nHello."),
            ($"b-{links}-title", "Weights"), ($"b-{links}-url", "https://bees.example/weights"),
            ($"b-{follow}-step-title", "Lift"), ($"b-{follow}-step-amount", "many"), ($"b-{follow}-step-unit", "times")]);
        // Nothing is saved and nothing lost while something can't be read.
        p.Says("Something can’t be read yet");
        p.Says("“three” isn’t a whole number.");
        p.Says("“tomorrow” isn’t a day and a time.");
        p.Says("“many” isn’t a whole number.");
        p.Says("“about 2” isn’t a number.");
        Assert.Equal(4, p.Page.QuerySelectorAll(".block [aria-invalid=true]").Length);
        string Shown(string field) => p.Page.QuerySelectorAll("input, textarea").OfType<IHtmlElement>().Where(e => e.GetAttribute("name") == field)
            .Select(e => e is IHtmlInputElement i ? i.Value : e.TextContent.Trim()).First();
        Assert.Equal(("three", "many", "about 2", "Clinic"),
            (Shown($"b-{sheet}-tries"), Shown($"b-{follow}-step-amount"), Shown($"b-{sheet}-q4-tolerance"), Shown($"b-{live}-title")));
        Assert.Equal("", ((Block.Live)(await Blocks(lesson))[2]).Title);
        // The empty line that stands last takes one answer more each time.
        await p.Press("Save", ($"b-{sheet}-tries", "3"), ($"b-{sheet}-q4-tolerance", "2.5"), ($"b-{sheet}-q2-option-2", "three"),
            ($"b-{sheet}-q3-option-1", "sugar fondant"), ($"b-{sheet}-q5-option-1", "second"), ($"b-{sheet}-q6-option-1", "drone"),
            ($"b-{sheet}-q6-pair-1", "mates"), ($"b-{live}-starts", "2027-02-04T19:00"), ($"b-{follow}-step-amount", "12"));
        p.Says("Saved.");
        var saved = await Blocks(lesson);
        var questions = ((Block.Practice)saved[0]).Sheet;
        Assert.Equal((3, 75, 14), (questions.Tries, questions.PassPercent, questions.Questions.Sum(q => q.Points)));
        var single = (Core.Content.Question.Single)questions.Questions[0];
        Assert.Equal([("* yes // or no", true, "Right you are."), ("no, see https://bees.example/why", false, "")],
            single.Options.Select(o => (o.Text, o.Right, o.Feedback)));
        Assert.Equal([true, true, false], ((Core.Content.Question.Multiple)questions.Questions[1]).Options.Select(o => o.Right));
        Assert.Equal(["fondant", "sugar fondant"], ((Core.Content.Question.FillText)questions.Questions[2]).Accepted);
        var number = (Core.Content.Question.FillNumber)questions.Questions[3];
        Assert.Equal((114m, 2.5m, "°C"), (number.Value, number.Tolerance, number.Unit));
        Assert.Equal(["first", "second"], ((Core.Content.Question.Ordering)questions.Questions[4]).Items);
        Assert.Equal([("2 + 2 = 4", "true // so"), ("drone", "mates")],
            ((Core.Content.Question.Match)questions.Questions[5]).Pairs.Select(x => (x.Left, x.Right)));
        Assert.IsType<Core.Content.Question.Open>(questions.Questions[6]);
        var checkIn = ((Block.CheckIn)saved[1]).Form;
        Assert.Equal((Core.Content.FormRepeat.EveryWeek, "q1", "yes"),
            (checkIn.Repeat, checkIn.Questions[1].Condition!.Of, checkIn.Questions[1].Condition!.Value));
        Assert.Equal(new NodaTime.LocalDateTime(2027, 2, 4, 19, 0), ((Block.Live)saved[2]).StartsAt);
        Assert.Equal(12, ((Block.Follow)saved[6]).Run.Steps[0].Times);
        // Written again as it stands, it is the same.
        await p.Press("Save");
        Assert.Equal(Written(saved), Written(await Blocks(lesson)));
        // Blocks go down, are copied and taken out; rows too.
        await p.Press("Move Practice sheet down");
        Assert.Equal("form", (await Blocks(lesson))[0].Word);
        await p.Press("Duplicate Form");
        Assert.Equal(2, (await Blocks(lesson)).Count(b => b is Block.CheckIn));
    }
}
