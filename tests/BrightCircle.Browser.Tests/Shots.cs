using BrightCircle.App.Tests;
using BrightCircle.Data;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Makes the pictures in docs/screenshots from the demo; run by ./shots, not by ./test.</summary>
[Collection("demo"), Trait("Category", "Shots")]
public class Shots(DemoSite site)
{
    [Fact]
    public void Make()
    {
        var folder = Environment.GetEnvironmentVariable("SHOTS_FOLDER") ?? Path.Combine(TestServers.Root, "docs/screenshots");
        var only = Environment.GetEnvironmentVariable("SHOTS_ONLY");
        Directory.CreateDirectory(folder);
        var (b, s) = (site.Browser, new SiteSteps(site.Browser, site.App.Url));
        using var scope = site.App.Services.CreateScope();
        var db = scope.ServiceProvider.GetRequiredService<BrightContext>();
        var now = site.Catalogue.Now;
        long Lesson(string title) => now.LessonById.Values.First(l => l.Title == title).Id.Value;
        long Piece(string title) => now.Pieces.First(p => p.Title == title).Id.Value;
        var eventful = db.Members.OrderByDescending(m => db.StandingChanges.Count(c => c.MemberId == m.Id)).ThenBy(m => m.Id).First().Id.Value;

        void Shot(string name, string path, bool phone = false, bool dark = false, Action? type = null)
        {
            if (only is not null && !only.Split(',').Any(o => name.Contains(o, StringComparison.Ordinal))) return;
            if (phone) b.Phone(); else b.Desktop();
            b.Dark(dark);
            s.Go(path);
            type?.Invoke();
            b.Driver.ExecuteAsyncScript("const done = arguments[0]; document.fonts.ready.then(() => requestAnimationFrame(() => done()));");
            b.Screenshot(Path.Combine(folder, name + ".png"));
        }

        Shot("front-home", "/");
        Shot("front-tiers", "/tiers");
        Shot("front-doorway", $"/read/{Piece("Feeding in frost")}");
        s.AsMirela();
        Shot("member-home", "/me");
        Shot("member-home-phone", "/me", phone: true);
        Shot("member-reading", $"/lessons/{Lesson("Making fondant, step by step")}");
        Shot("member-reading-phone", $"/lessons/{Lesson("Making fondant, step by step")}", phone: true);
        Shot("member-tally", $"/me/tallies/{now.Tallies[0].Id.Value}");
        Shot("member-people", "/people");
        Shot("member-thread", $"/spaces/threads/{db.TalkThreads.First(t => t.Choices != null).Id}");
        b.Desktop();
        s.AsOwner();
        Shot("desk-today", "/desk");
        Shot("desk-challenge", $"/desk/challenges/{now.Community.Challenges[0].Id.Value}");
        Shot("desk-piece", $"/desk/pieces/{Piece("Three quiet winter checks")}");
        Shot("desk-lesson", $"/desk/lessons/{Lesson("How much is enough?")}",
            type: () =>
            b.Driver.ExecuteScript("document.querySelectorAll('.block')[1].scrollIntoView({ block: 'start', behavior: 'instant' }); scrollBy(0, -70)"));
        Shot("desk-editions", "/desk/editions");
        Shot("desk-promise", $"/desk/tiers/{now.Plans.Single(x => x.Name == "Apiary").Id.Value}/promise", type: () =>
        {
            b.Click("#say-0-reach");
            b.Click("#l0-reach option[value=joining]");
            b.WaitFor("could not open");
            b.Driver.ExecuteScript("document.querySelector('details.say[open]').open = false; document.activeElement.blur(); scrollTo(0, 0)");
        });
        Shot("desk-member", $"/desk/members/{eventful}");
        Shot("desk-routine", $"/desk/routines/{now.People.Routines.Single(r => r.Name == "A good first week").Id}");
        Shot("desk-arrivals", "/desk/arrivals");
        // Any other page, to look at while working: SHOTS_EXTRA="/desk/settings /desk@phone m:/me" (m: as a member, v: as a visitor). What is named by its
        // title stands in braces, with _ for spaces: /desk/lessons/{l:Three_looks}, {p:…} for a piece, {m} for the demo's member.
        string Named(string path) => System.Text.RegularExpressions.Regex.Replace(path, @"\{(\w)(?::([^}]*))?\}", m => (m.Groups[1].Value switch
        {
            "l" => Lesson(m.Groups[2].Value.Replace('_', ' ')),
            "p" => Piece(m.Groups[2].Value.Replace('_', ' ')),
            _ => db.Members.First(x => x.Email == App.Demo.SeedDemo.MemberEmail).Id.Value,
        }).ToString(System.Globalization.CultureInfo.InvariantCulture));
        foreach (var (extra, n) in (Environment.GetEnvironmentVariable("SHOTS_EXTRA") ?? "").Split(' ', StringSplitOptions.RemoveEmptyEntries)
            .Select((e, i) => (e, i)))
        {
            only = null;
            if (extra.StartsWith("m:", StringComparison.Ordinal)) s.AsMirela();
            if (extra.StartsWith("v:", StringComparison.Ordinal)) { s.Go("/"); b.Forget(); }
            Shot($"extra-{n}", Named(extra[(extra[1] == ':' ? 2 : 0)..].Split('@')[0]),
                phone: extra.EndsWith("@phone", StringComparison.Ordinal));
        }
        b.Dark(false);
        Assert.NotEmpty(Directory.GetFiles(folder, "*.png"));
    }
}
