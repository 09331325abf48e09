using System.Text.Json;
using BrightCircle.Core.Events;
using BrightCircle.Core.Routines;
using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>Routines: what begins one, what is done when, and what happens to those in the middle of one that is changed.</summary>
public class RoutineTests
{
    static readonly SiteCalendar Here = SiteCalendar.For("Europe/London");
    static Instant At(int month, int day, int hour = 12, int minute = 0) => Here.At(new(2026, month, day, hour, minute));
    static readonly PlanId Keeper = new(1), Apiary = new(2);
    static readonly AudienceId Bees = new(9);
    static readonly Trigger Opens = new Trigger.Opens(new PieceId(5));

    static Step Note(int id) => new Step.AddNote(id, $"step {id}");
    static int[] Ids(Progress p) => [.. p.Did.Select(d => d.Step.Id)];
    static Progress Go(Script script, RunState state, Instant at, bool? answer = null, long run = 1) =>
        Interpreter.Advance(script, state, at, Here, run, answer);

    // ---- Waits. ----

    [Fact]
    public void Steps_are_done_in_their_order_and_a_wait_lasts_calendar_days()
    {
        // British summer time ends on 25 October 2026 (the tz database): two days later it is the same time of day, 49 hours on.
        var script = Script.Of(new Trigger.SignsIn(), Note(1), new Step.Wait(2, 2, 0), Note(3));
        var begun = At(10, 24, 18);
        var first = Go(script, new(script.First), begun);
        Assert.Equal([1], Ids(first));
        Assert.Equal(new RunState(2, At(10, 26, 18), Turn: 1), first.State);
        Assert.Equal(49, (first.State.Until!.Value - begun).TotalHours);
        // Too early by a tick nothing happens, and asking again moves nothing.
        var early = Go(script, first.State, At(10, 26, 18) - Duration.Epsilon);
        Assert.Empty(early.Did);
        Assert.Equal(first.State, early.State);
        var last = Go(script, first.State, At(10, 26, 18));
        Assert.Equal([2, 3], Ids(last));
        Assert.True(last.State.IsThrough);
        Assert.Equal([1, 2], last.Did.Select(d => d.Turn));
    }

    [Theory]
    // Wednesday 4 March 2026, noon. The next Wednesday at noon is now; a minute earlier in the day it is a week on.
    [InlineData(3, 12, 0, 4)]
    [InlineData(3, 11, 59, 11)]
    [InlineData(4, 9, 0, 5)]
    [InlineData(2, 18, 0, 10)]
    [InlineData(null, 12, 0, 4)]
    [InlineData(null, 11, 0, 5)]
    [InlineData(7, 0, 0, 8)]
    public void A_wait_for_a_time_of_day_ends_the_next_time_it_is_that(int? weekday, int hour, int minute, int day) =>
        Assert.Equal(At(3, day, hour, minute), new Step.WaitForTime(1, weekday, new(hour, minute)).WaitsUntil(At(3, 4), Here));

    [Fact]
    public void A_wait_for_a_day_that_is_past_is_none()
    {
        var script = Script.Of(new Trigger.SignsIn(), new Step.WaitForDay(1, new(2026, 3, 4, 9, 0)), Note(2));
        Assert.True(Go(script, new(1), At(3, 4, 9)).State.IsThrough);
        Assert.Equal(At(3, 4, 9), Go(script, new(1), At(3, 4, 8, 59)).State.Until);
    }

    [Fact]
    public void A_wait_of_hours_is_that_many() =>
        Assert.Equal(At(3, 5, 17), new Step.Wait(1, 1, 5).WaitsUntil(At(3, 4), Here));

    static Script Waiting => Script.Of(new Trigger.SignsIn(), new Step.WaitFor(1, Opens, 3, [Note(2)], [Note(3)]), Note(4));

