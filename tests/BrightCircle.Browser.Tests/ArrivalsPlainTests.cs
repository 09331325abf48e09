using BrightCircle.App.Billing;
using BrightCircle.App.Demo;
using BrightCircle.Core;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Who comes and who goes, in the demo, without scripts.</summary>
[Collection("demo")]
public class ArrivalsPlainTests(DemoSite site)
{
    [Fact]
    public async Task Whoever_is_stuck_stands_out_and_each_repair_leads_where_it_is_done()
    {
        using var owner = await site.Owner();
        // Somebody began to join two days ago, and went away.
        await using (var scope = site.App.Services.CreateAsyncScope())
        {
            var begin = scope.ServiceProvider.GetRequiredService<BeginJoin>();
            var price = site.App.Services.GetRequiredService<App.Catalogues.Catalogue>().Now.Prices.Single(p => p.Code == "keeper-month");
            var begun = Assert.IsType<JoinStart.Begun>(await begin.Do(price, "Halfway Hannah", "hannah@post.example", null, default)).Checkout;
            var ago = scope.ServiceProvider.GetRequiredService<IClock>().GetCurrentInstant() - Duration.FromDays(2);
            await scope.ServiceProvider.GetRequiredService<BrightContext>().Checkouts.Where(c => c.Id == begun)
                .ExecuteUpdateAsync(u => u.SetProperty(c => c.CreatedAt, ago));
        }
        await owner.Open("/desk/arrivals");
        owner.Says("Halfway Hannah");
        owner.Says("Went away while joining, 2 days ago.");
        owner.Says("Every paid order of these weeks has its holding");
        var repairs = owner.Page.QuerySelectorAll(".pc.stuck a.btn").Select(a => a.GetAttribute("href")!).Distinct().ToArray();
        Assert.NotEmpty(repairs);
        var board = owner.At;
        foreach (var repair in repairs.Take(12)) await owner.Open(repair);
        await owner.Open(board.PathAndQuery + "?only=Opened");
        Assert.Single(owner.Page.QuerySelectorAll(".lane"));
        // Of every column the figure is the number of its people.
        await owner.Open("/desk/arrivals");
        foreach (var lane in owner.Page.QuerySelectorAll(".lane"))
        {
            var more = lane.QuerySelector("p.small a") is { } link ? int.Parse(link.TextContent.Split(' ')[0],
                System.Globalization.CultureInfo.InvariantCulture) : 0;
            Assert.Equal(lane.QuerySelector(".num")!.TextContent, $"{lane.QuerySelectorAll(".pc").Length + more}");
        }
    }

    [Fact]
    public async Task A_link_to_read_out_signs_its_member_in_after_a_button()
    {
        using var owner = await site.Owner();
        var member = await site.Db(db => db.Members.AsNoTracking().OrderByDescending(m => m.Id).FirstAsync(m => m.Standing == Standing.Active));
        await owner.Open($"/desk/members/{member.Id.Value}");
        await owner.Open(owner.Link("A way in"));
        await owner.Press("Make a link");
        var link = owner.Page.QuerySelector("#link")!.GetAttribute("value")!;
        // It is shown once: the page anew doesn't know it.
        await owner.Open($"/desk/members/{member.Id.Value}/way-in");
        Assert.Null(owner.Page.QuerySelector("#link"));
        using var they = new Plain(site.App.Url);
        await they.Open(new Uri(link).AbsolutePath);
        await they.Press(they.Page.QuerySelector("main form button")!.TextContent.Trim());
        they.Says(member.FirstName);
        await owner.Open("/desk/settings/journal");
        owner.Says($"made a way in for {member.Name}");
    }

    [Fact]
    public async Task Departures_say_how_many_and_each_leads_to_its_member()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/departures");
        var grace = await site.Db(db => db.Members.CountAsync(m => m.Standing == Standing.Grace));
        Assert.Equal($"{grace}", owner.Page.QuerySelector("[aria-labelledby=lane-grace] .num")!.TextContent);
        owner.Says("May not stay");
        var figures = owner.Page.QuerySelectorAll("table.t tbody tr:last-child td.r").Take(5)
            .Select(td => int.Parse(new string([.. td.TextContent.Where(char.IsAsciiDigit)]), System.Globalization.CultureInfo.InvariantCulture)).ToArray();
        Assert.Equal(figures[4], figures[0] + figures[1] + figures[2] - figures[3]);
        await owner.Open(owner.Page.QuerySelector(".pc a")!.GetAttribute("href")!);
    }
}
