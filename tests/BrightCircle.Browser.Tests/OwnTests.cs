using System.Net;
using AngleSharp.Html.Dom;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Demo;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>The owner's own words and doors, and rights that nobody pays for here, through the real pages without scripts.</summary>
[Collection("demo")]
public class OwnTests(DemoSite site)
{
    CatalogueSnapshot Now => site.Catalogue.Now;
    Instant Moment => site.App.Services.GetRequiredService<IClock>().GetCurrentInstant();

    Plain Stranger() => new(site.App.Url);

    /// <summary>A single lesson that strangers meet the usual doorway of.</summary>
    Piece Locked() => Now.Pieces.First(p => p is { ReleasedAt: not null, IsCourse: false, Doorway: null, OpenToAll: false }
        && Now.DoorwayOf(p).Kind == DoorwayKind.Shown && !p.Outline.Lessons[0].Teaser
        && Now.Book.Decide(MemberFacts.Nobody, p.Id, Moment).State == AccessState.Locked);

    [Fact]
    public async Task A_doorway_is_what_the_owner_says_for_strangers_and_members()
    {
        using var owner = await site.Owner();
        using var stranger = Stranger();
        var piece = Locked();
        var (door, page) = ($"/desk/doorway/piece/{piece.Id.Value}", $"/read/{piece.Id.Value}");
        var text = ((Block.Text)(await site.Db(db => db.LessonContents.SingleAsync(c => c.LessonId == piece.Outline.Lessons[0].Id))).Blocks.First(b =>
            b is Block.Text)).Html;
        var words = RichTextFiles.Plain(text).Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries);

