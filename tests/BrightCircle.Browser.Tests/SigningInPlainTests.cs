using BrightCircle.App.Members;
using BrightCircle.Core.Members;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Somebody of the team signs in with a code from a phone too.</summary>
[Collection("demo")]
public class SigningInPlainTests(DemoSite site)
{
    async Task<string> NewLink(string address)
    {
        await using var scope = site.App.Services.CreateAsyncScope();
        await scope.ServiceProvider.GetRequiredService<SignInByLink>().Request(address, "/desk/tasks", default);
        var id = await scope.ServiceProvider.GetRequiredService<BrightContext>().Letters.Where(l => l.ToAddress == address && l.SignInLinkId != null)
            .OrderByDescending(l => l.Id).Select(l => l.SignInLinkId).FirstAsync();
        return "/in/" + scope.ServiceProvider.GetRequiredService<SignInTokens>().ForSignIn(id!.Value);
    }

    static byte[] Bytes(string letters) => App.Tests.SecondStepTests.Bytes(letters);

    static async Task ComeIn(Plain p, string link)
    {
        await p.Open(link);
        await p.Press("Come in");
    }

    [Fact]
    public async Task With_the_second_step_on_neither_a_letter_nor_a_password_is_enough()
    {
        using var owner = await site.Owner();
        var address = $"pia{Guid.NewGuid():N}@post.example";
        await owner.Open("/desk/settings/team");
        await owner.Press("Send the letter", ("Email", address), ("Name", "Pia Lund"), ("Role", "Support"));
        using var helper = new Plain(site.App.Url);
        await ComeIn(helper, await NewLink(address));
        Assert.Equal("/desk/tasks", helper.At.AbsolutePath);
        await helper.Open("/me/password");
        await helper.Press("Save", ("New", "plum jam in a tin"));
        await helper.Open("/desk/signing-in");
        await helper.Press("Set it up");
        var key = Bytes(helper.Page.QuerySelector("main code")!.TextContent);
        Assert.Contains("<svg", helper.Page.QuerySelector(".qr")!.InnerHtml, StringComparison.Ordinal);
        string Code(int ahead) => OneTimePassword.At(key, OneTimePassword.StepOf(SystemClock.Instance.GetCurrentInstant()) + ahead);
        await helper.Press("Turn it on", ("Code", "123"));
        helper.Says("This code isn’t good now.");
        Assert.Equal(key, Bytes(helper.Page.QuerySelector("main code")!.TextContent));
        await helper.Press("Turn it on", ("Code", Code(-1)));
        helper.Says("Keep these 10 codes");
        var spare = helper.Page.QuerySelectorAll(".spare-codes code").Select(c => c.TextContent).ToArray();
        // This browser is in; another one comes to the second step by either way, and to nothing else.
        await helper.Open("/desk");
        Assert.Equal("/desk", helper.At.AbsolutePath);
        using var other = new Plain(site.App.Url);
        await other.SignIn(address, "plum jam in a tin");
        Assert.Equal("/sign-in/code", other.At.AbsolutePath);
        await other.Open("/desk");
        Assert.Equal("/sign-in", other.At.AbsolutePath);
        await other.Open("/sign-in/code?then=/desk/tasks");
        await other.Press("Come in", ("Code", "000000"));
        other.Says("This code isn’t good now.");
        await other.Press("Come in", ("Code", Code(0)));
        Assert.Equal("/desk/tasks", other.At.AbsolutePath);
        using var third = new Plain(site.App.Url);
        await ComeIn(third, await NewLink(address));
        Assert.Equal("/sign-in/code", third.At.AbsolutePath);
        await third.Press("Come in", ("Code", spare[3]));
        Assert.Equal("/desk/tasks", third.At.AbsolutePath);
        await third.Open("/desk/signing-in");
        third.Says("9 are left");
        using var nobody = new Plain(site.App.Url);
        await nobody.Open("/sign-in/code");
        Assert.Equal("/sign-in", nobody.At.AbsolutePath);

        // Whoever has to have one is led to set it up, and can do nothing else.
        await owner.Open("/desk/settings/team");
        owner.Says("second step on");
        await owner.Press("Ask it of everybody");
        owner.Says("Set your own up first");
        await site.Db(db => db.Sites.ExecuteUpdateAsync(u => u.SetProperty(x => x.TeamNeedsSecondStep, true)));
        await site.App.Services.GetRequiredService<App.Catalogues.Catalogue>().Changed();
        try
        {
            await owner.Open("/desk/members");
            Assert.Equal("/desk/signing-in", owner.At.AbsolutePath);
            owner.Says("Everybody in this team signs in with a second step.");
            await third.Open("/desk/members");
            Assert.Equal("/desk/members", third.At.AbsolutePath);
            await third.Open("/desk/signing-in");
            Assert.DoesNotContain("Turn it off", third.Text, StringComparison.Ordinal);
        }
        finally
        {
            await site.Db(db => db.Sites.ExecuteUpdateAsync(u => u.SetProperty(x => x.TeamNeedsSecondStep, false)));
            await site.App.Services.GetRequiredService<App.Catalogues.Catalogue>().Changed();
        }
        await owner.Open("/desk/settings/team");
        await owner.Press("Take the second step off: Pia Lund");
        owner.Says("They sign in without a second step");
        using var fourth = new Plain(site.App.Url);
        await fourth.SignIn(address, "plum jam in a tin");
        Assert.Equal("/desk", fourth.At.AbsolutePath);
        await third.Open("/desk/signing-in");
        await third.Press("Sign out everywhere");
        Assert.Equal("/sign-in", third.At.AbsolutePath);
        await fourth.Open("/desk");
        Assert.Equal("/sign-in", fourth.At.AbsolutePath);
        await owner.Open("/desk/settings/team");
        await owner.Press("Let in no longer: Pia Lund");
    }
}
