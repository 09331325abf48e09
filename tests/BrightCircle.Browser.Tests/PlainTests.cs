using AngleSharp.Html.Dom;
using BrightCircle.App.Access;
using BrightCircle.App.Catalogues;
using BrightCircle.App.Clock;
using BrightCircle.App.Demo;
using BrightCircle.App.Learning;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>The Desk and the member side without scripts: every form that scripts make quicker works without them.</summary>
[Collection("demo")]
public class PlainTests(DemoSite site)
{
    Piece Piece(string title) => site.Catalogue.Now.Pieces.First(p => p.Title == title);

    [Fact]
    public async Task A_piece_is_made_described_put_away_and_brought_back()
    {
        using var p = await site.Owner();
        await p.Open("/desk/pieces/new");
        await p.Press("Make it", ("Title", " "));
        p.Says("title");
        await p.Press("Make it", ("Title", "Plain piece"));
        var id = Piece("Plain piece").Id;
        await p.Open($"/desk/pieces/{id.Value}/facts");
        await p.Press("Save", ("Places", "none"));
        p.Says("“none” isn’t a whole number");
        Assert.Equal("none", p.Page.QuerySelector("#Places")!.GetAttribute("value"));
        await p.Press("Save", ("Places", "2"), ("Tags", "Winter, #Swarms, winter"), ("Learn", "One\nTwo"), ("QuestionsOn", "true"), ("EndLink", "not a link"));
        p.Says("full address");
        await p.Press("Save", ("EndLink", "https://tansy-lane.example/more"));
        p.Says("Saved.");
        var facts = Piece("Plain piece");
        Assert.Equal((2, true, "swarms winter", "https://tansy-lane.example/more"),
            (facts.Places, facts.QuestionsOn, string.Join(' ', facts.Tags), facts.EndLink));

        // Blocks are added, filled in and moved by the buttons of the form.
        await p.Open($"/desk/lessons/{facts.Outline.Lessons[0].Id.Value}");
        await p.Press("Text");
        await p.Press("Timer");
        var block = p.Page.QuerySelectorAll(".block")[1].GetAttribute("data-block");
        await p.Press("Save", ($"b-{p.Page.QuerySelectorAll(".block")[0].GetAttribute("data-block")}-html", "<p>Words <script>alert(1)</script>of it</p>"),
            ($"b-{block}-title", "Let it rest"), ($"b-{block}-minutes", "3"), ("Minutes", "12"));
        p.Says("Saved.");
        await p.Press("Move Timer up");
        var blocks = (await site.Db(db => db.LessonContents.AsNoTracking().SingleAsync(c => c.LessonId == facts.Outline.Lessons[0].Id))).Blocks;
        Assert.Equal(["timer", "text"], blocks.Select(b => b.Word));
        Assert.DoesNotContain("script", ((Block.Text)blocks[1]).Html, StringComparison.Ordinal);
        await p.Press("Save", ("Minutes", "long"));
        p.Says("Minutes are a whole number");
        Assert.Equal("long", p.Page.QuerySelector("#Minutes")!.GetAttribute("value"));

        await p.Open($"/desk/pieces/{id.Value}");
        await p.Press("Put it into the trash");
        p.Says("in the trash");
        Assert.DoesNotContain(site.Catalogue.Now.Pieces, x => x.Id == id);
        await p.Open("/desk/trash");
        p.Says("Plain piece piece with 1 lesson");
        await p.Press("Bring it back");
        Assert.Equal(12, Piece("Plain piece").Outline.Lessons[0].Minutes);
        await p.Open("/desk/search?q=rest");
        p.Says("Plain piece");
    }

