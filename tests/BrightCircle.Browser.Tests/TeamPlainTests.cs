using BrightCircle.App.Demo;
using BrightCircle.App.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Somebody is asked into the team, does what their role allows, and is let in no longer.</summary>
[Collection("demo")]
public class TeamPlainTests(DemoSite site)
{
    [Fact]
    public async Task A_helper_who_may_only_answer_questions_comes_in_and_is_out_at_once_when_it_is_over()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/settings/team");
        // What can't be is said, and what was typed stays.
        await owner.Press("Send the letter", ("Name", "Bo Tarn"), ("Email", SeedDemo.MemberEmail), ("Role", "Host"));
        owner.Says("A member has this address.");
        Assert.Equal("Bo Tarn", owner.Page.QuerySelector("#Name")!.GetAttribute("value"));
        var address = $"bo{Guid.NewGuid():N}@post.example";
        await owner.Press("Send the letter", ("Email", address), ("Name", "Bo Tarn"), ("Role", "Host"));
        owner.Says("A letter is on its way to Bo Tarn.");
        owner.Says("hasn’t come in yet");

        string link;
        await using (var scope = site.App.Services.CreateAsyncScope())
        {
            var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
            var id = await db.Letters.Where(l => l.ToAddress == address && l.Kind == LetterKind.TeamInvite).Select(l => l.SignInLinkId).SingleAsync();
            link = "/in/" + scope.ServiceProvider.GetRequiredService<SignInTokens>().ForSignIn(id!.Value);
        }
        using var helper = new Plain(site.App.Url);
        await helper.Open(link);
        await helper.Press(helper.Page.QuerySelector("main form button")!.TextContent.Trim());
        Assert.Equal("/desk", helper.At.AbsolutePath);
        await helper.Open("/desk/questions");
        // Anything else is theirs to see and not to do.
        await helper.Open("/desk/settings/team");
        helper.Says("Only an owner asks somebody in");
        await helper.Open("/desk/routines");
        var refused = await Assert.ThrowsAsync<Xunit.Sdk.TrueException>(() => helper.Post("/desk/routines?handler=new"));
        Assert.Contains("Forbidden", refused.Message, StringComparison.Ordinal);

        await owner.Open("/desk/settings/team");
        await owner.Press("Let in no longer: Bo Tarn");
        owner.Says("They are let in no longer.");
        await helper.Open("/desk");
        Assert.Equal("/sign-in", helper.At.AbsolutePath);
        await owner.Press("Let in again: Bo Tarn");
        owner.Says("They are let in again.");
        await owner.Press("Let in no longer: Bo Tarn");
    }
}
