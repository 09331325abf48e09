using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using OpenQA.Selenium;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>What shows itself beside a form while it is filled in: who fits, who gets a letter, and how it looks.</summary>
[Collection("demo")]
public class PeopleJourneyTests
{
    readonly DemoSite site;
    readonly SiteSteps s;
    readonly Browser b;

    public PeopleJourneyTests(DemoSite site)
    {
        (this.site, b) = (site, site.Browser);
        s = new(b, site.App.Url);
        b.Desktop();
        b.Dark(false);
    }

    string InFrame()
    {
        try
        {
            return b.Driver.SwitchTo().Frame("letter-frame").FindElement(By.TagName("body")).Text;
        }
        catch (WebDriverException)
        {
            // It is being drawn just now.
            return "";
        }
        finally
        {
            b.Driver.SwitchTo().DefaultContent();
        }
    }

    [Fact]
    public void A_letter_shows_who_gets_it_and_how_from_the_first_moment_and_with_each_word()
    {
        using var scope = site.App.Services.CreateScope();
        var draft = scope.ServiceProvider.GetRequiredService<BrightContext>().Mailings.AsNoTracking().First(m => m.SendAt == null
            && m.Subject == "The year turns before the weather does");
        s.AsOwner();
        s.Go($"/desk/mailings/{draft.Id}");
        b.WaitFor("belong to it");
        b.WaitFor("gets it");
        b.WaitUntil(() => InFrame().Contains("the days grow again", StringComparison.Ordinal), "the letter stands in its frame");
        b.Write("trix-editor", "Light the smoker, {{ first_name }}. ");
        b.WaitUntil(() => InFrame().Contains("Light the smoker, ", StringComparison.Ordinal) && !InFrame().Contains("{{", StringComparison.Ordinal),
            "what is typed is drawn, with the reader’s name");
        // Fields are put in where somebody wrote last.
        b.Press("Fields, and a button");
        b.Press("{{ tier");
        string Kept() => (string)b.Driver.ExecuteScript("return document.querySelector('#Body').value")!;
        b.WaitUntil(() => Kept().Contains("{{ tier | default: \"friend\" }}", StringComparison.Ordinal), "the field stands in the letter");
        b.Type("Subject", "For ");
        b.Press("{{ site }}");
        b.WaitUntil(() => b.Value("#Subject") == "For {{ site }}", "the field stands in the subject");
        b.Type("Subject", "Of {{ surname }}");
        b.WaitFor("There is no field “surname”");
        Assert.Equal(draft.Body, scope.ServiceProvider.GetRequiredService<BrightContext>().Mailings.AsNoTracking().Single(m => m.Id == draft.Id).Body);
        // Nothing of it is kept.
        b.Leaving(() => s.Go("/desk"));
    }

    [Fact]
    public void An_audience_shows_who_fits_as_its_lines_change()
    {
        s.AsOwner();
        s.Go("/desk/audiences/new");
        b.WaitFor("people just now");
        b.Press("Add a line");
        b.WaitUntil(() => b.Driver.FindElements(By.Id("l1-kind")).Count == 1, "there are two lines");
        b.WaitFor("Who fits is shown here once every line says what it asks");
        b.Choose("l1-kind", "last seen");
        b.WaitFor("was here last in the last 30 days");
        b.Click("button[aria-label='Take line 2 away']");
        b.WaitUntil(() => b.Driver.FindElements(By.Id("l1-kind")).Count == 0, "there is one line again");
        b.WaitFor("Everybody who is on trial or active.");
    }
}
