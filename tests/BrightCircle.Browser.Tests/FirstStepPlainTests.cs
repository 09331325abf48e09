using BrightCircle.App.Demo;
using BrightCircle.App.Offer;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>A newcomer's first visit: what they are asked to do, and what they start with.</summary>
[Collection("demo")]
public class FirstStepPlainTests(DemoSite site)
{
    [Fact]
    public async Task A_newcomer_says_hello_says_where_they_are_and_begins_with_what_the_plan_starts_with()
    {
        var start = site.Catalogue.Now.Pieces.Single(p => p.Title == "Your first page of the season");
        var (p, email) = await site.Newcomer("Orla Pym");
        using var page = p;
        await p.Open(p.Link("Start reading"));
        Assert.StartsWith($"/read/{start.Id.Value}/", p.At.AbsolutePath, StringComparison.Ordinal);
        await p.Open("/me");
        p.Says("Start here");
        Assert.Equal(start.Title, p.Page.QuerySelector("h1")!.TextContent);
        p.Says("First steps");
        p.Says("How many hives do you keep, and since when?");
        await p.Press("Say hello", ("hello", "One hive, since Tuesday."));
        p.Says("Your words are with us");
        await p.Press("That’s right", ("zone", "Europe/Lisbon"));
        p.Says("Your days begin where you are");
        Assert.Equal("Europe/Lisbon", await site.Db(db => db.Members.Where(m => m.Email == email).Select(m => m.ZoneId).SingleAsync()));
        Assert.Equal(2, p.Page.QuerySelectorAll(".first-steps .bi-check-circle-fill").Length);
        await p.Open("/me/about");
        await p.Press("Save");
        Assert.Equal(3, p.Page.QuerySelectorAll(".first-steps .bi-check-circle-fill").Length);
        await p.Open(p.Link("Go on"));
        await p.Press("Done");
        await p.Open("/me");
        Assert.Null(p.Page.QuerySelector(".first-steps"));
        Assert.NotEqual(start.Title, p.Page.QuerySelector("h1")!.TextContent);

        using var owner = await site.Owner();
        await owner.Open("/desk/tasks");
        owner.Says("Says hello: “One hive, since Tuesday.”");
        var member = await site.Db(db => db.Members.SingleAsync(m => m.Email == email));
        await owner.Open($"/desk/members/{member.Id.Value}/journal");
        owner.Says("said hello: One hive, since Tuesday.");
    }

    [Fact]
    public async Task First_steps_can_be_put_away_one_by_one_or_all_at_once()
    {
        using var p = (await site.Newcomer("Orla Pym")).Page;
        await p.Open("/me");
        await p.Press("Not now");
        p.Says("First steps");
        Assert.DoesNotContain("Start here", p.Text, StringComparison.Ordinal);
        await p.Press("Say hello", ("hello", ""));
        p.Says("Write a few words");
        await p.Post("/me?handler=away", ("step", "Nonsense"));
        await p.Post("/me/account?handler=zone&then=home", ("zone", "Nowhere/Town"));
        p.Says("There is no such time zone");
        Assert.NotNull(p.Page.QuerySelector(".first-steps"));
        await p.Press("Put these away");
        Assert.Null(p.Page.QuerySelector(".first-steps"));
    }

    [Fact]
    public async Task The_owner_says_what_newcomers_are_asked_and_what_a_tier_starts_with()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/settings");
        await owner.Open(owner.Link("First steps: what newcomers"));
        await owner.Press("Save", ("Words", new string('x', 201)));
        owner.Says("too long");
        await owner.Press("Save", ("Words", "How many hives do you keep, and since when?"));
        Assert.Equal([FirstStep.Hello, FirstStep.Zone, FirstStep.About], site.Catalogue.Now.Site!.FirstSteps);
        await owner.Open(owner.Link("Meadow"));
        var was = site.Catalogue.Now.Plans.Single(p => p.Name == "Meadow").StartPieceId;
        await owner.Press("Save", ("StartPiece", "0"));
        Assert.Null(site.Catalogue.Now.Plans.Single(p => p.Name == "Meadow").StartPieceId);
        await owner.Press("Save", ("StartPiece", $"{was!.Value.Value}"));
        Assert.Equal(was, site.Catalogue.Now.Plans.Single(p => p.Name == "Meadow").StartPieceId);
    }
}