    [Fact]
    public void A_wait_for_something_goes_one_way_when_it_comes_and_the_other_when_the_time_is_over()
    {
        var begun = Go(Waiting, new(1), At(3, 4));
        Assert.Equal(At(3, 7), begun.State.Until);
        Assert.Equal(Opens, Interpreter.WaitsFor(Waiting, begun.State));
        Assert.Null(Interpreter.WaitsFor(Waiting, new(1)));
        Assert.Null(Interpreter.WaitsFor(Waiting, new(2, At(3, 7))));
        Assert.Equal([1, 2, 4], Ids(Go(Waiting, begun.State with { Came = true }, At(3, 5))));
        Assert.True(Go(Waiting, begun.State with { Came = true }, At(3, 5)).Did[0].Way);
        Assert.Equal([1, 3, 4], Ids(Go(Waiting, begun.State, At(3, 7))));
        Assert.Empty(Ids(Go(Waiting, begun.State, At(3, 7) - Duration.Epsilon)));
        // What came on the last moment came.
        Assert.Equal([1, 2, 4], Ids(Go(Waiting, begun.State with { Came = true }, At(3, 7))));
    }

    // ---- Forks and ends. ----

    [Fact]
    public void A_question_is_asked_after_what_comes_before_it_is_done()
    {
        var script = Script.Of(new Trigger.SignsIn(), Note(1), new Step.Branch(2, Bees, [Note(3)], []), Note(4), new Step.Branch(5, Bees, [], [Note(6)]));
        var asked = Go(script, new(1), At(3, 4));
        Assert.Equal([1], Ids(asked));
        Assert.Equal(Bees, asked.Asks);
        var yes = Go(script, asked.State, At(3, 4), true);
        Assert.Equal([2, 3, 4], Ids(yes));
        // An answer counts for the question it was given to, not for the next.
        Assert.Equal(Bees, yes.Asks);
        Assert.Equal([5, 6], Ids(Go(script, yes.State, At(3, 4), false)));
        Assert.Equal([2, 4], Ids(Go(script, asked.State, At(3, 4), false)));
    }

    [Fact]
    public void A_stop_ends_it_for_that_way_only()
    {
        var script = Script.Of(new Trigger.SignsIn(), new Step.Branch(1, Bees, [new Step.Stop(2)], []), Note(3));
        Assert.Equal([1, 2], Ids(Go(script, new(1), At(3, 4), true)));
        Assert.Equal([1, 3], Ids(Go(script, new(1), At(3, 4), false)));
    }

    [Fact]
    public void Chance_is_the_same_for_the_same_run_and_near_what_was_asked_for()
    {
        var script = Script.Of(new Trigger.SignsIn(), new Step.Split(1, 30, [Note(2)], [Note(3)]));
        var firsts = Enumerable.Range(0, 10_000).Count(run => Ids(Go(script, new(1), At(3, 4), run: run))[1] == 2);
        // Four standard deviations of a binomial share: sqrt(10000 · 0.3 · 0.7) = 45.8.
        Assert.InRange(firsts, 3000 - 184, 3000 + 184);
        Assert.Equal(Ids(Go(script, new(1), At(3, 4), run: 77)), Ids(Go(script, new(1), At(9, 9), run: 77)));
        Assert.All(Enumerable.Range(0, 1000), n => Assert.InRange(Interpreter.Chance(n, 3), 0, 99));
    }

    [Fact]
    public void A_routine_without_steps_is_through_at_once() => Assert.True(Go(Script.Of(new Trigger.SignsIn()), new(0), At(3, 4)).State.IsThrough);

    // ---- Changed while people are in it. ----

    [Fact]
    public void Whoever_stands_before_a_step_that_was_taken_out_goes_on_with_what_followed()
    {
        var script = Script.Of(new Trigger.SignsIn(), Note(1), new Step.Wait(2, 5, 0), new Step.Wait(3, 1, 0), Note(4));
        var waiting = Go(script, new(1), At(3, 4)).State;
        Assert.Equal(2, waiting.Step);
        var without = script.Remove(2);
        // The next wait begins now; that of the step that went is forgotten.
        Assert.Equal(At(3, 6), Go(without, waiting, At(3, 5)).State.Until);
        // Both gone, one after the other: what followed the second.
        Assert.Equal([4], Ids(Go(without.Remove(3), waiting, At(3, 5))));
        Assert.True(Go(without.Remove(3).Remove(4), waiting, At(3, 5)).State.IsThrough);
        Assert.Equal(0, script.Remove(4).Standing(4));
    }

