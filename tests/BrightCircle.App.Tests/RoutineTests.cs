using BrightCircle.App.Billing;
using BrightCircle.App.Demo;
using BrightCircle.App.Due;
using BrightCircle.App.Letters;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Routines;
using BrightCircle.Core;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Routines;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>Routines against the real database: who begins one, that each step is done once whatever happens, and what a change does to those who are in
/// it.</summary>
public class RoutineTests
{
    static Task Due(House house) => house.Services.GetRequiredService<RunDue>().Run();

    /// <summary>A routine, on.</summary>
    static async Task<long> On(House house, Func<long, Script> script, string subject = "Hello {{ name }}", string? name = null)
    {
        var id = (await house.Get<EditRoutine, Result<long>>(s => s.New(house.Owner, null, default))).Value;
        var letter = await house.Get<EditRoutine, long>(s => s.NewLetter(house.Owner, id, default));
        Assert.True((await house.Get<Mailings, Result<int>>(s => s.Save(house.Owner, letter,
            new(subject, "", "<div>Dear {{ first_name }}</div>", null, false, null, 1),
            default))).Ok);
        var made = script(letter);
        var changed = await house.Get<EditRoutine, Result>(s => s.Change(house.Owner, id, 1, name ?? $"Routine {id}", _ => made, default));
        Assert.True(changed.Ok, changed.Refusal);
        var turned = await house.Get<EditRoutine, Result>(s => s.Turn(house.Owner, id, true, default));
        Assert.True(turned.Ok, turned.Refusal);
        return id;
    }

    static Task<Result> Change(House house, long id, Func<Script, Script> change) =>
        house.Get<EditRoutine, Result>(s => s.Change(house.Owner, id, house.Now.People.RoutineById[id].Version, null, change, default));
    static Task<List<RoutineRun>> Runs(House house, long id) => house.Ask(db =>
        db.RoutineRuns.AsNoTracking().Where(r => r.RoutineId == id).OrderBy(r => r.Id).ToListAsync());
    static Task<List<RoutineDone>> Done(House house, long run) => house.Ask(db =>
        db.RoutineDone.AsNoTracking().Where(d => d.RunId == run).OrderBy(d => d.Turn).ToListAsync());
    static Task<int> Copies(House house, MemberId member) => house.Ask(db => db.Letters.CountAsync(l => l.MemberId == member && l.Kind == LetterKind.Many));
    static async Task<TagId> Tag(House house, string name) => (await house.Get<MemberTags,
        Result<TagId>>(s => s.Save(house.Owner, null, name, null, 1, null, default))).Value;
    static Task<bool> Bears(House house, MemberId member, TagId tag) => house.Ask(db => db.MemberTags.AnyAsync(t => t.MemberId == member && t.TagId == tag));
    static async Task<AudienceId> Audience(House house, string name, Condition condition) =>
        (await house.Get<Audiences, Result<AudienceId>>(s => s.Save(house.Owner, null, name, condition, default))).Value;

