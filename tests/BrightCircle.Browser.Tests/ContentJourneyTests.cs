using BrightCircle.App.Tests;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using OpenQA.Selenium;
using Xunit;

namespace BrightCircle.Browser.Tests;

[Collection("demo")]
public class ContentJourneyTests
{
    readonly DemoSite site;
    readonly SiteSteps s;
    readonly Browser b;

    public ContentJourneyTests(DemoSite site)
    {
        (this.site, b) = (site, site.Browser);
        s = new(b, site.App.Url);
        b.Desktop();
        b.Dark(false);
    }

    Piece Piece(string title) => site.Catalogue.Now.Pieces.First(p => p.Title == title);
    Lesson Lesson(string title) => site.Catalogue.Now.LessonById.Values.First(l => l.Title == title);
    T Db<T>(Func<BrightContext, T> ask)
    {
        using var scope = site.App.Services.CreateScope();
        return ask(scope.ServiceProvider.GetRequiredService<BrightContext>());
    }

    [Fact]
    public void A_newcomer_builds_a_course_of_nine_lessons_with_a_pattern_and_copies()
    {
        s.AsOwner();
        s.Go("/desk/pieces/new");
        b.Type("Title", "Building a nucleus box");
        b.Press("Make it");
        b.WaitFor("1 lesson");

        // The first lesson, made fully: a text, a follow-along, a file.
        b.Click(".lesson-row a");
        b.Click(".add-end button[value='add:text:end']");
        b.Write("trix-editor", "Measure twice, cut once.");
        b.Click(".add-end button[value='add:follow:end']");
        b.WaitFor("Step 1");
        b.Write("input[name$='-step-title']", "Saw the sides");
        b.Click("#saved");
        b.WaitFor("saved ");
        b.Press("Another step");
        b.WaitFor("Step 2");
        Assert.Equal("Saw the sides", b.Value("input[name$='-step-title']"));
        b.Write(By.XPath("(//input[contains(@name, '-step-title')])[2]"), "Sand the edges");
        b.Type("Minutes", "20");
        b.Click("button[value=publish]");
        b.WaitFor("It is ready.");
        var first = Lesson("Building a nucleus box");
        b.Click(".margin summary");
        b.Write(".margin input[name=name]", "Workshop lesson");
        b.Click(".margin form[action*=Pattern] button");
        b.WaitFor("New lessons can start from");

        // Eight more: from the pattern, by counting on, and by copying a whole week.
        s.Go($"/desk/pieces/{first.PieceId.Value}");
        b.Write("form[action*='AddModule'] input[name=title]", "Week 1");
        b.Click("form[action*='AddModule'] button");
        b.WaitFor("Week 1");
        for (var i = 1; i <= 3; i++)
        {
            s.Go($"/desk/pieces/{first.PieceId.Value}");
            const string Form = "form[action*='AddLesson'].sheet ";
            b.Write(Form + "[name=title]", i == 1 ? "Day 1" : "");
            b.Click(Form + "[name=pattern] option:nth-of-type(2)");
            b.Click(Form + "button");
            b.WaitForPath("/desk/lessons/");
            b.WaitFor($"Day {i}");
        }
        s.Go($"/desk/pieces/{first.PieceId.Value}");
        b.Click("[aria-label='Duplicate Week 1']");
        b.WaitFor("Week 2");
        b.Click("[aria-label='Duplicate Day 3']");
        b.WaitFor("Day 4");
        b.Click("[aria-label='Duplicate Day 4']");
        b.WaitFor("9 lessons in 2 modules");
        // The order, by keyboard: Day 4 one up.
        b.Click("[aria-label='Move Day 4 up']");
        b.WaitUntil(() => Piece("Building a nucleus box").Outline.Lessons.Take(5).Select(l => l.Title)
            .SequenceEqual(["Building a nucleus box", "Day 1", "Day 2", "Day 4", "Day 3"]), "Day 4 stands before Day 3");
        // All of them ready at once; publishing says what isn't.
        for (var i = 1; i <= 9; i++) b.Click(By.XPath($"(//input[@name='lesson'])[{i}]"));
        b.Click("button[value=Publish]");
        b.WaitFor("9 lessons: ready");
        b.Press("Make it ready");
        b.WaitFor("It is ready, with everything in it");
        Assert.Equal(9, Piece("Building a nucleus box").Outline.Lessons.Count(l => l.State == PieceState.Ready));
        Assert.Empty(b.Violations());
    }

