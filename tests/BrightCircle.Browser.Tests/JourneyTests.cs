using System.Text.RegularExpressions;
using BrightCircle.App.Demo;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using OpenQA.Selenium;
using Xunit;

namespace BrightCircle.Browser.Tests;

[Collection("demo")]
public partial class JourneyTests
{
    readonly DemoSite site;
    readonly SiteSteps s;
    readonly Browser b;

    public JourneyTests(DemoSite site)
    {
        (this.site, b) = (site, site.Browser);
        s = new(b, site.App.Url);
        b.Desktop();
        b.Dark(false);
        s.Go("/");
        b.Forget();
    }

    [Fact]
    public async Task The_whole_way()
    {
        var (good, bad) = (House.NewAddress(), House.NewAddress());

        // A visitor joins on a phone and is at once in this month's edition.
        b.Phone();
        s.Join("keeper-month", "Wren Tarn", good, DemoTill.Approves);
        b.WaitFor("Welcome, Wren");
        b.Press("Start reading");
        b.WaitForPath("/read/");
        b.Press("Begin: ");
        b.Press("Done");

        // From the letter's link, on another phone.
        var link = SiteSteps.LinkIn(await SiteSteps.Letter(good, "Welcome to Tansy Lane"), "/in/");
        b.Forget();
        b.Open(link);
        // Whoever only looks, as mail scanners do with scripts and all, uses nothing up.
        b.WaitFor("One press");
        b.Open(link);
        b.Press("Come in");
        b.WaitForPath("/read/");
        b.WaitFor("Making fondant");
        b.Forget();
        b.Open(link);
        b.WaitFor("This link has done its work");

        // Another joins with the card that fails later.
        b.Desktop();
        s.Go("/");
        b.Forget();
        s.Join("keeper-month", "Ansel Felt", bad, DemoTill.FailsLater);
        b.WaitFor("Welcome, Ansel");

        // The owner sees both, active.
        s.AsOwner();
        s.Go("/desk/members?q=" + Uri.EscapeDataString(good));
        Assert.Contains("active", b.Words("table"), StringComparison.Ordinal);

        // To the next 1st: the edition opens and is announced. On to the 24th: one renews, the other is in grace, a week later lapsed.
        s.MoveOn("To the next 1st");
        b.WaitFor("Editions opened");
        await SiteSteps.Letter(good, "December: candles and counting");
        for (var i = 0; i < 4; i++) s.MoveOn("By a week");
        s.Go("/desk/members?q=" + Uri.EscapeDataString(bad));
        Assert.Contains("grace", b.Words("table"), StringComparison.Ordinal);
        s.Go("/desk/members?q=" + Uri.EscapeDataString(good));
        b.Click("table.t tbody a");
        b.WaitFor("2 payments");
        s.MoveOn("By a week");
        s.Go("/desk/members?q=" + Uri.EscapeDataString(bad));
        Assert.Contains("lapsed", b.Words("table"), StringComparison.Ordinal);
        FiguresAgree();

        // Locked out, with a doorway that says how to come back; comes back with another card. What had opened stays.
        var back = SiteSteps.LinkIn(await SiteSteps.Letter(bad, "Your Keeper has ended"), "/in/");
        b.Forget();
        b.Open(back);
        b.Press("Come in");
        b.WaitForPath("/me/account");
        b.WaitFor("Come back to Keeper");
        var before = site.Catalogue.Now.Pieces.First(p => p.Title == "Ivy: the last table");
        var kept = site.Catalogue.Now.Pieces.First(p => p.Title == "Making fondant at home");
        s.Go($"/read/{kept.Id.Value}");
        b.WaitFor("Watch the thermometer");
        s.Go($"/read/{before.Id.Value}");
        b.WaitFor("It opens again as soon as you come back");
        Assert.DoesNotContain("plaster", b.Driver.PageSource, StringComparison.Ordinal);
        s.Go("/me/account");
        b.Press("Come back to Keeper");
        b.Press("Go on");
        s.Agree();
        b.Press("Pay £18.00");
        s.PayOnTill(DemoTill.Approves);
        b.WaitFor("Welcome, Ansel");

        // The first is refunded, and the figures still agree with the lists behind them.
        s.AsOwner();
        s.Go("/desk/payments?q=" + Uri.EscapeDataString(good));
        b.Click("table.t tbody a");
        b.WaitFor("Give money back");
        b.Press("Give back");
        b.WaitFor("refunded");
        Assert.Contains("refunds", b.Text, StringComparison.Ordinal);
        await SiteSteps.Letter(good, "is on its way back to you");
        FiguresAgree();
    }