        await owner.Open(door);
        await owner.Press("Save", ("Kind", "Extract"), ("ExtractWords", "x"));
        owner.Says("“x” isn’t a number");
        await owner.Press("Save", ("Kind", "Extract"), ("ExtractWords", "20"), ("Strangers", "Only for keepers of bees."), ("Button", "Let me in"),
            ("Outline", ""));
        owner.Says("Saved.");
        await stranger.Open(page);
        stranger.Says("Only for keepers of bees.");
        stranger.Says(string.Join(' ', words.Take(6)));
        Assert.Equal("Let me in", stranger.Page.QuerySelectorAll("a.btn-pine").Last(a => a.GetAttribute("href")!.StartsWith("/join",
            StringComparison.Ordinal)).TextContent.Trim());
        Assert.DoesNotContain(string.Join(' ', words[^6..]), stranger.Text, StringComparison.Ordinal);
        // Who goes on from it is counted, and what came of it.
        await stranger.Open(stranger.Page.QuerySelector(".lit a.btn-pine")!.GetAttribute("href")!);
        Assert.Equal(piece.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture),
            ((IHtmlInputElement)stranger.Page.QuerySelector("[name=From]")!).Value);
        await owner.Open(door);
        Assert.Equal(["1", "1", "0"], owner.Page.QuerySelectorAll("dl.facts dd.num").Select(d => d.TextContent.Trim()));

        // Led elsewhere.
        await owner.Press("Save", ("Kind", "AnotherPage"), ("Page", "/read/12"));
        owner.Says("doorways of their own");
        await owner.Press("Save", ("Kind", "AnotherPage"), ("Page", "/pages/about"));
        await stranger.Open(page);
        Assert.Equal("/pages/about", stranger.At.AbsolutePath);

        // As if it weren't there: not by its address, and in no list; for who holds it all is as ever.
        await owner.Press("Save", ("Kind", "NotFound"));
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Get(page)).StatusCode);
        var lesson = await stranger.Get($"/lessons/{piece.Outline.Lessons[0].Id.Value}");
        Assert.Equal(HttpStatusCode.NotFound, lesson.StatusCode);
        string[] lists = ["/", "/inside", $"/inside?shelf={piece.ShelfId.Value}", "/tiers", "/feed.xml", $"/search?q={Uri.EscapeDataString(piece.Title)}",
            $"/covers/{piece.Id.Value}", .. Now.Plans.Select(p => $"/tiers/{p.Id.Value}")];
        foreach (var list in lists)
        {
            var answer = await stranger.Get(list);
            // The search says again what was looked for; a hit would be a link.
            Assert.DoesNotContain(list.StartsWith("/search", StringComparison.Ordinal) ? $"/read/{piece.Id.Value}" : piece.Title,
                await answer.Content.ReadAsStringAsync(),
                StringComparison.Ordinal);
        }
        using var member = Stranger();
        await member.SignIn(SeedDemo.MemberEmail, SeedDemo.MemberPassword);
        var opens = Now.Book.Decide(MemberFacts.Team, piece.Id, Moment).IsOpen;
        Assert.True(opens);
        await owner.Open(door);
        await owner.Press("Save", ("Kind", ""), ("ExtractWords", ""), ("Strangers", ""), ("Button", ""), ("Page", ""));
        Assert.Null(Now.PieceById[piece.Id].Doorway);
        await stranger.Open(page);
        stranger.Says(piece.Title);
    }

    [Fact]
    public async Task A_key_link_is_made_used_by_a_stranger_and_taken_back()
    {
        using var owner = await site.Owner();
        using var stranger = Stranger();
        var plan = Now.Plans.Single(p => p.Name == "A look in");
        await owner.Open("/desk/keys");
        await owner.Press("Make the link", ("Plan", plan.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture)), ("Name", "Plain key"),
            ("Most", "nothing"));
        owner.Says("isn’t a number");
        await owner.Press("Make the link", ("Most", "1"));
        var link = new Uri(((IHtmlInputElement)owner.Page.QuerySelector("#address")!).Value).AbsolutePath;
        var desk = owner.At.AbsolutePath;
        await stranger.Open(link);
        await stranger.Press("Take it", ("Name", "Plain Person"), ("Email", "nonsense"));
        stranger.Says("doesn’t look like");
        await stranger.Press("Take it", ("Name", "Plain Person"), ("Email", "plain.person@post.example"));
        stranger.Says("We’ve written to plain.person@post.example");
        await stranger.Open(link);
        stranger.Says("used as often as it may be");
        await owner.Open(desk);
        owner.Says("Plain Person");
        await owner.Press("Take the link back");
        owner.Says("Who used it keeps what they have");
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Get("/key/0123456789")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Get("/seat/0123456789")).StatusCode);
    }

    [Fact]
    public async Task People_move_in_from_a_pasted_list_and_a_list_is_given_something()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/members/move-in");
        await owner.Press("Read it", ("Pasted", ""));
        owner.Says("Choose a file, or paste the list");
        await owner.Press("Read it", ("Pasted", "Who\tMail\tLevel\nA Plain One\tplain.one@old.example\tGold\nPlain Two\tplain.two@old.example\tKeeper\n"));
        owner.Says("There is no plan called “Gold”");
        var columns = new[] { "Name", "Email", "Plan" }.Select(c => ("columns", (string?)c)).ToArray();
        await owner.Press("Look again", [.. columns, ("named",
            Now.Plans.Single(p => p.Name == "Apiary").Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture))]);
        owner.Says("A Plain One");
        owner.Says("new, with Apiary");
        await owner.Press("Move 2 in");
        owner.Says("Got something2");
        await owner.Open("/desk/members?q=old.example");
        owner.Says("2 people in this list");
        await owner.Open("/desk/members/give?q=old.example");
        owner.Says("Give something to 2 people");
        var look = Now.Plans.Single(p => p.Name == "A look in");
        await owner.Press("Give it", ("What", $"plan-{look.Id.Value}"), ("Until", "2026-11-01"));
        owner.Says("Refused2");
        await owner.Open("/desk/members/give?q=old.example");
        await owner.Press("Give it", ("What", $"plan-{look.Id.Value}"), ("letters", null));
        owner.Says("Got something2");
        var member = await site.Db(db => db.Members.SingleAsync(m => m.Email == "plain.one@old.example"));
        await owner.Open($"/desk/members/{member.Id.Value}");
        owner.Says("brought along");
        // A single piece, from their page.
        var piece = Locked();
        await owner.Open($"/desk/members/{member.Id.Value}/give");
        await owner.Press("Give it", ("What", $"piece-{piece.Id.Value}"), ("Seats", "many"));
        owner.Says("isn’t a number");
        await owner.Press("Give it", ("Seats", ""));
        owner.Says("The welcome letter is on its way");
    }

    [Fact]
    public async Task A_page_is_written_made_public_put_into_the_menu_and_thrown_away()
    {
        using var owner = await site.Owner();
        using var stranger = Stranger();
        await owner.Open("/desk/pages");
        await owner.Press("New page");
        await owner.Press("Text");
        var block = owner.Page.QuerySelector(".block")!.GetAttribute("data-block");
        await owner.Press("Questions and answers", ($"b-{block}-html", "<p>We keep bees.</p><script>alert(1)</script>"), ("Title", "Plain words"), ("Slug",
            "Plain Words!"));
        owner.Says("small letters, digits and dashes");
        await owner.Press("Save", ("Slug", "plain-words"));
        await owner.Press("Make it public");
        owner.Says("needs its answer");
        var faq = owner.Page.QuerySelectorAll(".block")[1].GetAttribute("data-block");
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Get("/pages/plain-words")).StatusCode);
        await owner.Open("/pages/plain-words");
        owner.Says("only the team sees it");
        await owner.Open(owner.Link("Go on writing"));
        await owner.Press("Make it public", ($"b-{faq}-question", "Why?"), ($"b-{faq}-answer", "Because."), ("Description", "Plain things"));
        owner.Says("It is public.");
        var edit = owner.At.AbsolutePath;
        await stranger.Open("/pages/plain-words");
        stranger.Says("We keep bees.");
        stranger.Says("Because.");
        Assert.DoesNotContain("alert(1)", stranger.Page.Source.Text, StringComparison.Ordinal);
        Assert.Equal("Plain things", stranger.Page.QuerySelector("meta[property='og:description']")!.GetAttribute("content"));

        await owner.Open("/desk/settings/menu");
        await owner.Press("Another entry");
        var entries = owner.Page.QuerySelectorAll("[name=word]").Length;
        var before = owner.Page.QuerySelectorAll("[name=word]").Cast<IHtmlInputElement>().Select(i => i.Value).ToArray();
        var paths = owner.Page.QuerySelectorAll("[name=path]").Cast<IHtmlInputElement>().Select(i => i.Value).ToArray();
        before[^1] = "Plain";
        paths[^1] = "nowhere";
        (string, string?)[] Fields() => [.. before.Select(w => ("word", (string?)w)), .. paths.Select(x => ("path", (string?)x))];
        await owner.Press("Save", Fields());
        owner.Says("isn’t an address");
        paths[^1] = "/pages/plain-words";
        await owner.Press("Save", Fields());
        await stranger.Open("/");
        Assert.Contains("/pages/plain-words", stranger.Page.QuerySelectorAll("header a").Select(a => a.GetAttribute("href")));
        using var member = Stranger();
        await member.SignIn(SeedDemo.MemberEmail, SeedDemo.MemberPassword);
        await member.Open("/me");
        Assert.Equal(["Home", "Shelves", "Spaces", "Sessions", "Account", "Plain"], member.Page.QuerySelectorAll("header nav a").Select(a =>
            a.TextContent.Trim()));
        Assert.Contains("Plain", member.Page.QuerySelectorAll("footer a").Select(a => a.TextContent.Trim()));
        await owner.Open("/desk/settings/menu");
        await owner.Press($"drop:{entries - 1}");
        await owner.Press("Save");
        await owner.Open(edit);
        await owner.Press("Take it back to a draft");
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.Get("/pages/plain-words")).StatusCode);
        await owner.Press("Throw it away");
        owner.Says("is gone");
    }

    [Fact]
    public async Task A_promise_is_begun_from_what_it_is_about_and_a_bonus_added()
    {
        using var owner = await site.Owner();
        var course = Now.Pieces.Single(p => p.Title == "Three quiet winter checks");
        await owner.Open($"/desk/lessons/{course.Outline.Lessons[0].Id.Value}");
        owner.Says("Who can open it");
        var keeper = Now.Plans.Single(p => p.Name == "Keeper");
        await owner.Open($"/desk/tiers/{keeper.Id.Value}/promise?add=lesson-{course.Outline.Lessons[0].Id.Value}");
        Assert.Equal(keeper.Promise.Count + 1, owner.Page.QuerySelectorAll("[name$='.Covers']").Length);
        owner.Says($"The lesson “{course.Outline.Lessons[0].Title}”");
        if (course.Outline.Modules.FirstOrDefault() is { } module)
        {
            await owner.Open($"/desk/pieces/{course.Id.Value}/modules/{module.Id.Value}/promise");
            owner.Says("First Winter");
        }
        var together = Now.Plans.Single(p => p.Name == "Winter together");
        await owner.Open($"/desk/tiers/{together.Id.Value}/promise");
        owner.Says("As a bonus, everything that A look in opens");
        await owner.Open($"/desk/tiers/{Now.Plans.Single(p => p.Name == "A look in").Id.Value}/promise");
        owner.Says("It comes along as a bonus with Winter together");
    }

    [Fact]
    public async Task Shelves_show_only_what_is_open_where_that_is_wanted()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/look");
        await owner.Press("Look", ("Who", "somebody"), ("By", $"plan-{Now.Plans.Single(p => p.Name == "Meadow").Id.Value}"), ("Joined", "2026-11-02"));
        await owner.Open("/shelves");
        Assert.NotEmpty(owner.Page.QuerySelectorAll(".not-mine"));
        Assert.Contains(owner.Page.QuerySelectorAll(".not-mine .end"), e => e.TextContent.Contains("with ", StringComparison.Ordinal));
        await owner.Open("/shelves?mine=true");
        Assert.Empty(owner.Page.QuerySelectorAll(".not-mine"));
        Assert.NotEmpty(owner.Page.QuerySelectorAll(".row-l"));
        using var member = Stranger();
        await member.SignIn(SeedDemo.MemberEmail, SeedDemo.MemberPassword);
        await member.Open("/me/account");
        var leave = member.Page.QuerySelectorAll("a").Select(a => a.GetAttribute("href")).First(h => h?.StartsWith("/me/leave/",
            StringComparison.Ordinal) == true);
        await member.Open(leave!);
        member.Says("Stays open:");
    }

    [Fact]
    public async Task The_team_tries_a_sheet_and_a_form_without_a_trace()
    {
        using var owner = await site.Owner();
        var lessons = Now.LessonById.Values.Where(l => l.ReleasedAt is not null).Select(l => l.Id).ToArray();
        var contents = await site.Db(db => db.LessonContents.AsNoTracking().Where(c => lessons.Contains(c.LessonId)).ToListAsync());
        var sheet = contents.First(c => c.Blocks.Any(b => b is Block.Practice));
        var form = contents.First(c => c.Blocks.Any(b => b is Block.CheckIn));
        var before = await site.Db(async db => (await db.SheetTries.CountAsync(), await db.SheetDrafts.CountAsync(), await db.FormEntries.CountAsync(),
            await db.Openings.CountAsync()));
        foreach (var look in new[] { false, true })
        {
            if (look)
            {
                await owner.Open("/desk/look");
                await owner.Press("Look", ("Who", "member"), ("Email", SeedDemo.MemberEmail));
            }
            await owner.Open($"/lessons/{sheet.LessonId.Value}");
            owner.Says("You only try it: nothing is kept.");
            // Through a member's eyes their own result stands there first.
            if (look) await owner.Press("Try again");
            await owner.Press("Hand in", [.. owner.Page.QuerySelectorAll("[data-sheet] [name^=a-]").Select(f => (f.GetAttribute("name")!,
                (string?)null)).Distinct()]);
            owner.Says("Not answered");
            await owner.Press("Try again");
            await owner.Open($"/lessons/{form.LessonId.Value}");
            var check = form.Blocks.OfType<Block.CheckIn>().First();
            await owner.Press("Send", [.. check.Form.Questions.Where(q => q.Kind is FormQuestionKind.Long or FormQuestionKind.Short)
                .Select(q => ($"f-{check.Id.Value}-{q.Key}", (string?)"tried"))]);
            owner.Says("nothing is kept");
        }
        Assert.Equal(before, await site.Db(async db => (await db.SheetTries.CountAsync(), await db.SheetDrafts.CountAsync(), await db.FormEntries.CountAsync(),
            await db.Openings.CountAsync())));
        await owner.Open("/desk/settings/journal");
        owner.Says($"looked at the site as {SeedDemo.MemberName}");
        await owner.Press("Find", ("q", SeedDemo.MemberName.ToLowerInvariant()));
        Assert.All(owner.Page.QuerySelectorAll(".row-l"), r => Assert.Contains(SeedDemo.MemberName, r.TextContent, StringComparison.Ordinal));
        await owner.Press("Find", ("q", "nobody & nothing"));
        owner.Says("Nothing with “nobody & nothing” in it.");
    }
}
