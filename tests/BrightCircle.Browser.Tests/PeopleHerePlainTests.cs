using System.Net;
using BrightCircle.App.Demo;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>A member puts up a card and is found with it, chooses in a thread that asks for it, and asks for a choice; the owner says whether anybody is
/// found.</summary>
[Collection("demo")]
public class PeopleHerePlainTests(DemoSite site)
{
    async Task<Plain> Mirela()
    {
        var mirela = new Plain(site.App.Url);
        await mirela.SignIn(SeedDemo.MemberEmail, SeedDemo.MemberPassword);
        return mirela;
    }

    [Fact]
    public async Task A_card_is_changed_and_others_find_it_until_the_owner_lets_nobody_be_found()
    {
        using var mirela = await Mirela();
        using var owner = await site.Owner();
        await mirela.Open("/me/account");
        await mirela.Open(mirela.Link("See and change how others see you"));
        await mirela.Press("Save", ("Line", new string('x', 161)));
        mirela.Says("160 letters are the most.");
        Assert.Equal(161, mirela.Page.QuerySelector("#Line")!.GetAttribute("value")!.Length);
        await mirela.Press("Save", ("Line", "Three hives now, and a ladder."), ("CardPlace", "by the lock"));
        mirela.Says("It is kept.");
        await owner.Open("/people?q=ladder");
        owner.Says("1 person");
        await owner.Open(owner.Link("Mirela Duarte"));
        owner.Says("by the lock");
        // Taken down, and put up again by whoever it is of.
        await owner.Press("Take this card down");
        owner.Says("The card is taken down.");
        await owner.Open("/people?q=ladder");
        owner.Says("Nobody of those who want to be found fits that.");
        await mirela.Open("/me/shown");
        await mirela.Press("Save", ("Shown", "true"));
        await owner.Open("/people?q=ladder");
        owner.Says("1 person");

        await owner.Open("/desk/spaces");
        await owner.Press("Show nobody any more");
        owner.Says("Nobody is shown any more.");
        await mirela.Open("/people");
        mirela.Says("Nobody is shown here.");
        var herself = await site.Db(db => db.Users.Where(u => u.Email == SeedDemo.MemberEmail).Select(u => u.Id).SingleAsync());
        Assert.Equal(HttpStatusCode.NotFound, (await mirela.Get($"/people/{herself}")).StatusCode);
        await mirela.Open("/spaces");
        Assert.DoesNotContain("People here", mirela.Text, StringComparison.Ordinal);
        await mirela.Open("/me/shown");
        Assert.Null(mirela.Page.QuerySelector("#Line"));
        // What isn't asked meanwhile stays as it was.
        await mirela.Press("Save", ("UnnamedAfter", "true"));
        await owner.Open("/desk/spaces");
        await owner.Press("Let members find one another");
        await owner.Open("/people?q=ladder");
        owner.Says("1 person");
        await mirela.Open("/me/shown");
        await mirela.Press("Save", ("UnnamedAfter", "false"));
    }

    [Fact]
    public async Task One_of_the_choices_is_chosen_and_then_another_and_how_many_shows_afterwards_only()
    {
        using var mirela = await Mirela();
        var thread = await site.Db(db => db.TalkThreads.Where(t => t.Choices != null && t.ClosedAt == null).OrderBy(t => t.Id).Select(t => t.Id).FirstAsync());
        var path = $"/spaces/threads/{thread}";
        await site.Db(db => db.TalkVotes.Where(v => v.ThreadId == thread && db.Users.Any(u => u.Id == v.AccountId && u.Email == SeedDemo.MemberEmail))
            .ExecuteDeleteAsync());
        await mirela.Open(path);
        mirela.Says("How many chose what shows once you have chosen.");
        await mirela.Press("Sunday at five");
        mirela.Says("It is counted.");
        mirela.Says("Sunday at five · yours");
        await mirela.Press("Tuesday at seven");
        mirela.Says("Tuesday at seven · yours");
        Assert.Equal(1, await site.Db(db => db.TalkVotes.CountAsync(v => v.ThreadId == thread
            && db.Users.Any(u => u.Id == v.AccountId && u.Email == SeedDemo.MemberEmail))));
    }

    [Fact]
    public async Task A_thread_is_begun_with_something_to_choose_from_and_one_line_alone_is_asked_about()
    {
        using var mirela = await Mirela();
        var space = site.Catalogue.Now.Spaces.Single(x => x.Name == SeedDemo.Bench).Id.Value;
        await mirela.Open($"/spaces/{space}/begin");
        await mirela.Press("Put it up", ("Title", "Which lid?"), ("Body", "I can only carry one."), ("Choices", "The flat one"));
        mirela.Says("two at least");
        Assert.Equal("The flat one", mirela.Page.QuerySelector("#Choices")!.TextContent.Trim());
        await mirela.Press("Put it up", ("Choices", "The flat one\nThe gabled one"));
        mirela.Says("The gabled one");
        mirela.Says("How many chose what shows once you have chosen.");
        await mirela.Press("Take away");
    }