    [Fact]
    public void Every_kind_of_block_is_added_in_the_editor_and_kept()
    {
        s.AsOwner();
        s.Go("/desk/pieces/new");
        b.Type("Title", "All kinds");
        b.Press("Make it");
        b.Click(".lesson-row a");
        var n = 0;
        foreach (var kind in new[] { "text", "pictures", "video", "audio", "files", "links", "practice", "follow", "timer", "form", "live", "booking" })
        {
            b.Click($".add-end button[value='add:{kind}:end']");
            n++;
            b.Css($".blocks .block:nth-of-type({n})");
        }
        var lesson = Lesson("All kinds");
        Assert.Equal(12, Db(db => db.LessonContents.Single(c => c.LessonId == lesson.Id).Blocks).Select(x => x.GetType()).Distinct().Count());
        Assert.Empty(b.Violations());
        // Unfinished blocks say what they need, and being ready waits for them.
        b.WaitFor("The video is missing");
        b.Click("button[value=publish]");
        b.WaitFor("It can’t be ready yet");
        // Up, copied, and gone.
        var second = b.Of(By.CssSelector(".block:nth-of-type(2)"), e => e.GetAttribute("data-block")!);
        b.Click($"button[value='up:{second}']");
        b.Css($".blocks .block:first-of-type[data-block='{second}']");
        b.Click($"button[value='del:{second}']");
        b.Css(".blocks .block:first-of-type [data-clean], .blocks .block:first-of-type trix-editor");
        Assert.Equal(11, Db(db => db.LessonContents.Single(c => c.LessonId == lesson.Id).Blocks).Count);
        // Every version is there, told apart down to what is set in a block; the first comes back.
        s.Go($"/desk/lessons/{lesson.Id.Value}/history?v=2");
        b.WaitFor("compared with version 1");
        s.Go($"/desk/lessons/{lesson.Id.Value}/history");
        b.WaitFor("This is how it stands now.");
        s.Go($"/desk/lessons/{lesson.Id.Value}/history?v=2");
        b.Press("Bring version 2 back");
        b.WaitFor("Version 2 is back");
        Assert.Equal(["text"], Db(db => db.LessonContents.Single(c => c.LessonId == lesson.Id).Blocks).Select(x => x.Word));
    }

    [Fact]
    public async Task Two_who_edit_one_lesson_are_told_and_the_form_stays()
    {
        s.AsOwner();
        s.Go("/desk/pieces/new");
        b.Type("Title", "Shared by two");
        b.Press("Make it");
        b.Click(".lesson-row a");
        b.Click(".add-end button[value='add:text:end']");
        b.Write("trix-editor", "Mine.");
        b.WaitFor("saved ");
        var lesson = Lesson("Shared by two").Id;
        var other = new App.TeamActor(-7, "Odile Fern", TeamRole.Editor);
        using var scope = site.App.Services.CreateScope();
        var people = scope.ServiceProvider.GetRequiredService<BrightContext>();
        people.Add(App.Members.PeopleData.NewAccount(-7, "Odile Fern", House.NewAddress(), TeamRole.Editor));
        await people.SaveChangesAsync();
        await scope.ServiceProvider.GetRequiredService<App.Content.EditingNow>().Beat(other, lesson, default);
        // Coming back to the window asks at once who else is here; nothing else of the page changes.
        b.Driver.ExecuteScript("document.dispatchEvent(new Event('visibilitychange'))");
        b.WaitFor("Odile Fern has this lesson open too");
        Assert.Equal(1L, b.Driver.ExecuteScript("return document.querySelectorAll('#lesson-form #blocks trix-editor').length"));
        // The other saves first: whoever saves second is told, and has both.
        var now = Db(db => db.Lessons.Single(l => l.Id == lesson));
        var saved = await scope.ServiceProvider.GetRequiredService<App.Content.SaveLesson>()
            .Do(other, lesson, new("Shared by two", 12, false, Core.Content.DoneWhen.Marked, null, false, [], now.Version), default);
        Assert.IsType<App.Content.LessonSaved.Done>(saved);
        b.Write("trix-editor", "Mine, and more.");
        b.WaitFor("Odile Fern saved it");
        b.Click("button[value=save]");
        b.WaitFor("after you opened it");
        Assert.Contains("and more", b.Words("trix-editor"), StringComparison.Ordinal);
        b.Press("save mine over it");
        b.WaitFor("Saved.");
        Assert.Equal(2, Db(db => db.LessonVersions.Count(v => v.LessonId == lesson && (v.By == "Odile Fern" || v.Version == now.Version + 2))));
    }