    [Fact]
    public async Task An_edition_is_planned_a_card_moved_and_an_outline_brought_in()
    {
        using var p = await site.Owner();
        await p.Open("/desk/pieces/new");
        await p.Press("Make it", ("Title", "Moved by hand"));
        await p.Open("/desk/editions/new?month=2027-09");
        await p.Press("Save", ("Title", "September: plain"));
        var edition = site.Catalogue.Now.Editions.Single(e => e.Title == "September: plain");
        await p.Open($"/desk/editions?card=p{Piece("Moved by hand").Id.Value}");
        await p.Press("Move", (p.Page.QuerySelector("#d-to")!.GetAttribute("name")!,
            p.Page.QuerySelectorAll("#d-to option").OfType<IHtmlOptionElement>().First(o => o.TextContent.Contains("September", StringComparison.Ordinal))
            .Value));
        Assert.Equal(edition.Id, Piece("Moved by hand").EditionId);
        await p.Open($"/desk/editions/{edition.Id.Value}");
        p.Says("Moved by hand");

        await p.Open("/desk/import");
        await p.Press(p.Page.QuerySelector("[name=List]")!.Closest("form")!.QuerySelector("button")!.TextContent.Trim(),
            ("List", "First film https://v.example/1\nno address"), ("Piece", "Films brought in"));
        for (var watch = System.Diagnostics.Stopwatch.StartNew();
            !p.Text.Contains("Would make", StringComparison.Ordinal) && watch.Elapsed < TimeSpan.FromSeconds(60);) await p.Open(p.At.PathAndQuery);
        p.Says("list:2");
        await p.Press("Do it");
        for (var watch = System.Diagnostics.Stopwatch.StartNew();
            !p.Text.Contains("Made ", StringComparison.Ordinal) && watch.Elapsed < TimeSpan.FromSeconds(60);) await p.Open(p.At.PathAndQuery);
        Assert.Equal(
            "https://v.example/1",
            ((Block.Video)(await site.Db(db => db.LessonContents.AsNoTracking()
                .SingleAsync(c => c.LessonId == Piece("Films brought in").Outline.Lessons[0].Id)))
            .Blocks[0]).Recording.Url);

        await p.Open("/desk/settings/content");
        await p.Press("Save", ("DocumentKinds", "pdf, exe"));
        p.Says("exe");
        await p.Press("Save", ("DocumentKinds", string.Join(' ', Site.DefaultDocumentKinds)));
        p.Says("Saved");
    }

    [Fact]
    public async Task A_member_takes_part_without_scripts_and_the_team_answers()
    {
        using var m = new Plain(site.App.Url);
        await m.SignIn(SeedDemo.MemberEmail, SeedDemo.MemberPassword);
        var course = Piece("Three quiet winter checks");
        var hose = course.Outline.Lessons.Single(l => l.Title == "Listening with a hose");
        await m.Open($"/lessons/{hose.Id.Value}");
        var before = (await site.Db(db => db.TallyMarks.CountAsync()));
        await m.Press("I did it: Hive checks");
        m.Says("Hive checks:");
        Assert.Equal(before + 1, await site.Db(db => db.TallyMarks.CountAsync()));
        await m.Press("Keep it", ("text", "A plain note."));
        m.Says("Your note is kept");
        await m.Press("Ask", ("text", "Is a plain question fine?"));
        m.Says("Is a plain question fine?");
        // The sheet shows what was wrong, and begins again.
        await m.Open($"/lessons/{course.Outline.Lessons.Single(l => l.Title == "How much is enough?").Id.Value}");
        if (m.Text.Contains("Try again", StringComparison.Ordinal)) await m.Press("Try again");
        await m.Press("Hand in");
        Assert.NotEmpty(m.Page.QuerySelectorAll(".is-right, .is-wrong, .question"));

        using var o = await site.Owner();
        await o.Open("/desk/questions");
        o.Says("Is a plain question fine?");
        var article = o.Page.QuerySelectorAll("article").First(a => a.TextContent.Contains("plain question", StringComparison.Ordinal));
        await o.Press("Answer", ("question", article.QuerySelector("[name=question]")!.GetAttribute("value")), ("text", "It is."));
        await o.Open("/desk/questions?all=true");
        o.Says("It is.");
        await m.Open($"/lessons/{hose.Id.Value}");
        m.Says("It is.");
        await o.Open("/desk/tallies");
        o.Says("Hive checks");
    }

    [Fact]
    public async Task A_piece_with_places_gives_the_last_one_once_and_the_next_moves_up()
    {
        using var o = await site.Owner();
        var course = Piece("Making fondant at home");
        await o.Open($"/desk/pieces/{course.Id.Value}/facts");
        await o.Press("Save", ("Places", "1"));
        var others = await site.Db(db => db.Holdings.Where(h => !h.IsOver).Select(h => h.MemberId).Distinct().Take(2).ToListAsync());
        await using (var scope = site.App.Services.CreateAsyncScope())
        {
            var (now, moment) = (site.App.Services.GetRequiredService<Catalogue>().Now, site.App.Services.GetRequiredService<HouseClock>().Moment);
            foreach (var member in others)
            {
                var someone = (await scope.ServiceProvider.GetRequiredService<MemberReader>().Load(member.Value, default))!;
                var place = PlaceReader.For(now, member, MemberFacts.From(someone.Holdings, moment, someone.Places), course.Id, moment)!;
                await scope.ServiceProvider.GetRequiredService<PiecePlaces>().Take(place, default);
            }
        }
        await o.Open($"/desk/pieces/{course.Id.Value}/places");
        o.Says("1 of 1 taken, 1 person waits");
        await o.Press("Free it");
        o.Says("1 of 1 taken, 0 people wait");
        Assert.Equal(others[1], await site.Db(db => db.PiecePlaces.Where(p => p.PieceId == course.Id).Select(p => p.MemberId).SingleAsync()));
        await o.Open($"/desk/pieces/{course.Id.Value}/facts");
        await o.Press("Save", ("Places", ""));
        await o.Open($"/desk/pieces/{course.Id.Value}/places");
        o.Says("this piece has no limit");
    }