    [Fact]
    public void With_a_fork_all_that_stands_in_it_goes_and_whoever_is_there_goes_on_behind_it()
    {
        var script = Script.Of(new Trigger.SignsIn(), new Step.Branch(1, Bees, [new Step.Wait(2, 9, 0), Note(3)], [Note(4)]), Note(5));
        var gone = script.Remove(1);
        Assert.Equal([5], gone.All().Select(s => s.Id));
        Assert.All(new[] { 1, 2, 3, 4 }, s => Assert.Equal(5, gone.Standing(s)));
        // A step within a way leads to the next of that way, or out of it.
        Assert.Equal(3, script.Remove(2).Standing(2));
        Assert.Equal(5, script.Remove(3).Standing(3));
        Assert.Same(script, script.Remove(99));
    }

    [Fact]
    public void A_changed_wait_keeps_the_end_it_had_for_those_who_wait_already()
    {
        var script = Script.Of(new Trigger.SignsIn(), new Step.Wait(1, 5, 0));
        var waiting = Go(script, new(1), At(3, 4)).State;
        var longer = script.Replace(new Step.Wait(1, 50, 0));
        Assert.True(Go(longer, waiting, At(3, 9)).State.IsThrough);
        Assert.Equal(At(4, 23), Go(longer, new(1), At(3, 4)).State.Until);
    }

    [Fact]
    public void Steps_are_put_in_where_they_are_wanted_and_never_get_a_number_again()
    {
        var script = Script.Of(new Trigger.SignsIn(), Note(1), new Step.Branch(2, Bees, [Note(3)], []));
        int[] Order(Script s) => [.. s.All().Select(x => x.Id)];
        Assert.Equal([4, 1, 2, 3], Order(script.Add(0, null, Note)));
        Assert.Equal([1, 4, 2, 3], Order(script.Add(1, null, Note)));
        Assert.Equal([1, 2, 4, 3], Order(script.Add(2, true, Note)));
        Assert.Equal([1, 2, 3, 4], Order(script.Add(3, null, Note)));
        var fork = (Step.Fork)script.Add(2, false, Note).Find(2)!;
        Assert.Equal([4], fork.Else.Select(s => s.Id));
        Assert.Equal([1, 2, 3, 4], Order(script.Add(2, null, Note)));
        Assert.Equal(4, script.Add(2, null, Note).After(2));
        var again = script.Add(0, null, Note).Remove(4).Add(0, null, Note);
        Assert.Equal([5, 1, 2, 3], Order(again));
        // The ways of a fork stay when it is changed.
        Assert.Equal([3], ((Step.Fork)script.Replace(new Step.Branch(2, new(7), [], [])).Find(2)!).Then.Select(s => s.Id));
    }

    [Fact]
    public void Moving_stays_within_its_way_and_at_the_edge()
    {
        var script = Script.Of(new Trigger.SignsIn(), Note(1), new Step.Branch(2, Bees, [Note(3), Note(4)], [Note(5)]));
        int[] Order(Script s) => [.. s.All().Select(x => x.Id)];
        Assert.Equal([2, 3, 4, 5, 1], Order(script.Move(1, false)));
        Assert.Equal([1, 2, 4, 3, 5], Order(script.Move(4, true)));
        Assert.Equal(Order(script), Order(script.Move(3, true)));
        Assert.Equal(Order(script), Order(script.Move(5, false)));
        Assert.Equal(Order(script), Order(script.Move(1, true)));
        Assert.Equal(1, script.Depth());
        Assert.Equal(0, Script.Of(new Trigger.SignsIn(), Note(1)).Depth());
    }

    [Fact]
    public void What_it_rests_on_is_found_wherever_it_stands()
    {
        var script = Script.Of(new Trigger.GetsTag(new(3)), new Step.Branch(1, Bees,
            [new Step.WaitFor(2, new Trigger.GetsTag(new(4)), 1, [], [new Step.TakeTag(3, new(5))])],
            [new Step.FillField(4, new(6), "x")])) with
        { Goal = new Trigger.Joins([Keeper]) };
        Assert.True(script.Names(Bees));
        Assert.False(script.Names(new AudienceId(1)));
        Assert.True((script with { And = new(1) }).Names(new AudienceId(1)));
        Assert.All(new long[] { 3, 4, 5 }, t => Assert.True(script.Names(new TagId(t))));
        Assert.False(script.Names(new TagId(6)));
        Assert.True(script.Names(new OwnFieldId(6)));
        Assert.False(script.Names(new OwnFieldId(3)));
        Assert.True(Script.Of(new Trigger.DayOf(new(3), 0, true)).Names(new OwnFieldId(3)));
        Assert.True(Script.Of(new Trigger.SignsIn(), new Step.PutTag(1, new(8))).Names(new TagId(8)));
        Assert.Equal(3, script.Triggers().Count());
    }

