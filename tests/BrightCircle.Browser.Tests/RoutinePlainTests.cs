using BrightCircle.App.Catalogues;
using BrightCircle.App.Demo;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace BrightCircle.Browser.Tests;

/// <summary>Routines at the Desk, without scripts: read, made, changed in place, tried, turned on, looked into.</summary>
[Collection("demo")]
public class RoutinePlainTests(DemoSite site)
{
    /// <summary>Looks until it is so, doing what is due.</summary>
    async Task Until(Func<BrightContext, Task<bool>> so)
    {
        for (var end = Environment.TickCount64 + 120_000; !await site.Db(so); await Task.Yield())
        {
            Assert.True(Environment.TickCount64 < end, "It doesn’t come to it.");
            await site.App.Services.GetRequiredService<App.Due.RunDue>().Run();
        }
    }

    Routine Find(string name) => site.App.Services.GetRequiredService<Catalogue>().Now.People.Routines.Single(r => r.Name == name);

    [Fact]
    public async Task A_routine_is_made_of_a_pattern_changed_step_by_step_tried_and_turned_on()
    {
        using var owner = await site.Owner();
        await owner.Open("/desk/routines");
        owner.Says("The first day, the fourth and the tenth");
        // A pattern can be read before it is used.
        owner.Says("Send the letter What others come back for");
        await owner.Press("Use it: Welcome in three letters");
        owner.Says("When somebody joins any plan for the first time");
        var id = Find("Welcome in three letters").Id;

        await owner.Press("Save", ("Name", "Three letters for Keepers"), ("When.Kind", "joins"), ("When.Plans", $"{Plan("Keeper")}"), ("When.Returning", "any"),
            ("Again", "Never"), ("Goal.Kind", "leaves"));
        owner.Says("joins Keeper");
        owner.Says("It also ends when somebody decides to leave any plan.");
        // What can't be is said at its step, and what was typed stays.
        await owner.Post($"/desk/routines/{id}?handler=step", ("basedOn", $"{Find("Three letters for Keepers").Version}"), ("step", "2"),
            ("Step.Days", "500"), ("Step.Hours", "0"));
        owner.Says("A wait is up to 366 days, and up to 23 hours.");
        Assert.Equal("500", owner.Page.QuerySelector("#step-2 input[name='Step.Days']")!.GetAttribute("value"));
        await owner.Post($"/desk/routines/{id}?handler=step", ("basedOn", $"{Find("Three letters for Keepers").Version}"), ("step", "2"), ("Step.Days", "5"),
            ("Step.Hours", "6"));
        owner.Says("Wait 5 days and 6 hours");
        // Each kind of step can be put in, and stands open to be changed.
        foreach (var kind in new[] { "wait", "wait-time", "wait-day", "wait-for", "branch", "split", "put-tag", "take-tag", "give", "end-gift", "fill",
            "task", "note", "tell", "stop" })
        {
            await owner.Post($"/desk/routines/{id}?handler=add", ("basedOn", $"{Find("Three letters for Keepers").Version}"), ("behind", "6"), ("kind", kind));
            var step = Find("Three letters for Keepers").Script.LastId;
            Assert.NotNull(owner.Page.QuerySelector($"#step-{step} details.step-more[open]"));
            if (kind != "branch") await owner.Post($"/desk/routines/{id}?handler=take", ("basedOn", $"{Find("Three letters for Keepers").Version}"),
                ("step", $"{step}"));
        }
        var branch = Find("Three letters for Keepers").Script.LastId - 10;
        Assert.IsType<Step.Branch>(Find("Three letters for Keepers").Script.Find(branch));
        // A letter for one of its ways is written where letters are.
        await owner.Post($"/desk/routines/{id}?handler=add", ("basedOn", $"{Find("Three letters for Keepers").Version}"), ("behind", $"{branch}"),
            ("way", "true"), ("kind", "letter"));
        owner.Says("a step of a routine");
        Assert.DoesNotContain("Send it", owner.Page.QuerySelector("main")!.TextContent, StringComparison.Ordinal);
        await owner.Press("Save", ("Subject", "For some of you"), ("Body", "<div>Dear {{ first_name }}, all is well.</div>"));
        await owner.Open($"/desk/routines/{id}");
        owner.Says("For some of you");
        // A second window that is behind is told so.
        await owner.Post($"/desk/routines/{id}?handler=move", ("basedOn", "1"), ("step", "2"), ("up", "false"));
        owner.Says("Somebody changed it meanwhile");

        await owner.Open($"/desk/routines/{id}?on={SeedDemo.MemberEmail}");
        owner.Says("If Mirela Duarte began it now");
        await owner.Open($"/desk/routines/{id}?on=nobody@nowhere.example");
        owner.Says("Nobody has the address");

        await owner.Press("Turn it on");
        owner.Says("from now on people begin it");
        var already = await site.Db(db => db.RoutineRuns.CountAsync(r => r.RoutineId == id));
        Assert.Equal(0, already);
        await owner.Press("Begin it for");
        owner.Says("begin it now");
        // The site's own worker may be at it already.
        await Until(db => db.RoutineDone.AnyAsync(d => db.RoutineRuns.Any(r => r.Id == d.RunId && r.RoutineId == id)));
        await owner.Open($"/desk/routines/{id}");
        await owner.Open(owner.Link("Who was in it"));
        var run = await site.Db(db => db.RoutineRuns.FirstAsync(r => r.RoutineId == id));
        await owner.Open($"/desk/runs/{run.Id}");
        owner.Says("Send the letter Where to begin");
        await owner.Press("Take them out");
        owner.Says("They are taken out of it.");
        await owner.Open($"/desk/routines/{id}");
        await owner.Press("Take all");
        owner.Says("taken out of it");
        await owner.Press("Turn it off");
        owner.Says("nobody begins it");
        Assert.Equal(0, await site.Db(db => db.RoutineRuns.CountAsync(r => r.RoutineId == id && r.EndedAt == null)));
    }