    [Fact]
    public async Task What_a_visitor_sees_is_kept_sets_no_cookie_and_is_new_as_soon_as_something_changes()
    {
        // Every request with nothing of the one before it, as of somebody who comes for the first time.
        using var http = new HttpClient(new HttpClientHandler { UseCookies = false }) { BaseAddress = new(site.App.Url) };
        var kept = false;
        // The minute of the house clock may end between two requests, not between all of them.
        for (var i = 0; i < 4 && !kept; i++)
        {
            using var answer = await http.GetAsync("/tiers");
            Assert.False(answer.Headers.Contains("Set-Cookie"));
            kept = answer.Headers.Age is not null;
        }
        Assert.True(kept, "the page was made anew each time");
        using var p = await site.Owner();
        var before = site.Catalogue.Now.Plans[1].Description;
        var address = $"/desk/tiers/{site.Catalogue.Now.Plans[1].Id.Value}";
        await p.Open(address);
        await p.Press("Save", ("Description", "For whoever keeps count."));
        Assert.Contains("For whoever keeps count.", await http.GetStringAsync("/tiers"), StringComparison.Ordinal);
        // Whoever is signed in is answered for themselves.
        using (var own = await p.Get("/tiers")) Assert.Null(own.Headers.Age);
        await p.Open(address);
        await p.Press("Save", ("Description", before));
        Assert.Contains(before, System.Net.WebUtility.HtmlDecode(await http.GetStringAsync("/tiers")), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_promise_is_changed_for_newcomers_then_for_all_and_back()
    {
        using var p = await site.Owner();
        var plan = site.Catalogue.Now.Plans.Single(x => x.Name == "Meadow");
        await p.Open($"/desk/tiers/{plan.Id.Value}/promise");
        p.Says("Everything on Hive records");
        await p.Press("Promise something more");
        await p.Press("Work out for whom", ("Lines[1].Covers", "one"), ("Lines[1].Thing", "Nothing like it"));
        p.Says("There is nothing called “Nothing like it”");
        await p.Press("Work out for whom", ("Lines[1].Thing", "Making fondant at home"), ("Lines[1].Pace.Kind", "steps"), ("Lines[1].Pace.Every", "often"));
        p.Says("“often” isn’t a number");
        await p.Press("Work out for whom", ("Lines[1].Pace.Every", "3"), ("Lines[1].Ends", "2"), ("Lines[1].Keep", "period"), ("Lines[1].NeedPlan", "0"));
        p.Says("could open");
        p.Says("one lesson every 3 days at 09:00");
        p.Says("for 2 months from joining");
        await p.Press("Up: line 2");
        Assert.Equal("one", p.Page.QuerySelector("[name='Lines[0].Covers'] option[selected]")!.GetAttribute("value"));
        await p.Press("Save for those who join from now");
        p.Says("Saved, for those who join Meadow from now on");
        p.Says("Version 2, since");
        await p.Press("Move them to version 2");
        p.Says("They are moved");
        await p.Press("Take it back");
        p.Says("Taken back");
        p.Says("live by version 1");
        await p.Press("Take out: line 1");
        await p.Press("Save for all");
        p.Says("Meadow has it");
        Assert.Equal(3, site.Catalogue.Now.PlanById[plan.Id].PromiseNumber);
    }

    [Fact]
    public async Task A_course_is_laid_out_along_the_time_and_a_part_moved()
    {
        using var p = await site.Owner();
        var course = Piece("Three quiet winter checks");
        await p.Open($"/desk/pieces/{course.Id.Value}/pace?for=cohort-{site.Catalogue.Now.Paces.Cohorts[0].Id.Value}");
        var third = course.Outline.Lessons[2].Id.Value;
        await p.Press("Work out for whom", ("Form.Kind", "steps"), ("Form.Every", "2"), ("Form.From", "Cohort"));
        Assert.Equal(9, p.Page.QuerySelectorAll(".pace-dot").Length);
        await p.Press("Work out for whom", ($"Moves[{third}]", "soon"));
        p.Says("“soon” isn’t a day");
        await p.Press("Work out for whom", ($"Moves[{third}]", "6"));
        p.Says("2 parts open at one moment, on day 6");
        await p.Press("Save for the cohort");
        p.Says("Saved: one lesson every 2 days at 09:00");
        Assert.Equal(6, site.Catalogue.Now.Paces.TimelinesOf[course.Id].Single().Moves[new(third)]);
        await p.Press("Save for the cohort", ("Form.Kind", ""));
        p.Says("no pace of its own");
        Assert.Empty(site.Catalogue.Now.Paces.TimelinesOf[course.Id]);
        await p.Press("Save that", ("windows[piece].Until", "2020-13-01"));
        p.Says("isn’t a date and time");
        await p.Press("Save that", ("windows[piece].Until", ""), ("HidesComing", "true"));
        Assert.True(Piece("Three quiet winter checks").HidesComing);
        await p.Press("Save that", ("HidesComing", null));
        await p.Open($"/desk/pieces/{course.Id.Value}/cohorts");
        await p.Press("Add it", ("name", "Spring"), ("starts", "2027-03-01T09:00"));
        p.Says("Spring is saved");
        // As the one before, it has a space; as long as it does, it stays.
        Assert.Null(p.Page.QuerySelectorAll("button").FirstOrDefault(b => b.TextContent.Contains("Take Spring away", StringComparison.Ordinal)));
        await p.Open(p.Link("Three quiet winter checks, Spring"));
        p.Says("Three quiet winter checks with Spring, as long as it is open to them");
        Assert.Null(p.Page.QuerySelector("[name=ForGuests]"));
        await p.Press("Save", ("Door", "For those of spring."));
        p.Says("It is saved.");
        await p.Press("Take this space away");
        await p.Open($"/desk/pieces/{course.Id.Value}/cohorts");
        await p.Press("Give it a space: Spring");
        p.Says("They have a space");
        await p.Open(p.Link("Three quiet winter checks, Spring"));
        await p.Press("Take this space away");
        await p.Open($"/desk/pieces/{course.Id.Value}/cohorts");
        await p.Press("Take Spring away");
        p.Says("It is gone");
    }

    [Fact]
    public async Task The_site_is_seen_as_somebody_else_sees_it_on_another_day()
    {
        using var p = await site.Owner();
        var price = site.Catalogue.Now.Prices.Single(x => x.Name == "In three parts");
        await p.Open("/desk/look");
        await p.Press("Look", ("By", $"price-{price.Id.Value}"), ("Joined", "then"));
        p.Says("on which day they joined");
        await p.Press("Look", ("Joined", "2026-11-20"), ("At", "2026-12-05T10:00"));
        p.Says("somebody with First Winter, In three parts, since 20 November 2026");
        p.Says("on Sat 5 Dec, 10:00");
        var course = Piece("Three quiet winter checks");
        // Since 20 November: the third on 4 December is open, the fourth comes on the 11th.
        await p.Open($"/lessons/{course.Outline.Lessons[2].Id.Value}");
        Assert.DoesNotContain("Opens for you", p.Text, StringComparison.Ordinal);
        await p.Open($"/lessons/{course.Outline.Lessons[3].Id.Value}");
        p.Says("Opens Friday, 11 December at 09:00: part 4 of Three quiet winter checks");
        await p.Open("/desk/look");
        await p.Press("Look", ("Who", "visitor"), ("At", ""));
        p.Says("as a visitor");
        await p.Open($"/lessons/{course.Outline.Lessons[3].Id.Value}");
        p.Says("This one comes with");
        await p.Press("Back to the Desk");
        Assert.Equal("/desk", p.At.AbsolutePath);
        await p.Open("/desk/look");
        await p.Press("Look", ("Who", "member"), ("Email", "nobody@tests.example"));
        p.Says("No member has the address");
        await p.Open("/desk/doors?show=everybody");
        p.Says("a teaser of");
        Assert.Contains("open, bit by bit", await (await p.Get("/desk/doors?handler=csv")).Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_plan_has_a_page_of_its_own_with_what_is_inside()
    {
        using var p = new Plain(site.App.Url);
        await p.Open("/tiers");
        await p.Open(p.Link("First Winter"));
        p.Says("1 piece for whoever joins First Winter today");
        // The owner wrote this page: voices, questions, and what is inside and what it costs worked out.
        p.Says("Do I need to be a member?");
        p.Says("One lesson every 7 days at 09:00.");
        var keeper = site.Catalogue.Now.Plans.Single(x => x.Name == "Keeper");
        await p.Open($"/tiers/{keeper.Id.Value}");
        p.Says("and everything new");
        // From the month they join: as many as November's edition has, and what stands outside the months.
        var inside = site.Catalogue.Now.Pieces.Count(
            x => x.ReleasedAt is not null && !site.Catalogue.Now.IsQuiet(x.Id) && site.Catalogue.Now.Book.GivesPartOf(
            keeper.Id, x.Id, site.App.Services.GetRequiredService<NodaTime.IClock>().GetCurrentInstant()));
        p.Says($"{inside} pieces for whoever joins today");
        Assert.Equal(Math.Min(12, inside), p.Page.QuerySelectorAll(".piece-card").Length);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await p.Get("/tiers/12")).StatusCode);
    }
}