    // ---- Triggers. ----

    static readonly HoldingId Holding = new(1);
    static readonly Money Tenner = new(1000, new("GBP"));

    [Fact]
    public void A_trigger_hears_what_it_is_about_and_nothing_else()
    {
        var joined = new Event.Joined(Holding, Keeper, new(4), false);
        Assert.True(new Trigger.Joins([]).Hears(joined));
        Assert.True(new Trigger.Joins([Apiary, Keeper], new(4), false).Hears(joined));
        Assert.False(new Trigger.Joins([Apiary]).Hears(joined));
        Assert.False(new Trigger.Joins([], new(5)).Hears(joined));
        Assert.False(new Trigger.Joins([], null, true).Hears(joined));
        Assert.True(new Trigger.Joins([], null, true).Hears(joined with { Returned = true }));
        Assert.False(new Trigger.Gets([]).Hears(joined));

        var given = new Event.Given(Holding, Keeper, null);
        Assert.True(new Trigger.Gets([Keeper]).Hears(given));
        // What is given for a later day is had when it begins.
        Assert.False(new Trigger.Gets([]).Hears(given with { From = new(2026, 5, 1) }));
        Assert.True(new Trigger.Gets([]).Hears(new Event.Begun(Holding, Keeper, false)));
        Assert.False(new Trigger.Gets([Apiary]).Hears(new Event.Begun(Holding, Keeper, false)));

        var paid = new Event.Paid(new(1), Holding, Keeper, Tenner, "", At(3, 4), null, null, null);
        Assert.True(new Trigger.Pays([Keeper]).Hears(paid));
        Assert.False(new Trigger.Recovers([]).Hears(paid));
        Assert.True(new Trigger.Recovers([]).Hears(paid with { Recovered = true }));
        Assert.False(new Trigger.Recovers([Apiary]).Hears(paid with { Recovered = true }));

        Assert.True(new Trigger.Leaves([]).Hears(new Event.Left(Holding, Keeper, null, false)));
        Assert.False(new Trigger.Leaves([]).Hears(new Event.Left(Holding, Keeper, null, ChangedPlan: true)));
        EndReason[] gaveWay = [EndReason.Replaced, EndReason.TakenBack, EndReason.CalledOff];
        Assert.All(Enum.GetValues<EndReason>(), r => Assert.Equal(!gaveWay.Contains(r), new Trigger.PlanEnds([]).Hears(new Event.Ended(Holding, Keeper, r))));

        Assert.True(Opens.Hears(new Event.Opened(new(1), new(5))));
        Assert.False(Opens.Hears(new Event.Opened(new(5), new(1))));
        Assert.True(new Trigger.Opens(null).Hears(new Event.Opened(new(5), new(1))));
        Assert.True(new Trigger.Finishes(new(2)).Hears(new Event.Finished(new(2), new(5), "", null)));
        Assert.False(new Trigger.Finishes(new(5)).Hears(new Event.Finished(new(2), new(5), "", null)));
    }

    [Theory]
    [InlineData(null, true, true)]
    [InlineData(null, null, true)]
    [InlineData(true, true, true)]
    [InlineData(true, false, false)]
    [InlineData(true, null, false)]
    [InlineData(false, false, true)]
    public void Something_handed_in_counts_by_its_result(bool? wanted, bool? passed, bool hears) =>
        Assert.Equal(hears, new Trigger.HandsIn(new(2), wanted).Hears(new Event.HandedIn(new(2), new(1), "", 1, 2, passed)));

    [Fact]
    public void What_a_person_marks_later_counts_where_the_result_is_asked_for()
    {
        var marked = new Event.Marked(new(2), 1, "", 1, 2, true);
        Assert.True(new Trigger.HandsIn(new(2), true).Hears(marked));
        Assert.False(new Trigger.HandsIn(new(2), false).Hears(marked));
        // It was heard when it was handed in.
        Assert.False(new Trigger.HandsIn(new(2)).Hears(marked));
    }