    long Plan(string name) => site.App.Services.GetRequiredService<Catalogue>().Now.Plans.Single(p => p.Name == name).Id.Value;

    [Fact]
    public async Task The_demos_routine_shows_who_stands_where_and_what_the_team_is_to_do()
    {
        using var owner = await site.Owner();
        var routine = Find("A good first week");
        await owner.Open($"/desk/routines/{routine.Id}");
        var waiting = await site.Db(db => db.RoutineRuns.CountAsync(r => r.RoutineId == routine.Id && r.EndedAt == null));
        owner.Says($"{waiting} in it now");
        var here = owner.Page.QuerySelectorAll("a.here").Sum(a => int.Parse(a.TextContent, System.Globalization.CultureInfo.InvariantCulture));
        Assert.Equal(waiting, here);
        var task = await site.Db(db => db.TeamTasks.OrderBy(t => t.At).FirstAsync(t => t.DoneAt == null));
        await owner.Open("/desk");
        var open = await site.Db(db => db.TeamTasks.CountAsync(t => t.DoneAt == null));
        owner.Says(open == 1 ? $"{task.Text} To do for a member." : $"{open} things to do for members.");
        await owner.Open($"/desk/members/{task.MemberId.Value}");
        owner.Says(task.Text);
        await owner.Post($"/desk/members/{task.MemberId.Value}?handler=task", ("task", "Ring up about the autumn fair"));
        owner.Says("It stands on Today.");
        await owner.Open("/desk/tasks");
        owner.Says("Ring up about the autumn fair");
        await owner.Post("/desk/tasks?handler=done", ("task", $"{task.Id}"));
        owner.Says("Done.");
        await owner.Post("/desk/tasks?handler=done", ("task", $"{task.Id}"));
        owner.Says("It was done already.");
        await owner.Open("/desk/tasks?done=true");
        owner.Says($"done by Ines");
        await owner.Post("/desk/tasks?handler=reopen", ("task", $"{task.Id}"));
        owner.Says("It is open again.");
    }
}
