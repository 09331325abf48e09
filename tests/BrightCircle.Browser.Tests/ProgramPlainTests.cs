using System.Net;
using System.Text;
using BrightCircle.App.Due;
using BrightCircle.App.Routines;
using BrightCircle.Core;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Other programs at the Desk: the key, what is reported, what is told; and the opened links of letters.</summary>
[Collection("demo")]
public class ProgramPlainTests(DemoSite site)
{
    Routine Find(long id) => site.Catalogue.Now.People.RoutineById[id];

    [Fact]
    public async Task A_program_reports_a_routine_begins_and_tells_another()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/routines/programs");
        if (owner.Text.Contains("Make a key", StringComparison.Ordinal)) await owner.Press("Make a key");
        var address = owner.Page.QuerySelector("[data-copy]")!.GetAttribute("data-copy")!;
        // Another key is made only by whoever says that they’ll tell; the old address is nobody’s then.
        await owner.Press("Make another key");
        owner.Says("Nothing was changed");
        Assert.Equal(address, owner.Page.QuerySelector("[data-copy]")!.GetAttribute("data-copy"));
        await owner.Press("Make another key", ("sure", "true"));
        var newer = owner.Page.QuerySelector("[data-copy]")!.GetAttribute("data-copy")!;
        Assert.NotEqual(address, newer);

        await owner.Open("/desk/routines");
        await owner.Press("New routine");
        var id = long.Parse(owner.At.AbsolutePath.Split('/')[^1], System.Globalization.CultureInfo.InvariantCulture);
        await owner.Press("Save", ("Name", "From the fair"), ("When.Kind", "reported"), ("When.Name", "paid at the fair"), ("Again", "WhenThrough"),
            ("Goal.Kind", "none"));
        owner.Says("When somebody is reported by another program as “paid at the fair”");
        await owner.Post($"/desk/routines/{id}?handler=add", ("basedOn", $"{Find(id).Version}"), ("behind", "0"), ("kind", "tell"));
        await owner.Post($"/desk/routines/{id}?handler=step", ("basedOn", $"{Find(id).Version}"), ("step", "1"), ("Step.Text", "nowhere"));
        owner.Says("Write the address of the other program");
        await owner.Post($"/desk/routines/{id}?handler=step", ("basedOn", $"{Find(id).Version}"), ("step", "1"), ("Step.Text", "https://127.0.0.1:9/told"));
        owner.Says("Tell another program: https://127.0.0.1:9/told");
        await owner.Press("Turn it on");
        Assert.True(Find(id).IsOn);

        var (p, email) = await site.Newcomer("Olive Thorn");
        using var newcomer = p;
        using var http = new HttpClient();
        async Task<HttpStatusCode> Post(string to, string json)
        {
            using var answer = await http.PostAsync(to, new StringContent(json, Encoding.UTF8, "application/json"));
            return answer.StatusCode;
        }
        var body = $$"""{"name": "Paid at the fair", "email": "{{email}}", "reference": "f-1"}""";
        Assert.Equal(HttpStatusCode.NotFound, await Post(address, body));
        Assert.Equal(HttpStatusCode.BadRequest, await Post(newer, "{"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await Post(newer, body.Replace(email, "nobody@post.example", StringComparison.Ordinal)));
        Assert.Equal(HttpStatusCode.RequestEntityTooLarge, await Post(newer, body + new string(' ', 20_000)));
        Assert.Equal(HttpStatusCode.NoContent, await Post(newer, body));
        Assert.Equal(HttpStatusCode.NoContent, await Post(newer, body));
        for (var end = Environment.TickCount64 + 120_000;
            !await site.Db(db => db.OutgoingCalls.AnyAsync(c => c.RoutineId == id && c.Answer != "")); await Task.Yield())
        {
            Assert.True(Environment.TickCount64 < end, "Nobody is told.");
            await site.App.Services.GetRequiredService<RunDue>().Run();
            await site.App.Services.GetRequiredService<TellPrograms>().Run(default);
        }
        // It is on this machine: that is never told.
        var call = await site.Db(db => db.OutgoingCalls.SingleAsync(c => c.RoutineId == id));
        Assert.Contains("own network", call.Answer, StringComparison.Ordinal);
        await site.Db(db => db.OutgoingCalls.ExecuteUpdateAsync(u => u.SetProperty(c => c.State, CallState.GivenUp)
            .SetProperty(c => c.Answer, "503 Service Unavailable")));
        await owner.Open("/desk");
        owner.Says("Another program didn’t take 1 thing it was told");
        await owner.Open("/desk/routines/programs");
        owner.Says("Olive Thorn");
        owner.Says("503 Service Unavailable");
        await owner.Press("Tell again of Olive Thorn");
        owner.Says("1 thing will be told again");
        await site.Db(db => db.OutgoingCalls.ExecuteUpdateAsync(u => u.SetProperty(c => c.State, CallState.GivenUp)));
        await owner.Open("/desk/routines/programs");
        await owner.Press("Leave them all");
        owner.Says("1 thing left");
        Assert.False(await site.Db(db => db.OutgoingCalls.AnyAsync(c => c.Id == call.Id)));
        await owner.Open($"/desk/routines/{id}");
        await owner.Press("Turn it off");
    }

    [Fact]
    public async Task Opened_links_are_counted_when_the_owner_says_so()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/settings/mail");
        owner.Says("not counted");
        await owner.Press("Count them from now on");
        owner.Says("Opened links are counted from now on");
        await owner.Press("Count them no longer");
        Assert.False(site.Catalogue.Now.Site!.CountsLinks);
        using var stranger = new Plain(site.App.Url);
        using var none = await stranger.Get("/l/nothing/0");
        Assert.Equal(HttpStatusCode.NotFound, none.StatusCode);
    }

    [Fact]
    public async Task The_figures_of_the_month_lead_to_the_people_behind_them()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/departures");
        foreach (var link in owner.Page.QuerySelectorAll("a[href^='/desk/departures/moved']").Select(a => (To: a.GetAttribute("href")!,
            Figure: int.Parse(a.TextContent.Trim('+', '−', ' '), System.Globalization.CultureInfo.InvariantCulture))).ToArray())
        {
            await owner.Open(link.To);
            owner.Says(link.Figure == 1 ? "1 person" : $"{link.Figure} people");
            Assert.Equal(Math.Min(link.Figure, 50), owner.Page.QuerySelectorAll("tbody tr").Length);
        }
        using var nothing = await owner.Get("/desk/departures/moved?what=40");
        Assert.Equal(HttpStatusCode.NotFound, nothing.StatusCode);
        using var noTier = await owner.Get("/desk/departures/moved?what=Joined&tier=5");
        Assert.Equal(HttpStatusCode.NotFound, noTier.StatusCode);
    }
}