    [Fact]
    public void A_tally_is_made_promised_offered_and_marked_once_for_a_run()
    {
        // The owner makes it, and a follow-along offers it.
        s.AsOwner();
        s.Go("/desk/tallies/new");
        b.Type("Name", "Stretches");
        b.Type("AWeek", "none");
        b.Press("Save this tally");
        b.WaitFor("The aim is a whole number");
        b.Type("AWeek", "2");
        b.Press("Save this tally");
        b.WaitFor("Stretches is saved");
        Assert.Empty(b.Violations());
        s.Go($"/desk/lessons/{Lesson("Making fondant, step by step").Id.Value}");
        b.Choose(b.Of(By.CssSelector("select[name$='-tally']"), e => e.GetAttribute("id")!), "Stretches");
        b.WaitFor("saved ");
        var tally = site.Catalogue.Now.Tallies.Single(t => t.Name == "Stretches").Id;
        b.WaitUntil(() => Db(db => db.LessonContents.Single(c => c.LessonId == Lesson("Making fondant, step by step").Id).Blocks).OfType<Block.Follow>()
            .Single().Run.Tally == tally, "the follow-along offers it");

        // The member finishes it on a phone and marks the run; pressing on again and again is still one.
        s.AsMirela();
        b.Phone();
        s.Go($"/lessons/{Lesson("Making fondant, step by step").Id.Value}");
        b.WaitFor("0 of 2 this week");
        b.Press("Begin");
        b.PressUntil(".follow [data-next]", "[data-kind=Done]");
        b.Css(".tally-offer.now");
        b.Click(".tally-offer button");
        b.WaitFor("1 of 2 this week");
        b.WaitFor("Marked");
        Assert.Equal(1, Db(db => db.TallyMarks.Count(m => m.TallyId == tally && m.Run != null)));
        Assert.Empty(b.Violations());

        // Home has it too; there it is marked without a run, and taken back on its own page.
        s.Go("/me");
        b.Click(By.XPath("//button[normalize-space(.)='I did it: Stretches']"));
        b.WaitFor("Stretches: 2 of 2 this week, the aim is met");
        s.Go($"/me/tallies/{tally.Value}");
        b.WaitFor("with a follow-along");
        b.Press("Take the last one back");
        b.WaitFor("Taken back.");
        b.WaitFor("1 of 2 this week");
        b.Desktop();

        // The zone of the member's days is theirs to say.
        s.Go("/me/account");
        b.Choose("Zone", "Pacific/Auckland");
        b.Click("#zone button");
        b.WaitFor("Your days begin where you are");
        s.Go($"/me/tallies/{tally.Value}");
        b.WaitFor("Pacific/Auckland");
        s.Go("/me/account");
        b.Click("#Zone option[value='']");
        b.Click("#zone button");

        // The team sees the week.
        s.AsOwner();
        s.Go($"/desk/tallies/{tally.Value}");
        b.WaitFor("Mirela Duarte");
        b.WaitFor("1 of 2");
        b.Press("Take it away");
        b.WaitFor("what they did stays");
        b.Press("Close it for new marks");
        b.WaitFor("closed since");
    }

