using BrightCircle.App.Catalogues;
using BrightCircle.Data;
using BrightCircle.Web.House;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using OpenQA.Selenium.VirtualAuth;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Signing in with a passkey: the browser's own, with an authenticator that answers as a phone's would (W3C WebAuthn, section 11).</summary>
[Collection("demo")]
public class PasskeyTests : IDisposable
{
    const string Password = "plum jam in a tin";
    readonly DemoSite site;
    readonly Browser b;
    readonly SiteSteps s;

    public PasskeyTests(DemoSite site)
    {
        (this.site, b, s) = (site, site.Browser, new(site.Browser, site.App.Url));
        b.Desktop();
        b.Dark(false);
        Device(verifies: true);
    }

    string? device;

    public void Dispose() => b.Driver.RemoveVirtualAuthenticator(device!);

    /// <param name="verifies">Whether it makes sure who holds it.</param>
    void Device(bool verifies)
    {
        if (device is not null) b.Driver.RemoveVirtualAuthenticator(device);
        device = b.Driver.AddVirtualAuthenticator(new VirtualAuthenticatorOptions().SetProtocol(VirtualAuthenticatorOptions.Protocol.CTAP2)
            .SetTransport(VirtualAuthenticatorOptions.Transport.INTERNAL).SetHasResidentKey(true).SetHasUserVerification(true).SetIsUserVerified(verifies));
    }

    async Task<string> Newcomer(string name)
    {
        var (p, email) = await site.Newcomer(name);
        using var page = p;
        await page.Open("/me/password");
        await page.Press("Save", ("New", Password));
        return email;
    }

    Task<int> Count(string email) => site.Db(db => db.UserPasskeys.CountAsync(k => db.Users.Any(a => a.Id == k.UserId && a.Email == email)));

    /// <summary>They have some on other devices.</summary>
    Task Others(string email, int count) => site.Db(async db =>
    {
        var account = await db.Users.Where(a => a.Email == email).Select(a => a.Id).SingleAsync();
        for (var i = 0; i < count; i++)
            db.UserPasskeys.Add(new()
            {
                CredentialId = Guid.NewGuid().ToByteArray(),
                UserId = account,
                Data = new() { Name = "another", PublicKey = [1], AttestationObject = [1], ClientDataJson = [1] }
            });
        return await db.SaveChangesAsync();
    });

    void Out()
    {
        s.Go("/");
        b.Forget();
        s.Go("/sign-in");
        b.Press("Sign in with a passkey");
    }

    [Fact]
    public async Task A_member_signs_in_with_what_their_device_keeps()
    {
        var email = await Newcomer("Odile Fern");
        s.SignIn(email, Password);
        b.WaitForPath("/me");
        s.Go("/me/account");
        b.Press("Passkeys");
        b.WaitFor("None yet.");
        b.Write("#Name", "Kitchen laptop");
        b.Press("Make a passkey on this device");
        b.WaitFor("Your passkey is made");
        Assert.Contains("Kitchen laptop", b.Text, StringComparison.Ordinal);
        Assert.Equal(1, await Count(email));
        // The same device isn't asked to keep a second one; and ten are the most.
        await Others(email, Passkeys.Most - 2);
        b.Press("Make a passkey on this device");
        b.WaitFor("This device has one already.");
        await Others(email, 1);
        b.Press("Make a passkey on this device");
        b.WaitFor("10 passkeys are the most.");
        Assert.Equal(Passkeys.Most, await Count(email));
        await site.Db(db => db.UserPasskeys.Where(k => k.Data.Name == "another").ExecuteDeleteAsync());
        Out();
        b.WaitForPath("/me");
        // It leads to where they wanted to go.
        b.Forget();
        s.Go("/me/account");
        b.Press("Sign in with a passkey");
        b.WaitForPath("/me/account");
        // Where it is taken away it opens nothing.
        s.Go("/me/passkeys");
        b.Press("Take away");
        b.WaitFor("It isn’t taken any more.");
        Assert.Equal(0, await Count(email));
        Out();
        b.WaitFor("This passkey isn’t known here.");
        Assert.Equal("/sign-in", b.Path);
    }

