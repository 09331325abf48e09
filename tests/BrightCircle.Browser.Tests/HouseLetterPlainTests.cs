using BrightCircle.App.Demo;
using BrightCircle.App.Letters;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>The house’s letters are put into the owner’s words, looked at, and taken back.</summary>
[Collection("demo")]
public class HouseLetterPlainTests(DemoSite site)
{
    [Fact]
    public async Task A_letter_is_changed_for_one_plan_looked_at_and_taken_back()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/letters/house");
        owner.Says("all read as they came");
        foreach (var l in HouseLetters.All) owner.Says(l.Name);
        await owner.Open("/desk/letters/house/Receipt");
        owner.Says("It reads as it came.");
        var plan = await site.Db(db => db.Letters.Where(l => l.Kind == LetterKind.Receipt).OrderByDescending(l => l.Id).Select(l => l.PlanId).FirstAsync());
        await owner.Open($"/desk/letters/house/Receipt?plan={plan!.Value.Value}");
        // What can't be is said, and what was typed stays.
        await owner.Press("Save", ("Subject", "Thanks for {{ amont }}"));
        owner.Says("There is no field “amont”");
        Assert.Equal("Thanks for {{ amont }}", owner.Page.QuerySelector("#Subject")!.GetAttribute("value"));
        await owner.Press("Look at it", ("Subject", "Thanks for {{ amount }}"), ("As", SeedDemo.MemberEmail));
        owner.Says("As Mirela Duarte gets it");
        owner.Says("Thanks for £");
        await owner.Press("Look at it", ("As", "nobody@post.example"));
        owner.Says("Nobody has the address “nobody@post.example”.");
        await owner.Press("Save, and send me one", ("Subject", "Thanks for {{ amount }}"), ("As", ""));
        owner.Says("one is on its way to you");
        owner.Says("In your own words since");
        await owner.Open("/desk/letters/house/Receipt");
        owner.Says("It reads as it came.");
        await owner.Open("/desk/letters/house");
        owner.Says("1 in your own words");
        await owner.Open($"/desk/letters/house/Receipt?plan={plan.Value.Value}");
        await owner.Press("As for all again");
        owner.Says("It reads as for all again.");
        await owner.Press("Take it again: version 1");
        owner.Says("It reads as in version 1 again.");
        await owner.Press("As for all again");
        await owner.Open("/desk/letters?kind=Receipt");
        owner.Says("in this list: receipt");
        await owner.Open(owner.Page.QuerySelector("td a[href^='/desk/letters/']")!.GetAttribute("href")!);
        owner.Says("It was written because a payment comes in.");
        await owner.Open(owner.Link("Its words"));
        owner.Says("Written when a payment comes in.");
        foreach (var none in new[] { "Many", "OwnerNews", "77", "Nothing" })
            Assert.Equal(System.Net.HttpStatusCode.NotFound, (await owner.Get($"/desk/letters/house/{none}")).StatusCode);
        Assert.Equal(System.Net.HttpStatusCode.NotFound, (await owner.Get("/desk/letters/house/SignIn?plan=" + plan.Value.Value)).StatusCode);
        // The frame beside the form is a letter by itself, with rules of its own.
        var frame = await owner.Get("/desk/letters/house/Receipt/as");
        Assert.Contains("sandbox", frame.Headers.GetValues("Content-Security-Policy").Single(), StringComparison.Ordinal);
        Assert.Contains("You get this because a payment of yours came in.", await frame.Content.ReadAsStringAsync(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_letter_to_one_is_written_from_their_page()
    {
        using var owner = await site.Owner();
        var member = await site.Db(db => db.Members.SingleAsync(m => m.Email == SeedDemo.MemberEmail));
        await owner.Open($"/desk/members/{member.Id.Value}");
        await owner.Press("Write…");
        owner.Says("To Mirela Duarte");
        await owner.Press("Save", ("Subject", "About your two hives"), ("Body", "<div>Dear {{ first_name }}, ring me.</div>"));
        await owner.Press("Send it");
        owner.Says("It is on its way.");
        await owner.Open("/desk/mailings");
        owner.Says("one member");
        // Whoever asks for their data gets it, and nobody of the team but those who look after members.
        await owner.Open($"/desk/members/{member.Id.Value}/edit");
        await owner.Open(owner.Link("Hand them their data"));
        await owner.Press("Delete them for good", ("Typed", "somebody@post.example"));
        owner.Says($"Type their address, {SeedDemo.MemberEmail}");
        var zip = await owner.Get(owner.Link("Make the zip"));
        Assert.Equal("application/zip", zip.Content.Headers.ContentType!.MediaType);
        using var visitor = new Plain(site.App.Url);
        await visitor.SignIn(SeedDemo.MemberEmail, SeedDemo.MemberPassword);
        await visitor.Open("/me/account");
        var own = await visitor.Get(visitor.Link("Take it along"));
        Assert.Equal(("application/zip", true), (own.Content.Headers.ContentType!.MediaType!, (await own.Content.ReadAsByteArrayAsync()).Length > 1000));
        Assert.NotEqual(System.Net.HttpStatusCode.OK, (await visitor.Get($"/desk/members/{member.Id.Value}/data?handler=zip")).StatusCode);
    }
}