    [Fact]
    public async Task Whoever_joins_gets_its_letters_and_tag_in_their_time_and_each_once()
    {
        await using var house = await House.Open();
        var tag = await Tag(house, "new");
        var before = await house.Join(house.Free);
        var id = await On(house, letter => Script.Of(new Trigger.Joins([house.Keeper], house.Monthly), new Step.SendLetter(1, letter), new Step.PutTag(2, tag),
            new Step.Wait(3, 3, 0), new Step.SendLetter(4, letter), new Step.TakeTag(5, tag)));
        var member = await house.Join(house.Monthly);
        var other = await house.Join(house.Free);
        await Due(house);
        var run = Assert.Single(await Runs(house, id));
        Assert.Equal((member, 3, (RunEnd?)null), (run.MemberId, run.Step, run.End));
        Assert.NotNull(run.Because);
        Assert.True(await Bears(house, member, tag));
        await house.Deliver();
        var address = (await house.Member(member)).Email;
        Assert.Single(await House.Post(address), s => s.StartsWith("Hello ", StringComparison.Ordinal));
        // One row waits, and nothing is done before its time.
        Assert.Equal(1, await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.RoutineStep)));
        await house.Days(2);
        Assert.Equal(1, await Copies(house, member));
        await house.Days(1);
        Assert.Equal(2, await Copies(house, member));
        Assert.False(await Bears(house, member, tag));
        run = Assert.Single(await Runs(house, id));
        Assert.Equal(RunEnd.Through, run.End);
        var done = await Done(house, run.Id);
        Assert.Equal([1, 2, 3, 4, 5], done.Select(d => d.Step));
        Assert.Equal("Send the letter Hello {{ name }}", done[0].What);
        Assert.Equal(0, await Copies(house, other) + await Copies(house, before));
        // At its foot stands why, and how to have fewer.
        var letter = await House.Letter(address, "Hello");
        Assert.Contains($"because you joined {house.Now.PlanName(house.Keeper)}", letter.GetProperty("text").GetString(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Two_workers_a_row_put_in_twice_and_one_killed_do_nothing_twice()
    {
        await using var house = await House.Open();
        var id = await On(house, letter => Script.Of(new Trigger.SignsIn(), new Step.SendLetter(1, letter), new Step.Wait(2, 0, 1),
            new Step.AddTask(3, "Ring them up"),
            new Step.SendLetter(4, letter)));
        var members = new List<MemberId>();
        for (var i = 0; i < 6; i++) members.Add(await house.Join(house.Free));
        await house.Ask(async db =>
        {
            foreach (var m in members)
                db.Journal.Add(new()
                {
                    Id = house.Services.GetRequiredService<Ids>().Next(),
                    MemberId = m,
                    At = house.Clock.Moment,
                    Kind = "signed-in",
                    Event = new Core.Events.Event.SignedIn()
                });
            return await db.SaveChangesAsync();
        });
        Assert.Equal(6, await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.RoutineHears)));
        await using var node = await house.AnotherNode();
        // The same hour for both: whichever of them hears it, its wait ends in an hour of this house.
        node.Clock.StandAt(house.Clock.Moment);
        await Task.WhenAll(Due(house), Due(node));
        await Due(house);
        var runs = await Runs(house, id);
        Assert.Equal(members.Order(), runs.Select(r => r.MemberId).Order());
        // A worker dies after the work and before the commit, twice: what it did is undone with it, and another does it.
        var deaths = new Deaths { Left = 2 };
        await using (var dying = await house.AnotherNode(s =>
        {
            s.AddSingleton(deaths);
            s.Insert(0, ServiceDescriptor.Scoped<IDueHandler, DiesBeforeCommit>());
        }))
        {
            await dying.To(house.Clock.Moment + Duration.FromHours(2));
        }
        Assert.Equal(0, deaths.Left);
        await house.Ask(async db =>
        {
            foreach (var r in runs) db.PutDue(house.Services.GetRequiredService<Ids>(), DueKind.RoutineStep, r.Id, house.Clock.Moment, $"again-{r.Id}");
            return await db.SaveChangesAsync();
        });
        await house.To(house.Clock.Moment + Duration.FromHours(3));
        foreach (var m in members) Assert.Equal(2, await Copies(house, m));
        Assert.Equal(6, await house.Ask(db => db.TeamTasks.CountAsync(t => t.Text == "Ring them up")));
        Assert.All(await Runs(house, id), r => Assert.Equal((RunEnd.Through, 4), (r.End, r.Turn)));
    }

    sealed class Deaths
    {
        public int Left { get; set; }
    }

    sealed class DiesBeforeCommit(BrightContext db, RunRoutines routines, Deaths deaths) : IDueHandler
    {
        public DueKind Kind => DueKind.RoutineStep;

        public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
        {
            await new RoutineSteps(db, routines).Handle(items, happened, ct);
            await db.SaveChangesAsync(ct);
            if (deaths.Left > 0 && deaths.Left-- > 0) throw new InvalidOperationException("Killed.");
        }
    }

    [Fact]
    public async Task A_wait_ends_when_what_it_waits_for_happens_and_the_goal_ends_all_of_it()
    {
        await using var house = await House.Open();
        var (came, late, paid) = (await Tag(house, "came"), await Tag(house, "late"), await Tag(house, "paid"));
        var id = await On(house, _ => Script.Of(new Trigger.Joins([]), new Step.WaitFor(1, new Trigger.GetsTag(came), 3, [new Step.AddNote(2, "It came.")],
            [new Step.PutTag(3, late)]), new Step.Wait(4, 9, 0)) with
        { Goal = new Trigger.GetsTag(paid) });
        var (first, second, third) = (await house.Join(house.Free), await house.Join(house.Free), await house.Join(house.Free));
        await Due(house);
        await house.Days(1);
        await house.Get<MemberTags, Result>(s => s.PutOn(house.Owner, first, "came", default));
        // Put on many at once it is heard just the same.
        await using (var scope = house.Services.CreateAsyncScope())
        {
            var those = scope.ServiceProvider.GetRequiredService<BrightContext>().Members.Where(m => m.Id == third);
            Assert.Equal(1, (await scope.ServiceProvider.GetRequiredService<MemberTags>().OnMany(house.Owner, those, paid, true, default)).Value);
        }
        await Due(house);
        var runs = (await Runs(house, id)).ToDictionary(r => r.MemberId);
        Assert.Equal((4, (RunEnd?)null), (runs[first].Step, runs[first].End));
        Assert.Equal(1, runs[second].Step);
        Assert.Equal(RunEnd.Goal, runs[third].End);
        await house.Days(2);
        Assert.False(await Bears(house, first, late));
        Assert.True(await Bears(house, second, late));
        Assert.False(await Bears(house, third, late));
        Assert.Equal(1, await house.Ask(db => db.TeamNotes.CountAsync(n => n.Text == "It came.")));
    }

    [Fact]
    public async Task A_routine_edited_while_many_are_in_it_takes_each_on_from_where_they_stand()
    {
        await using var house = await House.Open();
        var tag = await Tag(house, "seen to");
        var id = await On(house, letter => Script.Of(new Trigger.Joins([]), new Step.Wait(1, 5, 0), new Step.SendLetter(2, letter), new Step.Wait(3, 5, 0),
            new Step.PutTag(4, tag)));
        for (var i = 0; i < 20; i++) await house.Join(house.Free);
        await Due(house);
        Assert.True((await Change(house, id, s => s.Remove(1).Remove(2))).Ok);
        // Who looked at an older version is told.
        Assert.False((await house.Get<EditRoutine, Result>(s => s.Change(house.Owner, id, 1, null, x => x, default))).Ok);
        // Whoever stood before what went is counted, and listed, where they will go on.
        var routine = house.Now.People.RoutineById[id];
        var view = await house.Get<LookAtRoutines, RoutineView>(s => s.Open(routine, null, false, default));
        Assert.Equal(20, view.Steps[3].Here);
        Assert.Equal(20, (await house.Get<LookAtRoutines, (IReadOnlyList<RunRow>, int Count)>(s => s.People(routine, 3, 1, default))).Count);
        Assert.Equal(0, (await house.Get<LookAtRoutines, (IReadOnlyList<RunRow>, int Count)>(s => s.People(routine, 4, 1, default))).Count);
        await house.Days(5);
        Assert.All(await Runs(house, id), r => Assert.Equal(3, r.Step));
        await house.Days(5);
        Assert.All(await Runs(house, id), r => Assert.Equal(RunEnd.Through, r.End));
        Assert.Equal(20, await house.Ask(db => db.MemberTags.CountAsync(t => t.TagId == tag)));
        Assert.Equal(0, await house.Ask(db => db.Letters.CountAsync(l => l.Kind == LetterKind.Many)));
    }

    [Fact]
    public async Task What_cant_be_done_for_one_is_left_out_with_the_reason_and_the_others_go_on()
    {
        await using var house = await House.Open();
        var apiary = (await house.Get<SavePlan, Result<PlanId>>(s => s.Do(house.Owner, null, new("Apiary", 3, "", [new(new Coverage.Everything(),
            new Reach.EverythingReleased(), new Keep.Nothing())]), default))).Value;
        var id = await On(house, letter => Script.Of(new Trigger.Joins([]), new Step.SendLetter(1, letter), new Step.Give(2, apiary, 14),
            new Step.EndGift(3, apiary),
            new Step.EndGift(4, apiary), new Step.EndGift(5, house.Keeper), new Step.Give(6, house.Keeper, null)));
        var (quiet, refusing, holds) = (await house.Join(house.Free), await house.Join(house.Free), await house.Join(house.Monthly));
        await house.Do<OwnSettings>(s => s.SetWantsNews(quiet, false, default));
        var email = (await house.Member(refusing)).Email;
        await house.Ask(async db =>
        {
            db.Add(new Letter
            {
                Id = 77,
                Kind = LetterKind.Receipt,
                MemberId = refusing,
                ToAddress = email,
                Key = "old",
                State = LetterState.Refused,
                CreatedAt = house.Clock.Moment
            });
            return await db.SaveChangesAsync();
        });
        await Due(house);
        async Task<string[]> LeftOut(MemberId m) => [.. (await Done(house, (await Runs(house, id)).Single(r => r.MemberId == m).Id)).Where(d => d.LeftOut)
            .Select(d => d.What.Split("left out: ")[1])];
        string[] WithKeeper(string name) => ["they don’t hold it", "they joined it themselves", $"{name} holds Keeper already."];
        Assert.Equal(WithKeeper((await house.Member(quiet)).Name).Prepend("they asked for no letters to many"), await LeftOut(quiet));
        Assert.Equal(WithKeeper((await house.Member(refusing)).Name).Prepend("their address refuses mail"), await LeftOut(refusing));
        Assert.Equal(WithKeeper((await house.Member(holds)).Name), await LeftOut(holds));
        // What was given and taken again left its facts, and the standing is theirs.
        var given = (await house.Holdings(quiet)).Single(h => h.PlanId == apiary);
        Assert.Equal((HoldingSource.Routine, true), (given.Source, given.IsOver));
        Assert.Equal(Standing.Active, (await house.Member(holds)).Standing);
    }

    [Theory]
    [InlineData(Again.Never, 1, 1)]
    [InlineData(Again.WhenThrough, 2, 1)]
    [InlineData(Again.FromTheStart, 3, 2)]
    public async Task Beginning_again_follows_its_rule(Again again, int inAll, int meanwhile)
    {
        await using var house = await House.Open();
        var tag = await Tag(house, "again");
        var id = await On(house, _ => Script.Of(new Trigger.GetsTag(tag), new Step.Wait(1, 2, 0)) with { Again = again });
        var member = await house.Join(house.Free);
        async Task Once()
        {
            await house.Get<MemberTags, Result>(s => s.PutOn(house.Owner, member, "again", default));
            await house.Get<MemberTags, Result>(s => s.TakeOff(house.Owner, member, tag, default));
            await Due(house);
        }
        await Once();
        await Once();
        var runs = await Runs(house, id);
        Assert.Equal(meanwhile, runs.Count);
        Assert.Single(runs, r => r.EndedAt is null);
        if (again == Again.FromTheStart) Assert.Equal(RunEnd.BegunAnew, runs[0].End);
        await house.Days(3);
        await Once();
        Assert.Equal(inAll, (await Runs(house, id)).Count);
    }

    [Fact]
    public async Task Two_routines_that_set_each_other_off_come_to_an_end()
    {
        await using var house = await House.Open();
        var (a, b) = (await Tag(house, "a"), await Tag(house, "b"));
        var first = await On(house, _ => Script.Of(new Trigger.GetsTag(a), new Step.TakeTag(1, a), new Step.PutTag(2, b)));
        await On(house, _ => Script.Of(new Trigger.GetsTag(b), new Step.TakeTag(1, b), new Step.PutTag(2, a)));
        var member = await house.Join(house.Free);
        await house.Get<MemberTags, Result>(s => s.PutOn(house.Owner, member, "a", default));
        await Due(house);
        Assert.Equal(RunRoutines.MostADay, (await Runs(house, first)).Count);
        Assert.Equal(0, await house.Ask(db => db.DueWork.CountAsync(d => d.Kind == DueKind.RoutineHears)));
    }

    [Fact]
    public async Task A_question_sees_what_the_steps_before_it_did_and_the_audience_is_asked_at_the_beginning_too()
    {
        await using var house = await House.Open();
        var (vip, yes) = (await Tag(house, "vip"), await Tag(house, "yes"));
        var audience = await Audience(house, "Tagged", new Condition.Tagged(vip));
        var keepers = await Audience(house, "Keepers", new Condition.Holds([house.Keeper], house.Monthly));
        var id = await On(house, _ => Script.Of(new Trigger.Joins([]), new Step.PutTag(1, vip),
            new Step.Branch(2, audience, [new Step.PutTag(3, yes)], [])) with
        { And = keepers });
        var (keeper, other) = (await house.Join(house.Monthly), await house.Join(house.Free));
        await Due(house);
        Assert.True(await Bears(house, keeper, yes));
        Assert.False(await Bears(house, other, vip));
        Assert.Equal(keeper, Assert.Single(await Runs(house, id)).MemberId);
        // What a routine rests on can't be taken away.
        foreach (var refused in new[]
        {
            await house.Get<Audiences, Result>(s => s.Remove(house.Owner, audience, default)), await house.Get<Audiences,
                Result>(s => s.Remove(house.Owner, keepers, default)),
            await house.Get<MemberTags, Result>(s => s.Remove(house.Owner, yes, default)),
        }) Assert.Contains("routine", refused.Refusal, StringComparison.OrdinalIgnoreCase);
    }

    [Fact]
    public async Task Those_who_are_there_already_begin_it_when_it_is_asked_for_and_nobody_twice()
    {
        await using var house = await House.Open();
        var (early, earlier) = (await house.Join(house.Monthly), await house.Join(house.Monthly));
        await house.Join(house.Free);
        var id = await On(house, _ => Script.Of(new Trigger.Joins([house.Keeper], house.Monthly), new Step.AddNote(1, "Filled in.")));
        Assert.Equal(2, (await house.Get<EditRoutine, Result<int>>(s => s.FillIn(house.Owner, id, default))).Value);
        await Due(house);
        Assert.Equal(0, (await house.Get<EditRoutine, Result<int>>(s => s.FillIn(house.Owner, id, default))).Value);
        Assert.Equal(new[] { early, earlier }.Order(), (await Runs(house, id)).Select(r => r.MemberId).Order());
        Assert.All(await Runs(house, id), r => Assert.Null(r.Because));
        // Turned off nobody begins it, also not by what was put in before.
        await house.Get<EditRoutine, Result>(s => s.Turn(house.Owner, id, false, default));
        Assert.False((await house.Get<EditRoutine, Result<int>>(s => s.FillIn(house.Owner, id, default))).Ok);
        await house.Join(house.Monthly);
        await Due(house);
        Assert.Equal(2, (await Runs(house, id)).Count);
        Assert.False((await house.Get<EditRoutine, Result>(s => s.Remove(house.Owner, id, default))).Ok);
    }

    [Fact]
    public async Task A_day_comes_each_year_a_silence_once_and_a_weeks_aim_on_monday()
    {
        await using var house = await House.Open();
        var today = house.Now.Calendar.Date(house.Clock.Moment);
        var field = (await house.Get<OwnFields, Result<OwnFieldId>>(s =>
            s.Save(house.Owner, null, new("Birthday", OwnFieldKind.Date, null, false, true), default))).Value;
        var (born, other) = (await house.Join(house.Free), await house.Join(house.Free));
        var birthday = today.PlusDays(3).PlusYears(-30);
        Assert.True((await house.Get<OwnFields, Result>(s => s.Fill(house.Owner, born, new Dictionary<OwnFieldId,
            string?>
        { [field] = birthday.ToString("uuuu-MM-dd", null) },
            default))).Ok);
        Assert.True((await house.Get<OwnFields, Result>(s => s.Fill(house.Owner, other, new Dictionary<OwnFieldId, string?>
        { [field] = birthday.PlusDays(1).ToString("uuuu-MM-dd", null) }, default))).Ok);
        var before = await On(house, _ => Script.Of(new Trigger.DayOf(field, 2, true), new Step.AddNote(1, "Two days before.")));
        // Made one of a day while it is on, it is looked for from the next morning on.
        var late = await On(house, _ => Script.Of(new Trigger.SignsIn(), new Step.AddNote(1, "Later one of a day.")));
        Assert.True((await Change(house, late, s => s with { When = new Trigger.DayOf(field, 0, true) })).Ok);
        var once = await On(house, _ => Script.Of(new Trigger.DayOf(field, 0, false), new Step.AddNote(1, "On the very day.")));
        var away = await On(house, _ => Script.Of(new Trigger.NotSeen(4), new Step.AddNote(1, "Away.")) with { Again = Again.WhenThrough });
        await house.Ask(async db =>
        {
            db.Add(new LastSeen { MemberId = born, At = house.Clock.Moment });
            // Away for longer than that before it was on: nothing is begun for what is past.
            db.Add(new LastSeen { MemberId = other, At = house.Clock.Moment - Duration.FromDays(40) });
            return await db.SaveChangesAsync();
        });
        await house.Days(1);
        Assert.Equal(born, Assert.Single(await Runs(house, before)).MemberId);
        await house.Days(1);
        Assert.Equal(2, (await Runs(house, before)).Count);
        await house.Days(4);
        Assert.Empty(await Runs(house, once));
        Assert.Equal(2, (await Runs(house, late)).Count);
        Assert.Equal(born, Assert.Single(await Runs(house, away)).MemberId);
        await house.Days(10);
        Assert.Single(await Runs(house, away));
    }

    [Fact]
    public async Task It_isnt_turned_on_before_it_is_whole_and_only_who_may_changes_it()
    {
        await using var house = await House.Open();
        var id = (await house.Get<EditRoutine, Result<long>>(s => s.New(house.Owner, null, default))).Value;
        Assert.Equal("It has no step yet.", (await house.Get<EditRoutine, Result>(s => s.Turn(house.Owner, id, true, default))).Refusal);
        var letter = await house.Get<EditRoutine, long>(s => s.NewLetter(house.Owner, id, default));
        Assert.True((await Change(house, id, s => s.Add(0, null, n => new Step.SendLetter(n, letter)))).Ok);
        Assert.Equal("One of its letters isn’t written yet.", (await house.Get<EditRoutine, Result>(s => s.Turn(house.Owner, id, true, default))).Refusal);
        Assert.False((await Change(house, id, s => s with { When = new Trigger.Opens(new PieceId(4711)) })).Ok);
        Assert.False((await Change(house, id, s => s.Add(0, null, n => new Step.Wait(n, 0, 0)))).Ok);
        // A letter of a routine is sent by nothing but its step, and not thrown away alone.
        Assert.False((await house.Get<SendMailing, Result>(s => s.Do(house.Owner, letter, null, false, default))).Ok);
        Assert.False((await house.Get<Mailings, Result>(s => s.Remove(house.Owner, letter, default))).Ok);
        foreach (var role in new[] { TeamRole.Host, TeamRole.Support })
        {
            var helper = house.Owner with { Role = role };
            await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<EditRoutine, Result<long>>(s => s.New(helper, null, default)));
            await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<EditRoutine, Result>(s => s.Turn(helper, id, true, default)));
            await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<EditRoutine, Result>(s => s.Change(helper, id, 1, null, x => x, default)));
            await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<EditRoutine, Result<int>>(s => s.FillIn(helper, id, default)));
            await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<EditRoutine, Result<int>>(s => s.TakeOut(helper, id, null, default)));
            await Assert.ThrowsAsync<NotAllowedException>(() => house.Get<EditRoutine, Result>(s => s.Remove(helper, id, default)));
        }
        Assert.True((await house.Get<EditRoutine, Result>(s => s.Remove(house.Owner, id, default))).Ok);
        Assert.Equal(0, await house.Ask(db => db.Mailings.CountAsync(m => m.Id == letter)));
    }

    [Fact]
    public async Task A_payment_that_fails_begins_one_and_paying_after_all_ends_it()
    {
        await using var house = await House.Open();
        var id = await On(house, letter => Script.Of(new Trigger.PaymentFails([]), new Step.Wait(1, 2, 0),
            new Step.SendLetter(2, letter)) with
        { Goal = new Trigger.Recovers([]) });
        var (pays, fails) = (await house.Join(house.Monthly), await house.Join(house.Monthly, DemoTill.FailsLater));
        await house.Days(31);
        Assert.Equal((1, 0), (Assert.Single(await Runs(house, id)).Step, await Copies(house, fails)));
        await house.Days(3);
        Assert.Equal((0, 1), (await Copies(house, pays), await Copies(house, fails)));
        Assert.Equal(RunEnd.Through, (await Runs(house, id))[0].End);
        // The next refusal of the same turn begins it anew; another card ends it.
        Assert.True((await Change(house, id, s => s.Add(2, null, n => new Step.Wait(n, 90, 0)))).Ok);
        long checkout = 0;
        var page = await house.Get<GoToTill, Result<string>>(s => s.Card(fails, c => "http://site.example/" + (checkout = c), default));
        await house.Till.Pay(page.Value!, DemoTill.Approves);
        await house.Return(checkout);
        await Due(house);
        Assert.Equal((fails, (RunEnd?)RunEnd.Goal), ((await Runs(house, id))[^1].MemberId, (await Runs(house, id))[^1].End));
    }

    [Fact]
    public async Task Patterns_are_whole_and_everybody_can_be_taken_out()
    {
        await using var house = await House.Open();
        await house.Get<OwnFields, Result<OwnFieldId>>(s => s.Save(house.Owner, null, new("Birthday", OwnFieldKind.Date, null, false, true), default));
        foreach (var pattern in RoutinePattern.All(house.Now).Where(p => p.Needs is null))
        {
            var made = await house.Get<EditRoutine, Result<long>>(s => s.New(house.Owner, pattern, default));
            Assert.True(made.Ok, made.Refusal);
            var script = house.Now.People.RoutineById[made.Value].Script;
            Assert.Null(RoutineRules.WrongWith(script, house.Now));
            foreach (var letter in script.All().OfType<Step.SendLetter>())
            {
                var m = await house.Ask(db => db.Mailings.AsNoTracking().SingleAsync(x => x.Id == letter.Mailing));
                Assert.Null(MailingFields.WrongWith(m.Subject, house.Now) ?? MailingFields.WrongWith(m.Body, house.Now));
            }
            Assert.True((await house.Get<EditRoutine, Result>(s => s.Turn(house.Owner, made.Value, true, default))).Ok);
        }
        var member = await house.Join(house.Monthly);
        await Due(house);
        var welcome = house.Now.People.Routines.Single(r => r.Name == "Welcome in three letters").Id;
        Assert.Single(await Runs(house, welcome), r => r.EndedAt is null);
        Assert.Equal(1, (await house.Get<EditRoutine, Result<int>>(s => s.TakeOut(house.Owner, welcome, null, default))).Value);
        await house.Days(12);
        Assert.Equal(RunEnd.TakenOut, Assert.Single(await Runs(house, welcome)).End);
        var view = await house.Get<LookAtRoutines, RoutineView>(async s =>
            await s.Open(house.Now.People.RoutineById[welcome], (await house.Member(member)).Email, false, default));
        Assert.Equal((0, 1), (view.Figures.In, view.Figures.Left));
        Assert.Equal(6, view.Rehearsed!.Count);
        Assert.Equal(1, view.Steps[1].Did);
        Assert.Null((await house.Get<LookAtRoutines, RoutineView>(s => s.Open(house.Now.People.RoutineById[welcome], "nobody@post.example", false, default)))
            .TriedOn);
    }

    [Fact]
    public async Task Something_to_do_stands_there_until_one_says_it_is_done()
    {
        await using var house = await House.Open();
        var member = await house.Join(house.Free);
        Assert.False((await house.Get<TeamTasks, Result>(s => s.Add(house.Owner, member, "  ", default))).Ok);
        Assert.False((await house.Get<TeamTasks, Result>(s => s.Add(house.Owner, new(1), "Ring", default))).Ok);
        Assert.True((await house.Get<TeamTasks, Result>(s => s.Add(house.Owner, member, "Ring them up", default))).Ok);
        var task = Assert.Single((await house.Get<TeamTasks, (IReadOnlyList<TaskRow> Rows, int)>(s => s.List(false, 1, default))).Rows);
        // Of two who say so at once, one has done it.
        var both = await Task.WhenAll(Enumerable.Range(0, 2).Select(_ => house.Get<TeamTasks, Result>(s => s.Done(house.Owner, task.Id, default))));
        Assert.Single(both, b => b.Ok);
        Assert.Equal((0, 1), ((await house.Get<TeamTasks, (IReadOnlyList<TaskRow>, int Count)>(s => s.List(false, 1, default))).Count,
            (await house.Get<TeamTasks, (IReadOnlyList<TaskRow>, int Count)>(s => s.List(true, 1, default))).Count));
        Assert.True((await house.Get<TeamTasks, Result>(s => s.Reopen(house.Owner, task.Id, default))).Ok);
        Assert.False((await house.Get<TeamTasks, Result>(s => s.Reopen(house.Owner, task.Id, default))).Ok);
    }
}