    [Fact]
    public async Task For_the_team_it_is_both_steps_and_whoever_is_let_in_no_longer_stays_out()
    {
        var address = $"nell{Guid.NewGuid():N}@post.example";
        using (var owner = await site.Owner())
        {
            await owner.Open("/desk/settings/team");
            await owner.Press("Send the letter", ("Email", address), ("Name", "Nell Ashdown"), ("Role", "Support"));
        }
        await site.Db(async db =>
        {
            var account = await db.Users.AsTracking().SingleAsync(a => a.Email == address);
            account.PasswordHash = new Microsoft.AspNetCore.Identity.PasswordHasher<Account>().HashPassword(account, Password);
            return await db.SaveChangesAsync();
        });
        s.SignIn(address, Password);
        b.WaitForPath("/desk");
        s.Go("/desk/signing-in");
        b.Press("Passkeys");
        b.WaitFor("both steps");
        b.Press("Make a passkey on this device");
        b.WaitFor("Your passkey is made");
        Assert.Contains(await site.Db(db => db.Deeds.Where(d => d.By == "Nell Ashdown").Select(d => d.What).ToListAsync()),
            w => w.StartsWith("made a passkey", StringComparison.Ordinal));
        await Required(true);
        try
        {
            s.SignIn(address, Password);
            b.WaitForPath("/desk/signing-in");
            Out();
            b.WaitForPath("/desk");
            b.WaitFor("Today");
        }
        finally
        {
            await Required(false);
        }
        using (var owner = await site.Owner())
        {
            await owner.Open("/desk/settings/team");
            await owner.Press("Let in no longer: Nell Ashdown");
        }
        Out();
        b.WaitFor("This passkey isn’t known here.");
    }

    /// <summary>A device that doesn't know who holds it isn't enough.</summary>
    [Fact]
    public async Task Whoever_finds_the_phone_is_not_let_in()
    {
        var email = await Newcomer("Wren Ode");
        Device(verifies: false);
        s.SignIn(email, Password);
        b.WaitForPath("/me");
        s.Go("/me/passkeys");
        b.Press("Make a passkey on this device");
        b.WaitFor("Nothing was made.");
        Assert.Equal(0, await Count(email));
    }

    /// <summary>Without a question of this browser's own, or with an answer to another, nobody is let in and nothing is kept.</summary>
    [Fact]
    public async Task Made_up_answers_let_nobody_in()
    {
        var email = await Newcomer("Tam Alder");
        using var p = new Plain(site.App.Url);
        await p.Open("/sign-in");
        await p.Post("/sign-in?handler=passkey", ("answer", "{}"));
        p.Says("That took too long");
        Assert.Contains("\"challenge\"", await Asked("/sign-in"), StringComparison.Ordinal);
        // Being asked is no first step.
        await p.Open("/sign-in/code");
        Assert.Equal("/sign-in", p.At.AbsolutePath);
        foreach (var answer in new[] { "{}", "nonsense", "{\"id\":\"AAAA\",\"rawId\":\"AAAA\",\"type\":\"public-key\",\"response\":{}}" })
        {
            await Asked("/sign-in");
            await p.Post("/sign-in?handler=passkey", ("answer", answer));
            p.Says("This passkey isn’t known here.");
        }
        await p.SignIn(email, Password);
        await p.Open("/me/passkeys");
        await p.Post("/me/passkeys?handler=add", ("made", "{}"));
        p.Says("That took too long");
        await Asked("/me/passkeys");
        await p.Post("/me/passkeys?handler=add", ("made", "nonsense"), ("name", "x"));
        p.Says("That wasn’t taken.");
        // Once only.
        await p.Post("/me/passkeys?handler=add", ("made", "nonsense"), ("name", "x"));
        p.Says("That took too long");
        await p.Post("/me/passkeys?handler=away", ("number", "00ff"));
        p.Says("It is gone already.");
        Assert.Equal(0, await Count(email));

        async Task<string> Asked(string page)
        {
            await p.Open(page);
            await p.Post(page + "?handler=ask");
            var asked = p.Text;
            await p.Open(page);
            return asked;
        }
    }

    async Task Required(bool all)
    {
        await site.Db(db => db.Sites.ExecuteUpdateAsync(u => u.SetProperty(x => x.TeamNeedsSecondStep, all)));
        await site.App.Services.GetRequiredService<Catalogue>().Changed();
    }
}