    static readonly Event[] Some =
    [
        new Event.Joined(Holding, Keeper, null, true), new Event.Given(Holding, Keeper, null), new Event.Begun(Holding, Keeper, true),
        new Event.Paid(new(1), Holding, Keeper, Tenner, "", default, null, null, null, Recovered: true),
        new Event.PaymentFailed(new(1), Holding, Keeper, Tenner, "", "", null, default, false, false), new Event.Left(Holding, Keeper, null, false),
        new Event.Ended(Holding, Keeper, EndReason.Lapsed), new Event.Opened(new(5), new(5)), new Event.Finished(new(5), new(5), "", null),
        new Event.HandedIn(new(5), new(1), "", 1, 1, true), new Event.Marked(new(5), 1, "", 1, 1, true), new Event.TagPutOn(new(5), ""), new Event.SignedIn(),
        new Event.Added(), new Event.TagTakenOff(new(5), ""), new Event.Reported("fair", ""), new Event.Reported("other", ""),
    ];
    static readonly Trigger[] All =
    [
        new Trigger.Joins([]), new Trigger.Gets([]), new Trigger.Pays([]), new Trigger.PaymentFails([]), new Trigger.Recovers([]), new Trigger.Leaves([]),
        new Trigger.PlanEnds([]), new Trigger.Opens(new PieceId(5)), new Trigger.Finishes(new(5)), new Trigger.HandsIn(new(5), true),
            new Trigger.GetsTag(new(5)),
        new Trigger.SignsIn(), new Trigger.DayOf(new(5), 0, true), new Trigger.NotSeen(5), new Trigger.TallyWeek(new(5), true),
        new Trigger.Reported("FAIR"), new Trigger.EditionOpens(),
    ];

    [Fact]
    public void A_trigger_hears_only_among_the_kinds_it_names_and_something_of_each()
    {
        Assert.Equal(All.Length, typeof(Trigger).GetNestedTypes().Count(t => t.IsSubclassOf(typeof(Trigger)) && !t.IsAbstract));
        foreach (var trigger in All)
        {
            var heard = Some.Where(trigger.Hears).Select(e => e.Kind).Distinct().Order(StringComparer.Ordinal).ToArray();
            Assert.Equal(trigger.Kinds.Order(StringComparer.Ordinal), heard);
        }
    }

    [Theory]
    // 29 February is kept on the 28th where there is none: 2026 has none, 2028 has one (Gregorian rule).
    [InlineData(2026, 2, 28, "2-28 2-29")]
    [InlineData(2028, 2, 28, "2-28")]
    [InlineData(2028, 2, 29, "2-29")]
    [InlineData(2026, 3, 1, "3-1")]
    public void A_day_of_each_year_that_a_year_doesnt_have_is_the_one_before(int year, int month, int day, string days) =>
        Assert.Equal(days, string.Join(' ', Trigger.DaysOfYear(new(year, month, day)).Select(d => $"{d.Month}-{d.Day}")));

    // ---- The whole. ----

    [Fact]
    public void A_rehearsal_says_what_would_happen_and_when()
    {
        var lines = Interpreter.Rehearse(Waiting, At(3, 4), Here, 1, _ => true, comes: false);
        Assert.Equal([(1, At(3, 7)), (3, At(3, 7)), (4, At(3, 7))], lines.Select(l => (l.Step.Id, l.At)));
        Assert.Equal([(1, At(3, 4)), (2, At(3, 4)), (4, At(3, 4))], Interpreter.Rehearse(Waiting, At(3, 4), Here, 1, _ => true, comes: true)
            .Select(l => (l.Step.Id, l.At)));
        var branch = Script.Of(new Trigger.SignsIn(), new Step.Branch(1, Bees, [Note(2)], [Note(3)]));
        Assert.Equal([1, 3], Interpreter.Rehearse(branch, At(3, 4), Here, 1, a => a != Bees, false).Select(l => l.Step.Id));
    }