    [Fact]
    public async Task Beside_a_course_stands_its_space_and_its_next_session_for_whom_they_are_open()
    {
        var course = site.Catalogue.Now.Pieces.Single(p => p.Title == "Three quiet winter checks").Id.Value;
        using var mirela = await Mirela();
        await mirela.Open($"/read/{course}");
        mirela.Says("Together");
        await mirela.Open(mirela.Link("Beside the winter checks"));
        mirela.Says("How hard do you knock?");
        using var stranger = new Plain(site.App.Url);
        await stranger.Open($"/read/{course}");
        Assert.DoesNotContain("Beside the winter checks", stranger.Text, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Where_holders_meet_elsewhere_is_shown_to_them_and_asked_for_whole()
    {
        using var mirela = await Mirela();
        foreach (var path in new[] { "/spaces", "/me/account" })
        {
            await mirela.Open(path);
            Assert.Equal("https://rides.example/tansy-lane", mirela.Link("The Saturday round"));
        }
        var keeper = site.Catalogue.Now.Plans.Single(p => p.GroupLink.Length > 0).Id;
        using var owner = await site.Owner();
        await owner.Open($"/desk/tiers/{keeper.Value}");
        await owner.Press("Save", ("GroupLink", "http://rides.example/tansy-lane"));
        owner.Says("Write the whole address, beginning with https://.");
        Assert.Equal("http://rides.example/tansy-lane", owner.Page.QuerySelector("#GroupLink")!.GetAttribute("value"));
    }

    [Fact]
    public async Task Two_members_write_to_each_other_once_both_want_it_and_the_team_reads_only_what_is_reported()
    {
        using var mirela = await Mirela();
        using var owner = await site.Owner();
        var her = await site.Db(db => db.Members.Where(m => m.Email == SeedDemo.MemberEmail).Select(m => m.Id).SingleAsync());
        // Somebody has asked her, and she hasn't looked at it; other tests have.
        await site.Db(db => db.ExchangePeople.Where(p => p.MemberId == her && !p.Asked && db.Exchanges.Any(e => e.Id == p.ExchangeId && e.AgreedAt == null))
            .ExecuteUpdateAsync(u => u.SetProperty(p => p.SeenAt, (NodaTime.Instant?)null)));
        await mirela.Open("/me");
        mirela.Says("Somebody wrote to you.");
        await mirela.Open(mirela.Link("Read it"));
        var asks = mirela.Page.QuerySelectorAll("a.talk").Single(a => a.TextContent.Contains("asks to write to you",
            StringComparison.Ordinal)).GetAttribute("href")!;
        await mirela.Open(asks);
        mirela.Says("a jack it could lean on");
        await mirela.Press("Yes, write to each other");
        mirela.Says("You can write to each other now.");
        await mirela.Press("Send", ("Body", " "));
        mirela.Says("Write something first.");
        await mirela.Press("Send", ("Body", "It leans on its own. Come and see."));
        mirela.Says("It leans on its own. Come and see.");
        // With a picture, and what she calls it; what isn't one is refused, and her words stay.
        mirela.Attach("Pictures", "hive.png", "no picture"u8.ToArray());
        await mirela.Press("Send", ("Body", "Here it is."));
        mirela.Says("hive.png isn’t taken");
        Assert.Equal("Here it is.", mirela.Page.QuerySelector("#Body")!.TextContent.Trim());
        mirela.Attach("Pictures", "hive.png", DemoMedia.Shown("row"));
        await mirela.Press("Send", ("Alt", "The hive on its stand"));
        var picture = mirela.Page.QuerySelector("img[alt='The hive on its stand']")!.GetAttribute("src")!;
        Assert.Equal("image/webp", (await mirela.Get(picture)).Content.Headers.ContentType!.MediaType);
        // Neither the owner nor another member comes in there, and nothing shows of it to the team that looks as her.
        Assert.Equal(HttpStatusCode.NotFound, (await owner.Get(asks)).StatusCode);
        await mirela.Press("Hear nothing more from them");
        mirela.Says("nothing comes");
        await mirela.Press("Open it again");
        await mirela.Open(mirela.Link("Report"));
        await mirela.Press("Show it", ("Why", ""));
        mirela.Says("Say in a few words what is wrong with it.");
        await mirela.Press("Show it", ("Why", "They want to sell me a jack."));
        mirela.Says("The team has it, and answers here.");
        var herself = await site.Db(db => db.Users.Where(u => u.Email == SeedDemo.MemberEmail).Select(u => u.Id).SingleAsync());
        await owner.Open($"/desk/inbox/{herself}");
        owner.Says("They want to sell me a jack.");
        owner.Says("a jack it could lean on");
        Assert.DoesNotContain("Come and see", owner.Text, StringComparison.Ordinal);
        // She asks somebody in turn; who takes no words isn't asked.
        var known = (await site.Db(db => db.ExchangePeople.Select(p => p.MemberId).ToListAsync())).ConvertAll(m => m.Value);
        var other = await site.Db(db => db.PersonCards.Where(c => c.Shown && c.TakesWords && c.AccountId != herself && !known.Contains(c.AccountId))
            .OrderBy(c => c.AccountId).Select(c => c.AccountId).FirstAsync());
        await mirela.Open($"/people/{other}");
        await mirela.Press("Ask to write", ("Body", "Which lids do you use?"));
        mirela.Says("You have asked. Once they say yes, you can write to each other.");
        var closed = await site.Db(db => db.PersonCards.Where(c => c.Shown && !c.TakesWords && c.AccountId != herself && !known.Contains(c.AccountId))
            .OrderBy(c => c.AccountId).Select(c => c.AccountId).FirstAsync());
        await mirela.Open($"/people/{closed}");
        Assert.Null(mirela.Page.QuerySelector("#Body"));
        // The owner lets nobody write any more: what was written can be read.
        await owner.Open("/desk/spaces");
        await owner.Press("Let nobody write any more");
        await mirela.Open(asks);
        mirela.Says("Members don’t write to one another here just now.");
        await mirela.Open($"/people/{other}");
        Assert.DoesNotContain("What you write to each other", mirela.Text, StringComparison.Ordinal);
        await owner.Press("Let members write to one another");
    }

    [Fact]
    public async Task Files_go_both_ways_between_a_member_and_the_team()
    {
        using var mirela = await Mirela();
        using var owner = await site.Owner();
        await mirela.Open("/me/messages");
        mirela.Attach("Pictures", "jar.png", DemoMedia.Shown("jars"));
        await mirela.Press("Send", ("Body", ""), ("Alt", "The jar, broken"));
        mirela.Says("It is with us.");
        Assert.NotNull(mirela.Page.QuerySelector("img[alt='The jar, broken']"));
        var herself = await site.Db(db => db.Users.Where(u => u.Email == SeedDemo.MemberEmail).Select(u => u.Id).SingleAsync());
        await owner.Open("/desk/inbox");
        owner.Says("A picture or a file");
        await owner.Open($"/desk/inbox/{herself}");
        Assert.NotNull(owner.Page.QuerySelector("img[alt='The jar, broken']"));
        // What was chosen stays while an answer kept is put in.
        owner.Attach("Pictures", "label.pdf", "%PDF-1.4\n1 0 obj << >> endobj\ntrailer << >>\n%%EOF\n"u8.ToArray());
        await owner.Press("Put it in: the answer");
        owner.Says("label.pdf");
        await owner.Press("Send");
        owner.Says("gets it, here and by letter");
        await mirela.Open("/me/messages");
        Assert.Equal("label.pdf", mirela.Page.QuerySelectorAll("a[download]")[^1].GetAttribute("download"));
    }

    [Fact]
    public async Task Whoever_begins_with_others_is_told_where_they_talk()
    {
        using var owner = await site.Owner();
        var (tilda, email) = await site.Newcomer("Tilda Reed");
        using var _ = tilda;
        await tilda.Open("/welcome");
        Assert.DoesNotContain("Whoever begins with you", tilda.Text, StringComparison.Ordinal);
        var id = await site.Db(async db => (await db.Members.SingleAsync(m => m.Email == email)).Id.Value);
        var plan = site.Catalogue.Now.Plans.Single(p => p.Name == "Winter together").Id.Value;
        await owner.Open($"/desk/members/{id}/give");
        await owner.Press("Give it", ("Plan", $"{plan}"));
        await tilda.Open($"/welcome?plan={plan}");
        tilda.Says("Whoever begins with you talks in");
        await tilda.Open(tilda.Link("Three quiet winter checks, December 2026"));
        tilda.Says("For everybody who starts Three quiet winter checks together");
    }

    [Fact]
    public async Task A_browser_takes_the_place_of_letters_about_talk_where_its_owner_says_so()
    {
        using var mirela = await Mirela();
        await site.Db(async db =>
        {
            var her = await db.Members.Where(m => m.Email == SeedDemo.MemberEmail).Select(m => m.Id).SingleAsync();
            db.PushDevices.Add(new()
            {
                Id = 4_311,
                MemberId = her,
                Endpoint = "https://push.example/4311",
                Key = [4],
                Secret = [1],
                At = NodaTime.Instant.FromUtc(2026, 11, 2, 9, 0),
            });
            return await db.SaveChangesAsync();
        });
        await mirela.Open("/me/notices");
        var button = mirela.Page.QuerySelectorAll("button").Single(b => b.TextContent == "Instead of letters").GetAttribute("aria-label")!;
        await mirela.Press(button);
        mirela.Says("comes by letter only if it can’t");
        mirela.Says("about talk and messages no letters come");
        await mirela.Press(button.Replace("Instead of letters", "Letters too", StringComparison.Ordinal));
        mirela.Says("It shows there, and comes by letter too.");
        await mirela.Press(button.Replace("Instead of letters", "No more there", StringComparison.Ordinal));
        mirela.Says("Nothing shows there any more.");
    }
}
