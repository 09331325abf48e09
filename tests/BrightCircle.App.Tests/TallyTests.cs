using BrightCircle.App.Access;
using BrightCircle.App.Content;
using BrightCircle.App.Learning;
using BrightCircle.App.Members;
using BrightCircle.App.Offer;
using BrightCircle.App.Words;
using BrightCircle.Core;
using BrightCircle.Core.Content;
using BrightCircle.Core.Events;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

public class TallyTests
{
    static async Task<TallyId> Checks(House house, int aWeek = 2) =>
        (await house.Get<Tallies, Result<TallyId>>(s => s.Save(house.Owner, null, new(" Hive checks ", "Lifted or listened.", aWeek), default))).Value;

    static Task<Result<TallyStanding>> Mark(House house, MemberId member, TallyId tally, (BlockId, int)? run = null, string? zone = null) =>
        house.Get<Tallies, Result<TallyStanding>>(async s =>
            await s.Mark(TallyReader.For(house.Now, member, zone, await house.FactsOf(member), tally, house.Clock.Moment)!, run, default));

    static async Task<(TallyId Tally, LessonId Lesson, BlockId Block)> Follow(House house)
    {
        var tally = await Checks(house);
        var block = house.NextBlock();
        var piece =
            (await house.Get<SavePiece, Result<PieceId>>(
            s => s.New(
            house.Owner, new("Listen", Blocks: [new Block.Follow(new("Listen", [new("Tap", "", null, 1, 0, null)], 1, 0, 0, 3, false, tally)) { Id = block }],
            Ready: true), default))).Value;
        await house.Release(piece);
        return (tally, house.Now.PieceById[piece].Outline.Lessons[0].Id, block);
    }

    [Fact]
    public async Task A_finished_run_counts_and_is_marked_once_however_often_it_is_sent()
    {
        await using var house = await House.Open();
        var (tally, lesson, block) = await Follow(house);
        var member = await house.Join(house.Free);
        Assert.Equal(1, await house.Get<TakePart, int>(async s => await s.FinishRun(await house.Reads(member, lesson), block, default)));
        Assert.Equal(tally, await house.Get<TakePart, TallyId?>(async s => await s.TallyOf(await house.Reads(member, lesson), block, default)));
        // Two presses at once, and an answer that was lost and is asked for again.
        var sent = await Task.WhenAll(Enumerable.Range(0, 4).Select(_ => Mark(house, member, tally, (block, 1))));
        Assert.All(sent, s => Assert.True(s.Ok));
        Assert.Equal(1, await house.Ask(db => db.TallyMarks.CountAsync()));
        await house.Get<TakePart, int>(async s => await s.FinishRun(await house.Reads(member, lesson), block, default));
        var second = (await Mark(house, member, tally, (block, 2))).Value!;
        Assert.Equal((2, 2, 1), (second.ThisWeek.Done, second.ThisWeek.Aim, second.Streak));
        Assert.Equal("2 of 2 this week, the aim is met", second.Words());
    }

    [Fact]
    public async Task Weeks_are_those_of_the_place_where_the_member_is()
    {
        await using var house = await House.Open();
        var tally = await Checks(house, 1);
        var (home, away) = (await house.Join(house.Free), await house.Join(house.Free));
        Assert.False((await house.Get<OwnSettings, Result>(s => s.SetZone(away, "Pacific/Nowhere", default))).Ok);
        Assert.True((await house.Get<OwnSettings, Result>(s => s.SetZone(away, "Pacific/Auckland", default))).Ok);
        // Sunday at noon in London is Monday in Auckland.
        await house.To(house.Now.Calendar.At(new(2026, 11, 29, 12, 0)));
        Assert.Equal("2026-W48", (await Mark(house, home, tally)).Value!.ThisWeek.Week.ToString());
        var there = (await house.Services.GetRequiredService<MemberReader>().Load(away.Value, default))!.ZoneId;
        Assert.Equal("2026-W49", (await Mark(house, away, tally, zone: there)).Value!.ThisWeek.Week.ToString());
        Assert.Equal(new LocalDate(2026, 11, 30), await house.Ask(db => db.TallyMarks.Where(m => m.MemberId == away).Select(m => m.Day).SingleAsync()));
        // Moving back to London leaves the week that has been as it was.
        await house.Get<OwnSettings, Result>(s => s.SetZone(away, null, default));
        await house.Days(3);
        Assert.Equal((1, 1), (await Mark(house, away, tally)).Value is { } s2 ? (s2.Streak, s2.Longest) : default);
    }