    [Fact]
    public void A_file_goes_up_in_the_browser_is_cut_into_a_cover_and_shown()
    {
        s.AsOwner();
        var path = Path.Combine(Path.GetTempPath(), $"cover-{Guid.NewGuid():N}.png");
        File.WriteAllBytes(path, FileTests.Png(800, 600));
        s.Go("/desk/files");
        b.Write("input[type=file]", path);
        b.WaitFor(Path.GetFileName(path));
        File.Delete(path);
        s.Go($"/desk/pieces/{Piece("Varroa count in the cold").Id.Value}/facts");
        b.Press("Choose cover");
        b.Click("[data-pick]");
        b.Css("cropper-selection");
        b.WaitUntil(() => b.Driver.ExecuteScript("return document.querySelector('[name=CropWidth]').value") is string { Length: > 0 }, "the cut has a size");
        b.Click("form button.btn-pine");
        b.WaitFor("Saved.");
        var cover = Db(db => db.Files.Single(f => f.Id == Piece("Varroa count in the cold").Cover));
        Assert.InRange((double)cover.Width!.Value / cover.Height!.Value, 2.2, 2.8);
        s.Go("/desk/editions");
        b.WaitFor("Varroa count in the cold");
    }

    [Fact]
    public void A_member_takes_part_in_every_kind_of_block_on_a_phone()
    {
        s.AsMirela();
        b.Phone();
        var course = Piece("Three quiet winter checks");
        s.Go($"/read/{course.Id.Value}");
        b.WaitFor("done");
        var member = Db(db => db.Members.Single(m => m.Email == App.Demo.SeedDemo.MemberEmail).Id);

        // The practice sheet: begun, kept, handed in.
        s.Go($"/lessons/{Lesson("How much is enough?").Id.Value}");
        if (b.Text.Contains("Try again", StringComparison.Ordinal)) b.Press("Try again");
        b.Click(By.XPath("//label[contains(., 'Nothing')]"));
        foreach (var box in new[] { "One side lifts easily", "Dead bees head first" }) b.Tick(box, true);
        foreach (var box in new[] { "Bees flying", "Frost on the lid" }) b.Tick(box, false);
        b.Write(By.XPath("//legend[contains(., 'too cold for syrup')]/..//input[@type='text' or not(@type)]"), "  FONDANT ");
        b.WaitFor("your answers are kept");
        b.Press("Hand in");
        b.WaitFor("Right, 1 of 1");
        b.WaitFor("Right, 2 of 2");

        // The follow-along, from overview to end, with the big button.
        s.Go($"/lessons/{Lesson("Making fondant, step by step").Id.Value}");
        b.WaitFor("5 steps");
        b.Press("Begin");
        b.WaitFor("get ready");
        b.PressUntil(".follow [data-next]", "[data-kind=Done]");
        b.WaitFor("It counts");
        Assert.True(Db(db => db.Played.Any(p => p.MemberId == member && p.Times > 0)));

        // The timer runs and stands.
        s.Go($"/lessons/{Lesson("Where the cluster sits").Id.Value}");
        b.Press("Start");
        b.WaitFor("Pause");
        b.Press("Pause");
        b.WaitFor("Go on");

        // The form: a question comes with the answer before it, and the name stands in it.
        s.Go($"/lessons/{Lesson("How are they?").Id.Value}");
        b.WaitFor("just now, Mirela?");
        Assert.DoesNotContain("What have you seen or heard?", b.Text, StringComparison.Ordinal);
        b.Press("Send");
        b.WaitFor("This one needs an answer");
        b.Write("input[inputmode=decimal]", "3");
        b.Click(By.XPath("//label[contains(., 'yes')]"));
        b.WaitFor("What have you seen or heard?");
        b.Press("Send");
        b.WaitFor("Thank you, Mirela");

        // A note, a bookmark, a question.
        b.Write("#note-text", "Look again on Sunday.");
        b.WaitFor("kept");
        b.Press("Bookmark");
        b.WaitFor("Bookmarked");
        b.Write("#ask-text", "Do you read these at weekends?");
        b.Submit("#ask-text");
        b.WaitFor("Do you read these at weekends?");
        s.Go("/me/kept");
        b.WaitFor("Look again on Sunday.");
        // Recordings, pictures, links, files and the live session are there, and addresses are signed.
        s.Go($"/lessons/{Lesson("Hefting, by hand and by scale").Id.Value}");
        Assert.Equal(true, b.Driver.ExecuteAsyncScript(
            "const done = arguments[0], v = document.querySelector('video'); v.readyState > 0 ? done(true) : v.addEventListener('loadedmetadata', () => "
            + "done(true));"));
        b.WaitFor("holds two kilos");
        s.Go($"/lessons/{Lesson("Ask us live").Id.Value}");
        b.WaitFor("Winter clinic");
        // Another journey may have moved the clock past the session.
        b.WaitFor(site.App.Services.GetRequiredService<App.Clock.HouseClock>().Moment < NodaTime.Instant.FromUtc(2026, 12, 17, 20, 0) ? "Into my calendar"
            : "It is over.");
        b.WaitFor("Book at book.tansy-lane.example");
        s.Go("/search?q=thermometer");
        b.WaitFor("Making fondant");
        b.Desktop();
    }