    [Fact]
    public void The_owner_looks_as_a_member_and_changes_nothing()
    {
        s.AsOwner();
        s.Go("/desk/members?q=mirela.duarte");
        b.Click("table.t tbody a");
        b.WaitFor("Life line");
        b.Press("View as Mirela");
        b.WaitFor("You see the site as Mirela Duarte does");
        s.Go("/me/account");
        b.Submit("#Address");
        b.WaitFor("You’re only looking");
        s.Go("/me");
        b.Press("Back to the Desk");
        b.WaitFor("Life line");
        s.Go("/me");
        Assert.DoesNotContain("You see the site as", b.Text, StringComparison.Ordinal);
    }

    [Fact]
    public void A_member_signs_out_everywhere_and_a_password_is_changed()
    {
        s.AsMirela();
        var cookie = b.Driver.Manage().Cookies.GetCookieNamed("bright");
        s.Go("/me/account");
        b.Press("Where you’re signed in");
        b.Press("Sign out everywhere");
        b.WaitForPath("/sign-in");
        b.Driver.Manage().Cookies.AddCookie(new Cookie("bright", cookie!.Value, "localhost", "/", null));
        s.Go("/me");
        b.WaitForPath("/sign-in");
    }

    [Fact]
    public void A_tier_promises_one_lesson_named_as_it_is_typed_and_its_door_leads_there()
    {
        s.AsOwner();
        s.Go("/desk/tiers/new");
        b.Type("Name", "Taster");
        b.Type("Rank", "9");
        b.Press("Go on to its promise");
        b.WaitFor("What Taster promises");
        b.Click("#say-0-covers");
        b.Click("#l0-covers option[value=one]");
        b.Type("l0-thing", "Three quiet winter checks › Nowhere");
        b.WaitFor("There is nothing called");
        // What was opened closes as soon as something else is pressed.
        b.Click("h1");
        b.Click("#say-0-reach");
        b.Click("#l0-reach option[value=everything]");
        b.Click("h1");
        b.Press("Save what it promises");
        b.WaitFor("There is nothing called");
        b.Click("#say-0-covers");
        Assert.Equal("Three quiet winter checks › Nowhere", b.Value("#l0-thing"));
        b.Type("l0-thing", "making fondant, st");
        b.WaitUntil(() => b.Driver.ExecuteScript("return [...document.querySelectorAll('#things option')].map(o => o.value).join('|')")
            is "Three quiet winter checks › Making fondant, step by step", "the lesson is proposed");
        b.Type("l0-thing", "three quiet winter checks › making fondant, step by step");
        b.WaitFor("The lesson “Making fondant, step by step”");
        Assert.Empty(b.Violations());
        b.Press("Save what it promises");
        b.WaitFor("A price for Taster");
        b.Click(By.XPath("//label[.//input[@value='Free']]"));
        b.Press("Save this price");
        b.WaitFor("Its join link stands in the list");
        var course = site.Catalogue.Now.Pieces.First(p => p.Title == "Three quiet winter checks");
        var lesson = course.Outline.Lessons.First(l => l.Title.StartsWith("Making fondant", StringComparison.Ordinal));
        // Whoever stands before that lesson is shown the way in through it too; before another, not.
        b.Forget();
        s.Go($"/lessons/{lesson.Id.Value}");
        b.WaitFor("Taster");
        s.Go($"/lessons/{course.Outline.Lessons[^1].Id.Value}");
        b.WaitFor("Apiary");
        Assert.DoesNotContain("Taster", b.Text, StringComparison.Ordinal);
        // With it, that lesson is read and the others stay closed.
        s.Go("/join/taster");
        b.Type("Name", "Perrin Vale");
        b.Type("Email", House.NewAddress());
        b.Press("Go on");
        b.Click("form button.btn-pine");
        b.WaitFor("Welcome, Perrin");
        s.Go($"/lessons/{lesson.Id.Value}");
        b.WaitFor("Fondant in one go");
        s.Go($"/lessons/{course.Outline.Lessons[^1].Id.Value}");
        b.WaitFor("doesn’t include this one");
        s.Go($"/read/{course.Id.Value}");
        b.WaitFor("Making fondant, step by step");
        // The owner is told the same.
        s.AsOwner();
        s.Go($"/desk/members?q=Perrin");
        b.Click("table.t tbody a");
        b.WaitFor("Why?");
        s.Go($"{b.Path}?piece={course.Id.Value}&lesson={lesson.Id.Value}");
        b.WaitFor("Taster reaches everything released");
    }