    [Fact]
    public async Task A_row_of_weeks_grows_and_a_mark_is_taken_back()
    {
        await using var house = await House.Open();
        var tally = await Checks(house, 1);
        var member = await house.Join(house.Free);
        TallyStanding last = null!;
        for (var week = 0; week < 3; week++)
        {
            last = (await Mark(house, member, tally)).Value!;
            if (week < 2) await house.Days(7);
        }
        Assert.Equal((3, "1 of 1 this week, 3 weeks in a row"), (last.Streak, last.Words()));
        Assert.True((await house.Get<Tallies, Result>(s => s.TakeBack(member, null, tally, default))).Ok);
        // Only what is of today or yesterday.
        Assert.False((await house.Get<Tallies, Result>(s => s.TakeBack(member, null, tally, default))).Ok);
        Assert.Equal(2, await house.Ask(db => db.TallyMarks.CountAsync()));
        for (var i = 0; i < Tally.MostADay; i++) await Mark(house, member, tally);
        Assert.Contains("in a day", (await Mark(house, member, tally)).Refusal, StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_team_sees_each_week_against_the_aim_it_had()
    {
        await using var house = await House.Open();
        var tally = await Checks(house);
        var members = new[] { await house.Join(house.Free), await house.Join(house.Free) };
        foreach (var (member, times) in members.Zip([2, 1])) for (var i = 0; i < times; i++) await Mark(house, member, tally);
        await house.Days(7);
        Assert.True((await house.Get<Tallies, Result<TallyId>>(s => s.Save(house.Owner, tally, new("Hive checks", "", 3), default))).Ok);
        for (var i = 0; i < 2; i++) await Mark(house, members[0], tally);
        var (_, weeks, now) = await house.Get<Tallies,
            (IReadOnlyList<Lesson>, IReadOnlyList<TallyTeamWeek>, IReadOnlyList<TallyMember>)>(s => s.Figures(house.Now.TallyById[tally], 3, default));
        var under = IsoWeek.Of(house.Now.Calendar.Date(house.Clock.Moment));
        Assert.Equal([new(under, 2, 1, 0), new(under.Plus(-1), 3, 2, 1), new(under.Plus(-2), 0, 0, 0)], weeks);
        Assert.Equal([(members[0], 2)], now.Select(m => (m.Id, m.Done)));
        Assert.Equal(weeks[0], (await house.Get<Tallies, IReadOnlyDictionary<TallyId, TallyTeamWeek>>(s => s.UnderWay(default)))[tally]);
        Assert.Equal(2, (await house.Get<MemberPageQuery, MemberFile?>(s => s.Load(members[0], default)))!.Tallies.Of(tally).Count);
    }

    [Fact]
    public async Task What_is_marked_or_named_is_closed_and_not_thrown_away()
    {
        await using var house = await House.Open();
        var (tally, _, _) = await Follow(house);
        Assert.Contains("already", (await house.Get<Tallies, Result<TallyId>>(s => s.Save(house.Owner, null, new("hive CHECKS", "", 1), default))).Refusal,
            StringComparison.Ordinal);
        Assert.Equal("AWeek", (await house.Get<Tallies, Result<TallyId>>(s => s.Save(house.Owner, null, new("Other", "", 0), default))).Field);
        Assert.Equal(["Listen"], (await house.Get<Tallies,
            (IReadOnlyList<Lesson> UsedIn, IReadOnlyList<TallyTeamWeek>, IReadOnlyList<TallyMember>)>(s => s.Figures(house.Now.TallyById[tally], 1, default)))
            .UsedIn.Select(l => l.Title));
        Assert.Contains("follow-along", (await house.Get<Tallies, Result>(s => s.Remove(house.Owner, tally, default))).Refusal, StringComparison.Ordinal);
        var other = (await house.Get<Tallies, Result<TallyId>>(s => s.Save(house.Owner, null, new("Other", "", 1), default))).Value;
        var plan =
            (await house.Get<SavePlan, Result<PlanId>>(
            s => s.Do(house.Owner, null, new("Apiary", 3, "", [new(new Coverage.OneTally(other), new Reach.EverythingReleased(), new Keep.Nothing())]),
            default))).Value;
        Assert.Contains("promise", (await house.Get<Tallies, Result>(s => s.Remove(house.Owner, other, default))).Refusal, StringComparison.Ordinal);
        Assert.Equal("the tally Other", house.Now.NameOf(house.Now.PlanById[plan].Promise[0].Covers));
        var member = await house.Join(house.Free);
        await Mark(house, member, other);
        await house.Get<SavePromise, Result<int>>(s => s.Do(house.Owner, plan,
            new([new(new Coverage.Everything(), new Reach.EverythingReleased(), new Keep.Nothing())], PromiseVersion.NoPaces, 1), default));
        Assert.Contains("stays", (await house.Get<Tallies, Result>(s => s.Remove(house.Owner, other, default))).Refusal, StringComparison.Ordinal);
        await house.Get<Tallies, Result>(s => s.Archive(house.Owner, other, true, default));
        Assert.Null(TallyReader.For(house.Now, member, null, await house.FactsOf(member), other, house.Clock.Moment));
        Assert.Equal(1, await house.Ask(db => db.TallyMarks.CountAsync()));
    }

    [Fact]
    public async Task Answers_that_come_late_change_nothing_after_the_sheet_is_handed_in()
    {
        await using var house = await House.Open();
        var course = await Course.On(house);
        await house.Release(course.Id);
        var lesson = course.Lesson("Winter");
        var sheet = (await course.Blocks(lesson.Id)).OfType<Block.Practice>().Single();
        var member = await house.Join(house.Free);
        Task<Result> Keep(string word) => house.Get<TakePart,
            Result>(async s => await s.KeepDraft(await house.Reads(member, lesson.Id), sheet.Id, new() { ["q1"] = new Answer.Written(word) }, default));
        // Typing goes on in two windows while a third hands in.
        await Keep("Sugar");
        var all = await Task.WhenAll(Enumerable.Range(0, 6).Select(async i => i == 3
            ? (await house.Get<TakePart, Result<SheetResult>>(
                async s => await s.HandIn(await house.Reads(member, lesson.Id), sheet.Id, new() { ["q1"] = new Answer.Written("fondant") }, default))).Ok
            : (await Keep($"word {i}")).Ok));
        Assert.All(all, Assert.True);
        await Keep("late");
        Assert.Equal((1, 0), (await house.Ask(db => db.SheetTries.CountAsync()), await house.Ask(db => db.SheetDrafts.CountAsync())));
        // Trying again begins a draft, which is kept on as it is typed.
        await house.Do<TakePart>(async s => await s.TryAgain(await house.Reads(member, lesson.Id), sheet.Id, default));
        await Keep("syrup");
        Assert.Equal(new Answer.Written("syrup"), await house.Ask(async db => (await db.SheetDrafts.SingleAsync()).Answers["q1"]));
    }

    [Fact]
    public async Task A_form_sent_twice_at_once_is_one_answer()
    {
        await using var house = await House.Open();
        var form = new Block.CheckIn(new("Hives", [new("q1", FormQuestionKind.Number, "How many?", true, [], null)], FormRepeat.EveryWeek, ""))
        {
            Id =
            house.NextBlock()
        };
        var piece = (await house.Get<SavePiece, Result<PieceId>>(s => s.New(house.Owner, new("Check-in", Blocks: [form], Ready: true), default))).Value;
        await house.Release(piece);
        var member = await house.Join(house.Free);
        await Task.WhenAll(Enumerable.Range(1, 5).Select(
            n => house.Get<TakePart, IReadOnlyDictionary<string,
            string>>(async s => await s.Answer(await house.Reads(member, house.Now.PieceById[piece].Outline.Lessons[0].Id), form.Id, new() { ["q1"] = $"{n}" },
            default))));
        Assert.Equal(1, await house.Ask(db => db.FormEntries.CountAsync()));
    }
}