    [Fact]
    public void The_board_moves_a_piece_by_its_drawer_and_copies_a_month()
    {
        s.AsOwner();
        s.Go("/desk/editions?span=12");
        b.WaitFor("A nucleus box from one board");
        b.Click(By.XPath("//div[contains(@class,'card-p')][.//b[text()='A nucleus box from one board']]//a[contains(@class,'card-more')]"));
        b.Css("#drawer #d-to");
        b.Choose("d-to", "to come");
        b.Click(By.XPath("//div[@id='drawer']//button[text()='Move']"));
        b.WaitFor("Moved.");
        Assert.Null(Piece("A nucleus box from one board").EditionId);
        b.Find(By.XPath("//section[contains(@class,'tray')]//b[text()='A nucleus box from one board']"));
        // Back by what dragging sends.
        b.Driver.ExecuteAsyncScript(
            "const done = arguments[arguments.length - 1], d = new FormData(); d.set('card', arguments[0]); d.set('to', '2027-02'); "
            + "d.set('__RequestVerificationToken', bright.token()); fetch(document.querySelector('[data-board]').dataset.moveUrl, { method: 'POST', body: d, "
            + "headers: { 'X-Drag': '1' } }).then(r => done(r.status));", "p" + Piece("A nucleus box from one board").Id.Value);
        Assert.Equal("February 2027", site.Catalogue.Now.EditionOf(Piece("A nucleus box from one board"))!.Title);
        // And with the pointer itself, into the month after.
        s.Go("/desk/editions?from=2027-01&span=6");
        var shelf = Piece("A nucleus box from one board").ShelfId.Value;
        b.Drag(By.XPath("//div[contains(@class,'card-p')][.//b[text()='A nucleus box from one board']]"),
            By.CssSelector($"td[data-month='2027-03'][data-shelf='{shelf}']"),
            () => site.Catalogue.Now.EditionOf(Piece("A nucleus box from one board")) is { Title: "March 2027" }, "the piece is in March");
        // A released piece stays, and says so.
        var refused =
            b.Driver.ExecuteAsyncScript(
            "const done = arguments[arguments.length - 1], d = new FormData(); d.set('card', arguments[0]); d.set('to', '2027-02'); "
            + "d.set('__RequestVerificationToken', bright.token()); fetch(document.querySelector('[data-board]').dataset.moveUrl, { method: 'POST', body: d, "
            + "headers: { 'X-Drag': '1' } }).then(async r => done(r.status + await r.text()));", "p" + Piece("Making fondant at home").Id.Value);
        Assert.StartsWith("409", (string)refused!, StringComparison.Ordinal);
        s.Go("/desk/editions?from=2026-01&span=12");
        b.WaitFor("released");
    }

