using System.Net;
using BrightCircle.App.Demo;
using BrightCircle.App.Members;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Where somebody is signed in, and that a browser that was ended is out.</summary>
[Collection("demo")]
public class SignInPlainTests(DemoSite site)
{
    async Task<(Plain Page, string Email)> Newcomer()
    {
        var (p, email) = await site.Newcomer("Iva Stone");
        await p.Open("/me/password");
        await p.Press("Save", ("New", "plum jam in a tin"));
        return (p, email);
    }

    [Fact]
    public async Task Every_browser_is_a_line_and_one_that_is_ended_is_out_at_once()
    {
        var (phone, email) = await Newcomer();
        using var first = phone;
        using var laptop = new Plain(site.App.Url);
        await laptop.SignIn(email, "plum jam in a tin");
        await laptop.Open("/me/account");
        await laptop.Open(laptop.Link("Where you’re signed in"));
        // A new password gives a fresh cookie, and no second line.
        Assert.Equal(2, laptop.Page.QuerySelectorAll(".row-l").Length);
        laptop.Says("this one");
        await phone.Open("/me");
        Assert.Equal("/me", phone.At.AbsolutePath);
        await laptop.Press("Sign out there");
        laptop.Says("It is signed out");
        Assert.Single(laptop.Page.QuerySelectorAll(".row-l"));
        await phone.Open("/me");
        Assert.Equal("/sign-in", phone.At.AbsolutePath);
        // Nobody ends what isn't theirs.
        using var other = (await Newcomer()).Page;
        await other.Open("/me/signed-in");
        var theirs = await site.Db(db => db.SignIns.Where(s => s.EndedAt == null && db.Users.Any(a => a.Id == s.AccountId && a.Email == email))
            .Select(s => s.Id).SingleAsync());
        await other.Post("/me/signed-in", ("id", $"{theirs}"));
        other.Says("signed out already");
        await laptop.Open("/me");
        Assert.Equal("/me", laptop.At.AbsolutePath);
        // Signing out ends the line, so that a cookie that somebody kept is worth nothing.
        await laptop.Press("Sign out");
        Assert.Equal(0, await site.Db(db => db.SignIns.CountAsync(s => s.EndedAt == null && db.Users.Any(a => a.Id == s.AccountId && a.Email == email))));
        Assert.NotNull(await site.Db(db => db.SignIns.Where(s => s.Id == theirs).Select(s => s.EndedAt).SingleAsync()));
        // What is over is forgotten with the next one.
        await laptop.SignIn(email, "plum jam in a tin");
        Assert.Single(await site.Db(db => db.SignIns.Where(s => db.Users.Any(a => a.Id == s.AccountId && a.Email == email)).ToListAsync()));
    }

    [Fact]
    public async Task When_a_browser_was_last_used_is_noted_and_one_that_isnt_used_is_gone_from_the_list()
    {
        var (p, email) = await Newcomer();
        using var page = p;
        var id = await site.Db(db => db.SignIns.Where(s => db.Users.Any(a => a.Id == s.AccountId && a.Email == email)).Select(s => s.Id).SingleAsync());
        // What the site itself has noted so far is written first, so that its own writer doesn't come between.
        await site.App.Services.GetRequiredService<SeenSignIns>().Write(default);
        var clock = site.App.Services.GetRequiredService<IClock>();
        var before = clock.GetCurrentInstant() - Duration.FromDays(SignIns.Days);
        await site.Db(db => db.SignIns.Where(s => s.Id == id).ExecuteUpdateAsync(u => u.SetProperty(s => s.LastAt, before)));
        await p.Open("/me/signed-in");
        p.Says("Nowhere that is known by name");
        // One that has noted nothing yet: the site's notes a browser again after minutes only.
        var seen = new SeenSignIns(site.App.Services.GetRequiredService<Npgsql.NpgsqlDataSource>(), clock);
        seen.Here(id);
        await seen.Write(default);
        Assert.True(await site.Db(db => db.SignIns.Where(s => s.Id == id).Select(s => s.LastAt).SingleAsync()) > before);
    }

    [Theory]
    [InlineData(null, Device.Unknown)]
    [InlineData("curl/8.14", Device.Program)]
    [InlineData("Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0", Device.Computer)]
    [InlineData("Mozilla/5.0 (Android 15; Mobile; rv:140.0) Gecko/140.0 Firefox/140.0", Device.Phone)]
    [InlineData("Mozilla/5.0 (Android 15; Tablet; rv:140.0) Gecko/140.0 Firefox/140.0", Device.Tablet)]
    [InlineData("Mozilla/5.0 (Linux; Android 14; SM-X210) AppleWebKit/537.36 (KHTML, like Gecko) Safari/537.36", Device.Tablet)]
    [InlineData("Mozilla/5.0 (iPhone; CPU iPhone OS 19_0 like Mac OS X) AppleWebKit/605.1.15 Mobile/15E148", Device.Phone)]
    [InlineData("Mozilla/5.0 (iPad; CPU OS 16_6 like Mac OS X) AppleWebKit/605.1.15 Mobile/15E148", Device.Tablet)]
    public void What_a_browser_says_of_itself_tells_the_kind_of_machine(string? agent, Device device) => Assert.Equal(device, SignIns.DeviceOf(agent));
}
