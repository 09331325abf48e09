using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.App.Routines;
using BrightCircle.Core;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;

namespace BrightCircle.App.Demo;

/// <summary>What goes by itself at Tansy Lane since autumn.</summary>
public sealed partial class SeedDemo
{
    /// <summary>From then on newcomers are looked after.</summary>
    static readonly NodaTime.LocalDateTime RoutinesFrom = new(2026, 9, 3, 9, 40);

    void PlanRoutines(CancellationToken ct)
    {
        At(Calendar.At(RoutinesFrom), async () =>
        {
            TagId fresh = default;
            await Do<MemberTags>(async s => fresh = MustBe(await s.Save(owner, null, "new", "By routines", 1, null, ct)));
            await Routine("A good first week", async letter => Script.Of(new Trigger.Joins([plans["Keeper"], plans["Apiary"]], null, false),
                new Step.SendLetter(1, await letter("Welcome, and where to begin",
                    "<div>how good that you are here. Don’t read everything. Take a quarter of an "
                    + "hour, and begin with what is <a href=\"/me\">open for you now</a>.</div>")),
                new Step.PutTag(2, fresh),
                new Step.WaitFor(3, new Trigger.Opens(null), 3, [],
                [
                    new Step.SendLetter(4, await letter("Can we help you find it?", "<div>many don’t know where to begin, and that is our fault and not yours. "
                        + "Everything that is open for you stands on one page.</div><div><strong><a href=\"/me\">Begin here</a></strong></div>")),
                    new Step.AddTask(5, "Hasn’t opened anything in three days. Call?"),
                ]),
                new Step.WaitForTime(6, 4, new(18, 0)),
                new Step.SendLetter(7, await letter("Come to the clinic", "<div>on the first Thursday of each month we sit together for an hour, and everybody "
                    + "brings one question. Come by, also without one.</div>")),
                new Step.Wait(8, 21, 0),
                new Step.TakeTag(9, fresh)) with
            { Again = Again.Never, Goal = new Trigger.Leaves([]) }, on: true, ct);
        });
        At(Calendar.At(new(2026, 10, 1, 9, 20)), async () =>
        {
            foreach (var (key, on) in new[] { ("card", true), ("leaving", true), ("back", false) })
                await Do<EditRoutine>(async s =>
                {
                    var id = MustBe(await s.New(owner, RoutinePattern.All(catalogue.Now).First(p => p.Key == key), ct));
                    if (on) MustBe(await s.Turn(owner, id, true, ct));
                });
        });
    }

    async Task Routine(string name, Func<Func<string, string, Task<long>>, Task<Script>> make, bool on, CancellationToken ct)
    {
        long id = 0;
        await Do<EditRoutine>(async s => id = MustBe(await s.New(owner, null, ct)));
        async Task<long> Letter(string subject, string body)
        {
            long letter = 0;
            await Do<EditRoutine>(async s => letter = await s.NewLetter(owner, id, ct));
            await Do<Mailings>(async s => MustBe(await s.Save(owner, letter,
                new(subject, "", "<div>Dear {{ first_name | default: \"friend\" }},<br><br></div>" + body
                + "<div><br>Ines</div>", null, false, null, 1), ct)));
            return letter;
        }
        var script = await make(Letter);
        await Do<EditRoutine>(async s => MustBe(await s.Change(owner, id, 1, name, _ => script, ct)));
        if (on) await Do<EditRoutine>(async s => MustBe(await s.Turn(owner, id, true, ct)));
        // What the team was asked was done, but for the last weeks.
        At(end - NodaTime.Duration.FromMinutes(1), () => Do<BrightContext>(async db =>
        {
            var late = end - NodaTime.Duration.FromDays(9);
            await db.TeamTasks.Where(t => t.At < late).ExecuteUpdateAsync(u =>
                u.SetProperty(t => t.DoneAt, t => t.At).SetProperty(t => t.DoneBy, owner.Name), ct);
        }));
    }
}