    [Fact]
    public void What_is_dragged_stays_where_it_is_let_go()
    {
        s.AsOwner();
        s.Go("/desk/pieces/new");
        b.Type("Title", "Carried about");
        b.Press("Make it");
        b.WaitFor("1 lesson");
        b.Write("form[action*='AddModule'] input[name=title]", "Week 1");
        b.Click("form[action*='AddModule'] button");
        b.WaitFor("Week 1");
        for (var i = 1; i <= 2; i++)
        {
            b.Click("[aria-label^='Duplicate Carried about']");
            b.WaitFor($"{i + 1} lessons");
        }
        string Row(int n) => $"//*[contains(@class,'lesson-row')][.//a[normalize-space(.)='{Piece("Carried about").Outline.Lessons[n].Title}']]";
        var before = Piece("Carried about").Outline.Lessons.Select(l => l.Id).ToArray();
        // The third before the first; then the one that is last now into the module.
        b.Drag(By.XPath(Row(2) + "//*[contains(@class,'grip')]"), By.XPath(Row(0)),
            () => Piece("Carried about").Outline.Lessons.Select(l => l.Id).SequenceEqual([before[2], before[0], before[1]]), "the third lesson is the first");
        b.Drag(By.XPath(Row(2) + "//*[contains(@class,'grip')]"), By.XPath("//*[@data-module != '0']//*[@data-lessons]"),
            () => Piece("Carried about").Outline.Lessons.Single(l => l.Id == before[1]).ModuleId is not null, "the lesson is in the module");

        // Blocks of a lesson.
        s.Go($"/desk/lessons/{before[0].Value}");
        foreach (var (kind, n) in new[] { ("timer", 1), ("links", 2) })
        {
            b.Click($".add-end button[value='add:{kind}:end']");
            b.Css($".blocks .block:nth-of-type({n})");
            b.WaitFor("saved ");
        }
        b.Drag(By.CssSelector(".blocks .block:nth-of-type(2) .grip"), By.CssSelector(".blocks .block:first-of-type"),
            () => Db(db => db.LessonContents.Single(c => c.LessonId == before[0]).Blocks).Select(x => x.Word).SequenceEqual(["links", "timer"]),
                "the links stand first");
    }

    [Fact]
    public async Task Locked_files_need_a_signed_address_and_come_in_ranges()
    {
        using var visitor = new HttpClient { BaseAddress = new(site.App.Url) };
        var lesson = Lesson("Hefting, by hand and by scale");
        Assert.DoesNotContain("/files/", await visitor.GetStringAsync($"/lessons/{lesson.Id.Value}/x"), StringComparison.Ordinal);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await visitor.GetAsync($"/lessons/{lesson.Id.Value}/print")).StatusCode);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await visitor.GetAsync($"/read/{lesson.PieceId.Value}/book.epub")).StatusCode);
        Assert.DoesNotContain("<mark>", await visitor.GetStringAsync("/search?q=thermometer+bubbles"), StringComparison.Ordinal);
        Assert.DoesNotContain("114", await visitor.GetStringAsync("/feed.xml"), StringComparison.Ordinal);
        s.AsMirela();
        s.Go($"/lessons/{lesson.Id.Value}");
        var src = b.Of(By.CssSelector("video"), e => e.FindElement(By.TagName("source")).GetAttribute("src")!);
        // Whoever has the address has the file for a while; a changed one is nothing.
        using var request = new HttpRequestMessage(HttpMethod.Get, src) { Headers = { Range = new(100, 199) } };
        using var part = await visitor.SendAsync(request);
        Assert.Equal(System.Net.HttpStatusCode.PartialContent, part.StatusCode);
        Assert.Equal((100, 100L), ((await part.Content.ReadAsByteArrayAsync()).Length, part.Content.Headers.ContentRange!.From));
        using var again = new HttpRequestMessage(HttpMethod.Get, src) { Headers = { IfNoneMatch = { part.Headers.ETag! } } };
        Assert.Equal(System.Net.HttpStatusCode.NotModified, (await visitor.SendAsync(again)).StatusCode);
        using var beyond = new HttpRequestMessage(HttpMethod.Get, src) { Headers = { Range = new(99_999_999, null) } };
        Assert.Equal(System.Net.HttpStatusCode.RequestedRangeNotSatisfiable, (await visitor.SendAsync(beyond)).StatusCode);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await visitor.GetAsync(src.Replace("/full/", "/w480/", StringComparison.Ordinal))).StatusCode);
    }
}
