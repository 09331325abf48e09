using System.Diagnostics;
using BrightCircle.App;
using BrightCircle.App.Due;
using BrightCircle.App.Insight;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.App.Routines;
using BrightCircle.App.Tests;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace BrightCircle.Bench;

/// <summary>Audiences, letters, routines, arrivals and departures, beside a thousand members and beside a hundred thousand.</summary>
public static partial class BenchMain
{
    static async Task<double> Middle(int times, Func<Task> what)
    {
        var took = new List<double>();
        for (var i = 0; i < times + 2; i++)
        {
            var watch = Stopwatch.StartNew();
            await what();
            if (i >= 2) took.Add(watch.Elapsed.TotalMilliseconds);
        }
        return took.Order().ElementAt(took.Count / 2);
    }

    static async Task AboutPeople()
    {
        await using var house = await House.Open();
        var audience = new Condition.AllOf([new Condition.InStanding([Standing.Trial, Standing.Active]), new Condition.Holds([house.Keeper]),
            new Condition.Not(new Condition.Seen(new When.InLast(30)))]);
        var (fewArrivals, fewDepartures, there) = (0.0, 0.0, 0);
        foreach (var many in new[] { 1_000, 100_000 })
        {
            await ManyMembers.Add(house, many - there);
            there = many;
            await house.Ask(db => db.Database.ExecuteSqlRawAsync("vacuum analyze"));
            var counted = await Middle(9, () => house.Get<Audiences, AudienceLook>(async s => (await s.Look(audience, null, default)).Look));
            Row($"an audience of three lines counted, ten names, {many:N0} members", $"{counted:0} ms", "", "", many > 1000 ? "under 300 ms" : "");
            var arrivals = await Middle(9, () => house.Get<Arrivals, ArrivalsView>(s => s.Load(house.Clock.Moment, default)));
            var departures = await Middle(9, () => house.Get<Departures, DeparturesView>(s => s.Load(house.Clock.Moment, default)));
            Row($"arrivals beside {many:N0} members", $"{arrivals:0.0} ms", fewArrivals > 0 ? $"1,000: {fewArrivals:0.0} ms" : "",
                fewArrivals > 0 ? $"{arrivals / fewArrivals:0.00}" : "", fewArrivals > 0 ? "< 1.50" : "");
            Row($"departures beside {many:N0} members", $"{departures:0.0} ms", fewDepartures > 0 ? $"1,000: {fewDepartures:0.0} ms" : "",
                fewDepartures > 0 ? $"{departures / fewDepartures:0.00}" : "", fewDepartures > 0 ? "< 1.50" : "");
            (fewArrivals, fewDepartures) = (arrivals, departures);
        }

        var text = house.Services.GetRequiredService<IServiceScopeFactory>().CreateScope().ServiceProvider.GetRequiredService<MailingText>();
        var letter = new Mailing
        {
            Subject = "News for {{ name }}",
            Body = string.Concat(Enumerable.Repeat("<div>Dear {{ first_name }}, all is <strong>well</strong>.</div>", 30))
        };
        for (var i = 0; i < 200; i++) text.Render(letter, "Ann Lee", new Dictionary<string, string>(), "#");
        var watch = Stopwatch.StartNew();
        for (var i = 0; i < 2000; i++) text.Render(letter, $"Ann {i}", new Dictionary<string, string>(), "#");
        Row("letters to many rendered, one core", $"{2000 / watch.Elapsed.TotalSeconds:0}/s", "", "", "at least 500/s");

        // Five thousand go through a letter, a wait, a question, another letter and a tag.
        const int people = 5_000;
        var tag = (await house.Get<MemberTags, Result<TagId>>(s => s.Save(house.Owner, null, "through", null, 1, null, default))).Value;
        var keepers = (await house.Get<Audiences, Result<AudienceId>>(s =>
            s.Save(house.Owner, null, "Keepers", new Condition.Holds([house.Keeper]), default))).Value;
        var id = (await house.Get<EditRoutine, Result<long>>(s => s.New(house.Owner, null, default))).Value;
        var made = await house.Get<EditRoutine, long>(s => s.NewLetter(house.Owner, id, default));
        await house.Get<Mailings, Result<int>>(s => s.Save(house.Owner, made, new("Hello", "", "<div>Dear {{ first_name }}</div>", null, false, null, 1),
            default));
        await house.Get<EditRoutine, Result>(s => s.Change(house.Owner, id, 1, null, _ => Script.Of(new Trigger.SignsIn(), new Step.SendLetter(1, made),
            new Step.Wait(2, 1, 0), new Step.Branch(3, keepers, [new Step.SendLetter(4, made)], []), new Step.PutTag(5, tag)), default));
        await house.Get<EditRoutine, Result>(s => s.Turn(house.Owner, id, true, default));
        await house.Ask(async db =>
        {
            RoutineBegins.Put(db, house.Services.GetRequiredService<Ids>(), id,
                await db.Members.OrderBy(m => m.Id).Take(people).Select(m => m.Id).ToListAsync(),
                house.Clock.Moment);
            return await db.SaveChangesAsync();
        });
        watch.Restart();
        var due = house.Services.GetRequiredService<RunDue>();
        await due.Run();
        await due.Forward(house.Clock.Moment + Duration.FromDays(1) + Duration.FromMinutes(5), new(), _ => Task.CompletedTask);
        var steps = await house.Ask(db => db.RoutineDone.CountAsync());
        Row($"routine steps, {people:N0} people", $"{steps / watch.Elapsed.TotalSeconds:0}/s ({steps:N0} steps)", "", "", "at least 1,000/s");
        var waiting = await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.RoutineStep || d.Kind == DueKind.RoutineBegin));
        Row("rows of routines that wait when all are through", $"{waiting}", "", "", "0");
    }
}

file static class HouseSteps
{
    public static async Task<TResult> Get<T, TResult>(this House house, Func<T, Task<TResult>> ask) where T : notnull
    {
        TResult result = default!;
        await house.Do<T>(async s => result = await ask(s));
        return result;
    }
}