    static readonly Gen<Script> Scripts = Gen.Select(Gen.Int[0, 9].Array[1, 12], Gen.Int[0, 3].Array[12], (kinds, where) =>
    {
        var script = Script.Of(new Trigger.SignsIn());
        foreach (var (kind, i) in kinds.Select((k, i) => (k, i)))
        {
            var at = script.All().ElementAtOrDefault(where[i]);
            script = script.Add(at?.Id ?? 0, at is Step.Fork ? where[i] % 2 == 0 : null, id => kind switch
            {
                0 or 1 => new Step.Wait(id, kind, 5),
                2 => new Step.WaitFor(id, Opens, 2, [], []),
                3 => new Step.Branch(id, Bees, [], []),
                4 => new Step.Split(id, 50, [], []),
                5 => new Step.WaitForTime(id, 3, new(9, 0)),
                6 => new Step.Stop(id),
                _ => Note(id),
            });
        }
        return script;
    });

    /// <summary>Taken in many small steps of time, or in one at each moment that is due, a run does the same, once each, and ends.</summary>
    [Fact]
    public void However_often_it_is_looked_at_each_step_is_done_once_at_its_moment() =>
        Gen.Select(Scripts, Gen.Int[1, 1000], Gen.Bool).Sample((script, run, belongs) =>
        {
            var expected = Interpreter.Rehearse(script, At(3, 4), Here, run, _ => belongs, false);
            var did = new List<Done>();
            var state = new RunState(script.First);
            bool? answer = null;
            for (var (now, looks) = (At(3, 4), 0); !state.IsThrough; looks++)
            {
                Assert.True(looks < 4000, "It doesn't end.");
                var p = Interpreter.Advance(script, state, now, Here, run, answer);
                did.AddRange(p.Did);
                (state, answer) = (p.State, p.Asks is null ? null : belongs);
                // Two looks before it is due, then the moment itself.
                if (state.Until is { } until) now = now < until - Duration.FromHours(7) && looks % 3 != 0 ? until - Duration.FromHours(6) : until;
            }
            Assert.Equal(expected.Select(d => (d.Step.Id, d.At, d.Way, d.Turn)), did.Select(d => (d.Step.Id, d.At, d.Way, d.Turn)));
            Assert.Equal(did.Count, did.Select(d => (d.Step.Id, d.Turn)).Distinct().Count());
        }, iter: Make.Tries(300));

    /// <summary>Whatever is changed meanwhile, whoever is in it comes to an end and does nothing twice.</summary>
    [Fact]
    public void Changed_at_any_moment_it_still_ends_and_does_nothing_twice() =>
        Gen.Select(Scripts, Gen.Int[0, 30].Array[6], Gen.Int[1, 100]).Sample((script, picks, run) =>
        {
            var state = new RunState(script.First);
            var (now, keys, change) = (At(3, 4), new HashSet<(int, int)>(), 0);
            for (var looks = 0; !state.IsThrough; looks++)
            {
                Assert.True(looks < 500, "It doesn't end.");
                var p = Interpreter.Advance(script, state, now, Here, run, true);
                Assert.All(p.Did, d => Assert.True(keys.Add((d.Step.Id, d.Turn))));
                state = p.State;
                if (state.Until is { } until) now = until;
                if (change >= picks.Length || !script.All().Any()) continue;
                var at = script.All().ElementAt(picks[change] % script.All().Count()).Id;
                script = (picks[change++] % 3) switch { 0 => script.Remove(at), 1 => script.Move(at, true), _ => script.Add(at, null, Note) };
            }
        }, iter: Make.Tries(300));

    [Fact]
    public void It_is_stored_and_read_as_it_was()
    {
        var script = Script.Of(new Trigger.Joins([Keeper], new(3), true), new Step.SendLetter(1, 77),
            new Step.WaitFor(2, new Trigger.DayOf(new(4), 2, true), 3, [Note(3)],
            [new Step.WaitForTime(4, 2, new(9, 30)), new Step.WaitForDay(5, new(2026, 5, 6, 7, 8))]), new Step.Give(6, Apiary, 14),
                new Step.Split(7, 20, [], [])) with
        { Goal = new Trigger.Recovers([]), And = Bees, Again = Again.Never };
        script = script.Remove(3);
        var json = JsonSerializer.Serialize(script, CoreJson.Options);
        var read = JsonSerializer.Deserialize<Script>(json, CoreJson.Options)!;
        Assert.Equal(json, JsonSerializer.Serialize(read, CoreJson.Options));
        Assert.Equal(script.All().Select(s => (s.Id, s.GetType())), read.All().Select(s => (s.Id, s.GetType())));
        Assert.Equal((script.Standing(3), 7, Again.Never), (read.Standing(3), read.LastId, read.Again));
    }
}