    [Fact]
    public void Keys_lead_through_the_desk()
    {
        s.AsOwner();
        s.Go("/desk/members");
        var body = b.Driver.FindElement(By.TagName("body"));
        body.SendKeys(Keys.ArrowDown);
        Assert.Contains("/desk/members/", b.Driver.SwitchTo().ActiveElement().GetAttribute("href")!, StringComparison.Ordinal);
        b.Driver.SwitchTo().ActiveElement().SendKeys(Keys.Escape);
        b.Driver.FindElement(By.TagName("body")).SendKeys("/");
        Assert.Equal("find", b.Driver.SwitchTo().ActiveElement().GetAttribute("id"));
        b.Driver.SwitchTo().ActiveElement().SendKeys("mirela");
        b.WaitFor("Mirela Duarte");
        b.Driver.SwitchTo().ActiveElement().SendKeys(Keys.Escape);
        b.Driver.FindElement(By.TagName("body")).SendKeys("?");
        b.WaitFor("quick find");
    }

    [Fact]
    public void A_price_shows_what_it_makes_while_it_is_typed()
    {
        s.AsOwner();
        s.Go("/desk/tiers");
        b.Press("Edit Keeper");
        s.Go(b.Path + "/price");
        b.Type("Amount", "90");
        b.Type("Count", "6");
        b.WaitFor("£15.00 a month");
        b.Type("Amount", "ninety");
        b.WaitFor("The amount is a number like");
        b.Press("Save this price");
        b.WaitFor("The amount is a number like");
        Assert.Equal("6", b.Value("#Count"));
    }

    void FiguresAgree()
    {
        s.Go("/desk");
        var received = Money().Match(b.Words(".margin .facts a.num")).Value;
        b.Leaving(() => b.Click(".margin .facts a.num"));
        Assert.Contains(received, b.Words(".heading"), StringComparison.Ordinal);
        s.Go("/desk");
        var standings = b.Driver.FindElements(By.CssSelector(".margin table tr"))
            .Select(r => (r.FindElement(By.TagName("a")).GetAttribute("href"), r.FindElement(By.CssSelector(".num")).Text)).ToArray();
        Assert.Equal(Enum.GetValues<Standing>().Length, standings.Length);
        foreach (var (href, count) in standings)
        {
            b.Open(href!);
            Assert.Matches($@"^{count} (person|people) in this list", b.Words(".heading .soft"));
        }
    }

    [GeneratedRegex(@"£[\d,]+\.\d\d")] private static partial Regex Money();
}
