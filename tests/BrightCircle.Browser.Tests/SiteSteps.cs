using BrightCircle.App.Demo;
using BrightCircle.App.Tests;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>What people do, in steps that journeys share.</summary>
public sealed class SiteSteps(Browser browser, string url)
{
    static readonly HttpClient Http = new();
    public Browser B { get; } = browser;
    public void Go(string path) => B.Open(url + path);

    public void SignIn(string email, string password)
    {
        Go("/");
        B.Forget();
        Go("/sign-in");
        B.Press("with a password");
        B.Type("PasswordEmail", email);
        B.Type("Password", password);
        B.Submit("#Password");
    }

    public void AsOwner()
    {
        SignIn(SeedDemo.OwnerEmail, SeedDemo.OwnerPassword);
        B.WaitForPath("/desk");
    }

    public void AsMirela()
    {
        SignIn(SeedDemo.MemberEmail, SeedDemo.MemberPassword);
        B.WaitForPath("/me");
    }

    public void Join(string code, string name, string email, string card)
    {
        Go("/join/" + code);
        B.Type("Name", name);
        B.Type("Email", email);
        B.Press("Go on");
        B.WaitFor("Is this right?");
        Agree();
        B.Press("Pay £");
        PayOnTill(card);
    }

    /// <summary>Ticks what the site's owner wants agreed to, where there is something to pay.</summary>
    public void Agree() => B.Click("input[name=agreed]");

    public void PayOnTill(string card)
    {
        B.WaitFor("Cards that work here");
        B.Type("number", card);
        B.Submit("#number");
    }

    /// <summary>Waits for a letter in the Postbox and gives its text part.</summary>
    public static async Task<string> Letter(string to, string subjectPart)
    {
        var watch = System.Diagnostics.Stopwatch.StartNew();
        while (watch.Elapsed < TimeSpan.FromSeconds(60))
        {
            if ((await House.Post(to)).Any(s => s.Contains(subjectPart, StringComparison.Ordinal)))
                return (await House.Letter(to, subjectPart)).GetProperty("text").GetString()!;
            await Task.Yield();
        }
        Assert.Fail($"No letter “{subjectPart}” came to {to}: {string.Join(", ", await House.Post(to))}");
        return "";
    }

    public static string LinkIn(string letter, string part) => letter.Split('\n', '\r', ' ').First(w => w.Contains(part, StringComparison.Ordinal));

    /// <summary>Moves the house clock on through the Desk, as the signed-in owner.</summary>
    public void MoveOn(string by)
    {
        Go("/desk");
        B.Press("Move on");
        B.Press(by);
        B.WaitFor("Time has passed");
    }
}
