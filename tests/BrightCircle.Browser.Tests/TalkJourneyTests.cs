using BrightCircle.App.Demo;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using OpenQA.Selenium;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Talking on a phone: words are kept while they are typed, and what others say arrives by itself.</summary>
[Collection("demo")]
public class TalkJourneyTests
{
    readonly DemoSite site;
    readonly SiteSteps s;
    readonly Browser b;

    public TalkJourneyTests(DemoSite site)
    {
        (this.site, b) = (site, site.Browser);
        s = new(b, site.App.Url);
        b.Dark(false);
    }

    /// <summary>A thread that fits on one page, in the space members talk in.</summary>
    Task<(long Space, long Thread, string Title)> OneThread() => site.Db(async db =>
    {
        var space = site.Catalogue.Now.Spaces.Single(x => x.Name == SeedDemo.Bench).Id;
        var thread = await db.TalkThreads.Where(t => t.SpaceId == space && t.HiddenAt == null && t.ClosedAt == null && t.Answers < 20)
            .OrderByDescending(t => t.LastAt).FirstAsync();
        return (space.Value, thread.Id, thread.Title);
    });

    [Fact]
    public async Task What_is_typed_is_there_again_and_what_is_answered_meanwhile_arrives_beside_it()
    {
        var (_, thread, title) = await OneThread();
        b.Phone();
        s.AsMirela();
        s.Go($"/spaces/threads/{thread}");
        b.Type("Body", "I would wait for a day without wind");
        b.WaitUntil(() => b.Words("[data-kept]").StartsWith("Kept", StringComparison.Ordinal), "what is typed is kept");
        s.Go("/spaces");
        b.WaitFor("What you began to write");
        b.Click(By.XPath($"//h2[contains(., 'What you began')]/following::a[contains(., \"{title}\")]"));
        b.WaitForPath($"/spaces/threads/{thread}");
        Assert.Equal("I would wait for a day without wind", b.Value("#Body"));
        b.WaitUntil(() => b.Driver.FindElements(By.CssSelector("#live[data-open]")).Count == 1, "the thread is listened to");
        b.Driver.ExecuteScript("document.documentElement.dataset.before = '1'");
        using (var owner = await site.Owner())
        {
            await owner.Open($"/spaces/threads/{thread}");
            await owner.Press("Send", ("Body", "Tuesday looks *still*."));
        }
        b.WaitUntil(() => b.Words("#posts article:last-child").Contains("Tuesday looks still.", StringComparison.Ordinal), "the answer arrives");
        // The page is the same one, and nothing of what was typed is gone.
        Assert.Single(b.Driver.FindElements(By.CssSelector("html[data-before]")));
        Assert.Equal("I would wait for a day without wind", b.Value("#Body"));
        Assert.Contains("team", b.Words("#posts article:last-child .who"), StringComparison.Ordinal);
        Assert.Empty(b.Violations());
        b.Leaving(() => b.Press("Send"));
        b.WaitFor("I would wait for a day without wind");
        Assert.Equal("", b.Value("#Body"));
        s.Go("/spaces");
        b.WaitFor("Spaces");
        Assert.DoesNotContain("What you began to write", b.Text, StringComparison.OrdinalIgnoreCase);
        b.Desktop();
    }

    [Fact]
    public async Task Without_a_script_a_button_keeps_it_and_another_throws_it_away()
    {
        var (space, thread, title) = await OneThread();
        using var mirela = new Plain(site.App.Url);
        await mirela.SignIn(SeedDemo.MemberEmail, SeedDemo.MemberPassword);
        var answered = await site.Db(db => db.TalkPosts.Where(p => p.ThreadId == thread && !p.IsFirst && p.GoneAt == null && p.AccountId != null
            && !db.Users.Any(u => u.Id == p.AccountId && u.Email == SeedDemo.MemberEmail)).OrderBy(p => p.Id).FirstAsync());
        await mirela.Open($"/spaces/threads/{thread}?answers={answered.Id}");
        await mirela.Press("Keep it for later", ("Body", "> quoted\n\nTwo things"));
        mirela.Says("It is kept, for you only, until you send it.");
        mirela.Says($"To {answered.Name}.");
        Assert.Equal("> quoted\n\nTwo things", mirela.Page.QuerySelector("#Body")!.TextContent.ReplaceLineEndings("\n"));
        await mirela.Open("/spaces");
        mirela.Says($"What you began to write {title}");
        await mirela.Open($"/spaces/threads/{thread}");
        await mirela.Press("Throw it away");
        Assert.Equal("", mirela.Page.QuerySelector("#Body")!.TextContent);
        // The same for what begins a thread; too long isn't kept, and isn't lost.
        await mirela.Open($"/spaces/{space}/begin");
        await mirela.Press("Keep it for later", ("Title", "Frost"), ("Body", "Tonight?"));
        await mirela.Open($"/spaces/{space}/begin");
        Assert.Equal(("Frost", "Tonight?"), (mirela.Page.QuerySelector("#Title")!.GetAttribute("value"),
            mirela.Page.QuerySelector("#Body")!.TextContent.Trim()));
        await mirela.Press("Keep it for later", ("Body", new string('a', TalkPost.MostBody + 1)));
        mirela.Says("That is too long.");
        Assert.Equal(TalkPost.MostBody + 1, mirela.Page.QuerySelector("#Body")!.TextContent.Trim().Length);
        await mirela.Open($"/spaces/{space}/begin");
        await mirela.Press("Throw it away");
        Assert.Equal("", mirela.Page.QuerySelector("#Body")!.TextContent);
    }

    [Fact]
    public async Task The_owner_sees_what_nobody_has_answered_and_is_written_to_about_it_or_not()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/talk");
        owner.Says("Nobody has answered yet");
        await owner.Press("Write to me in the morning");
        owner.Says("You get a letter in the morning where something waits.");
        await owner.Press("No letter about them");
        owner.Says("No letter is written about it.");
    }
}
