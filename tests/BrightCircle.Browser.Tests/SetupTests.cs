using Xunit;

namespace BrightCircle.Browser.Tests;

public sealed class SetupTests : IDisposable
{
    readonly LiveApp app = new();
    readonly Browser b = new();

    [Fact]
    public void From_nothing_to_a_price_that_can_be_joined()
    {
        var s = new SiteSteps(b, app.Url);
        s.Go("/");
        b.WaitForPath("/setup");
        b.Type("OwnerName", "Ines Maren");
        b.Type("OwnerEmail", "ines@new.example");
        b.Type("Password", "short");
        b.Type("Name", "New Lane");
        b.Submit("#Name");
        b.WaitFor("at least 10");
        Assert.Equal("New Lane", b.Value("#Name"));
        b.Type("Password", "a-long-enough-one");
        b.Submit("#Name");
        b.WaitFor("Next steps");
        Assert.Empty(b.Violations());

        b.Click(".row-l a[href='/desk/shelves/new']");
        b.Type("Name", "Bees & brood");
        b.Press("Save");
        b.WaitFor("Write a first piece");
        b.Click(".row-l a[href='/desk/pieces/new']");
        b.Type("Title", "Feeding in frost");
        b.Press("Make it");
        b.Click(".lesson-row a");
        b.Click(".add-end button[value='add:text:end']");
        b.Write("trix-editor", "Fondant above the cluster.");
        b.Click("button[value=publish]");
        b.WaitFor("ready");
        Assert.Empty(b.Violations());
        s.Go("/desk");
        b.Click(".row-l a[href='/desk/editions/new']");
        b.Press("Save");
        b.WaitFor("Not scheduled yet");
        b.Press("Schedule it");
        b.WaitFor("It opens by itself");
        s.Go("/desk");
        b.Click(".row-l a[href='/desk/tiers/new']");
        b.Type("Name", "Keeper");
        b.Press("Go on to its promise");
        b.WaitFor("from the month they join");
        b.Press("Save what it promises");
        b.WaitFor("A price for Keeper");
        b.Type("Amount", "18");
        b.WaitFor("£216.00");
        b.Press("Save this price");
        b.WaitFor("Its join link stands in the list");
        // It rehearses until it goes live, which asks for the site's name.
        s.Go("/desk/settings/live");
        b.WaitFor("New Lane rehearses");
        Assert.Empty(b.Violations());
        b.Type("SiteName", "Something else");
        b.Press("Go live");
        b.WaitFor("so that nothing goes by mistake");
        b.Type("SiteName", "new lane");
        b.Press("Go live");
        b.WaitFor("It is live");
        Assert.DoesNotContain("rehearses", b.Words("body"), StringComparison.Ordinal);
        b.Forget();
        s.Go("/join/keeper-month");
        b.WaitFor("Join Keeper");
        s.Go("/desk");
        b.WaitForPath("/sign-in");
    }

    public void Dispose()
    {
        b.Dispose();
        app.Dispose();
    }
}
