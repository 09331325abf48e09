using BrightCircle.App.Community;
using BrightCircle.App.Content;
using BrightCircle.App.Offer;
using BrightCircle.App.Releases;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;
using Xunit;

namespace BrightCircle.App.Tests;

/// <summary>A piece that opens bit by bit: its own pace, cohorts, windows, and what becomes of turns when its outline changes.</summary>
public sealed class PaceTests
{
    static readonly Pace Weekly = new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0));
    static readonly Dictionary<LessonId, int> NoMoves = [];

    /// <summary>A course of three lessons that is out, and somebody who holds everything since just now.</summary>
    static async Task<(House House, Course Course, MemberId Member)> Begun()
    {
        var house = await House.Open();
        var course = await Course.On(house);
        await house.Do<ChangeLessons>(s => s.Do(house.Owner, [.. course.Piece.Outline.Lessons.Select(l => l.Id)], BulkAction.Publish, null, default));
        await house.Release(course.Id);
        return (house, course, await house.Join(house.Monthly));
    }

    static async Task<string> Says(House house, Course course, MemberId member)
    {
        var facts = await house.FactsOf(member);
        return string.Join(" | ", course.Piece.Outline.Lessons.Select(l => house.Now.Book.Decide(facts, l.Id, house.Clock.Moment) switch
        {
            { IsOpen: true } => "open",
            { State: AccessState.OpensAt } d => $"{house.Now.Calendar.Local(d.OpensAt):d MMM HH:mm}",
            var d => d.Rule.ToString(),
        }));
    }

    static Task<Result> Save(House house, Course course, PaceScope scope, Pace? pace, Dictionary<LessonId, int>? moves = null, bool anew = false) =>
        house.Get<SavePace, Result>(s => s.Do(house.Owner, course.Id, scope, pace, moves ?? NoMoves, anew, default));

    [Fact]
    public async Task A_piece_has_a_pace_for_everybody_and_another_for_a_price()
    {
        var (house, course, member) = await Begun();
        await using var _ = house;
        Assert.Equal("open | open | open", await Says(house, course, member));
        Assert.True((await Save(house, course, new(), Weekly)).Ok);
        Assert.Equal("open | 1 Dec 09:00 | 8 Dec 09:00", await Says(house, course, member));
        Assert.True((await Save(house, course, new(Price: house.Monthly), new Pace.Steps(1, PaceUnit.Days, new LocalTime(9, 0)),
            new() { [course.Lesson("Lesson 3").Id] = 10, [new(999)] = 3 })).Ok);
        Assert.Equal("open | 25 Nov 09:00 | 4 Dec 09:00", await Says(house, course, member));
        // The same scope once more is the same row; taken away, the one for everybody counts again.
        Assert.True((await Save(house, course, new(Price: house.Monthly), new Pace.AtOnce())).Ok);
        Assert.Equal("open | open | open", await Says(house, course, member));
        Assert.Equal(2, await house.Ask(db => db.PiecePaces.CountAsync()));
        Assert.True((await Save(house, course, new(Price: house.Monthly), null)).Ok);
        Assert.Equal("open | 1 Dec 09:00 | 8 Dec 09:00", await Says(house, course, member));
        var way = await house.Get<OnTheirWay, IReadOnlyList<(int Day, int People)>>(w => w.Of(house.Now.Book, course.Piece, new(), default));
        Assert.Equal([(0, 1)], way);

        Assert.Contains("1 to", (await Save(house, course, new(), new Pace.Steps(1001, PaceUnit.Days))).Refusal, StringComparison.Ordinal);
        Assert.Contains("0 to", (await Save(house, course, new(), Weekly, new() { [course.Lesson("Lesson 3").Id] = 1001 })).Refusal, StringComparison.Ordinal);
        Assert.Contains("order", (await Save(house, course, new(), new Pace.OnDates([new(2027, 1, 1, 9, 0), new(2026, 1, 1, 9, 0)]))).Refusal,
            StringComparison.Ordinal);
        Assert.Contains("any more", (await Save(house, course, new(Plan: new(12)), Weekly)).Refusal, StringComparison.Ordinal);
    }

    [Fact]
    public async Task What_is_added_or_moved_closes_no_open_lesson_until_it_is_laid_out_anew()
    {
        var (house, course, member) = await Begun();
        await using var _ = house;
        await Save(house, course, new(), Weekly);
        house.Clock.StandAt(house.Now.Calendar.At(new(2026, 12, 2, 9, 0)));
        Assert.Equal("open | open | 8 Dec 09:00", await Says(house, course, member));
        // A lesson in front of the second: that one keeps its turn, and so does the third.
        var added = (await house.Get<AddLesson, Result<LessonId>>(s => s.Do(house.Owner, course.Id, course.Piece.Outline.Modules.First().Id, "Between", null,
            default, [Course.Text(house, "<p>More</p>")]))).Value;
        Assert.True((await house.Get<MoveLessons, Result>(s => s.Do(house.Owner, [added], course.Id, course.Piece.Outline.Modules.First().Id, default))).Ok);
        await house.Get<ReorderOutline, Result>(s => s.Lesson(house.Owner, added, -1, default));
        await house.Do<ChangeLessons>(s => s.Do(house.Owner, [added], BulkAction.Publish, null, default));
        await house.Services.GetRequiredService<App.Due.RunDue>().Run();
        Assert.Equal(["Winter", "Between", "Lesson 2", "Lesson 3"], course.Piece.Outline.Lessons.Select(l => l.Title));
        Assert.Equal("open | open | open | 8 Dec 09:00", await Says(house, course, member));
        await Save(house, course, new(), Weekly, anew: true);
        Assert.Equal("open | open | 8 Dec 09:00 | 15 Dec 09:00", await Says(house, course, member));
    }

    [Fact]
    public async Task A_cohort_starts_together_and_its_timeline_is_copied_for_the_next()
    {
        var (house, course, member) = await Begun();
        await using var _ = house;
        await Save(house, course, new(), new Pace.Steps(7, PaceUnit.Days, new LocalTime(9, 0), From: PaceFrom.Cohort));
        Assert.Equal("NoDateYet | NoDateYet | NoDateYet", await Says(house, course, member));
        Task<Result<CohortId>> Cohort(string? name, LocalDateTime? starts, CohortId? id = null, CohortId? copy = null) =>
            house.Get<Cohorts, Result<CohortId>>(s => s.Save(house.Owner, course.Id, id, name, starts, copy, default));
        var december = (await Cohort("December", new LocalDateTime(2026, 12, 1, 9, 0))).Value;
        Assert.Equal("1 Dec 09:00 | 8 Dec 09:00 | 15 Dec 09:00", await Says(house, course, member));
        Assert.True((await Save(house, course, new(Cohort: december), new Pace.Steps(1, PaceUnit.Days, new LocalTime(9, 0), From: PaceFrom.Cohort))).Ok);
        var january = (await Cohort("January", new LocalDateTime(2027, 1, 4, 9, 0), copy: december)).Value;
        Assert.Equal("1 Dec 09:00 | 2 Dec 09:00 | 3 Dec 09:00", await Says(house, course, member));
        var email = await house.Ask(db => db.Members.Where(m => m.Id == member).Select(m => m.Email).SingleAsync());
        Assert.True((await house.Get<Cohorts, Result>(s => s.Put(house.Owner, course.Id, january, $" {email} ", default))).Ok);
        Assert.Equal("4 Jan 09:00 | 5 Jan 09:00 | 6 Jan 09:00", await Says(house, course, member));
        // Put into another, they are out of the first.
        Assert.True((await house.Get<Cohorts, Result>(s => s.Put(house.Owner, course.Id, december, email, default))).Ok);
        Assert.Equal(1, await house.Ask(db => db.CohortMembers.CountAsync()));
        Assert.True((await Cohort("December", new LocalDateTime(2026, 12, 2, 9, 0), december)).Ok);
        Assert.Equal("2 Dec 09:00 | 3 Dec 09:00 | 4 Dec 09:00", await Says(house, course, member));
        // With a space of their own: who starts with another cohort isn't in it, and as long as it is there the cohort is.
        Task<Result<SpaceId>> Make(CohortId of) => house.Get<SpacesOfCohorts, Result<SpaceId>>(s => s.Make(house.Owner, of, default));
        var (space, other) = ((await Make(december)).Value, (await Make(january)).Value);
        Assert.Equal(space, (await Make(december)).Value);
        Assert.False((await Make(new(999))).Ok);
        Assert.Equal(("Winter, December", course.Id, "For everybody who starts Winter together on 2 December 2026."),
            (house.Now.SpaceById[space].Name, house.Now.SpaceById[space].PieceId!.Value, house.Now.SpaceById[space].Door));
        Assert.True((await TalkHelp.Of(house, member.Value, space)).MayBegin);
        Assert.Null(await TalkHelp.Reader(house, member.Value, other));
        // What is changed about it is how it looks.
        Assert.True((await house.Get<SaveSpace, Result<SpaceId>>(s => s.Do(house.Owner, space, SpaceDraft.Of(house.Now.SpaceById[space]) with
        {
            Name = "Together",
            Piece = null,
            ForGuests = true,
            ByEdition = true,
        }, default))).Ok);
        var kept = house.Now.SpaceById[space];
        Assert.Equal(("Together", course.Id, december, false, false), (kept.Name, kept.PieceId!.Value, kept.CohortId!.Value, kept.ForGuests, kept.ByEdition));
        var stays = await house.Get<Cohorts, Result>(s => s.Remove(house.Owner, course.Id, december, default));
        Assert.StartsWith("It has a space", stays.Refusal, StringComparison.Ordinal);
        Assert.True((await house.Get<SaveSpace, Result>(s => s.Remove(house.Owner, space, default))).Ok);
        // Where the name is taken, it says the day.
        Assert.True((await house.Get<SaveSpace, Result<SpaceId>>(s => s.Do(house.Owner, null, SpaceDraft.Empty with { Name = "Winter, December" },
            default))).Ok);
        var again = (await Make(december)).Value;
        Assert.Equal("Winter, 2 December 2026", house.Now.SpaceById[again].Name);
        Assert.True((await house.Get<SaveSpace, Result>(s => s.Remove(house.Owner, again, default))).Ok);
        await house.Get<Cohorts, Result>(s => s.Remove(house.Owner, course.Id, december, default));
        Assert.Equal("4 Jan 09:00 | 5 Jan 09:00 | 6 Jan 09:00", await Says(house, course, member));

        Assert.Equal("Name", (await Cohort(" ", new LocalDateTime(2027, 1, 4, 9, 0))).Field);
        Assert.Equal("Starts", (await Cohort("June", null)).Field);
        Assert.Contains("already", (await Cohort("january", new LocalDateTime(2027, 6, 1, 9, 0))).Refusal, StringComparison.Ordinal);
        Assert.Contains("Nobody", (await house.Get<Cohorts, Result>(s => s.Put(house.Owner, course.Id, january, "no@tests.example", default))).Refusal,
            StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_window_closes_a_part_and_what_is_open_to_all_needs_no_plan()
    {
        var (house, course, member) = await Begun();
        await using var _ = house;
        var (second, third) = (course.Lesson("Lesson 2").Id, course.Lesson("Lesson 3").Id);
        Task<Result> Windows(Window? whole, Dictionary<LessonId, Window> parts, bool toAll = false) =>
            house.Get<SaveWindows, Result>(s => s.Do(house.Owner, course.Id, new(whole, parts, toAll, false), default));
        var tomorrow = house.Clock.Moment + Duration.FromDays(1);
        Assert.True((await Windows(null, new() { [second] = new(tomorrow), [third] = new(Days: 2) })).Ok);
        Assert.Equal("open | 25 Nov 10:42 | open", await Says(house, course, member));
        house.Clock.StandAt(tomorrow + Duration.FromDays(1));
        Assert.Equal("open | open | WindowOver", await Says(house, course, member));
        Assert.True((await Windows(new(Until: house.Clock.Moment), [])).Ok);
        Assert.Equal("WindowOver | WindowOver | WindowOver", await Says(house, course, member));
        Assert.True((await Windows(null, [], toAll: true)).Ok);
        Assert.Equal(AccessRule.OpenToAll, house.Now.Book.Decide(MemberFacts.Nobody, third, house.Clock.Moment).Rule);
        Assert.Contains("before it opens", (await Windows(new(tomorrow, tomorrow), [])).Refusal, StringComparison.Ordinal);
        Assert.Contains("1 to", (await Windows(new(Days: 0), [])).Refusal, StringComparison.Ordinal);
    }

    [Fact]
    public async Task The_calendar_of_a_member_is_read_back_by_another_program()
    {
        var (house, course, member) = await Begun();
        await using var _ = house;
        await Save(house, course, new(), Weekly);
        var text = await house.Get<Feeds, string>(async f => f.OpeningsCalendar(await house.FactsOf(member), house.Clock.Moment, []));
        // RFC 5545, by the library that others read it with.
        var read = Ical.Net.Calendar.Load(text)!;
        Assert.Contains(read.Events, e => e.Summary == "Lesson 2 opens (Winter)" && e.DtStart!.AsUtc == new DateTime(2026, 12, 1, 9, 0, 0, DateTimeKind.Utc));
        Assert.All(read.Events, e => Assert.Equal("TRANSPARENT", e.Transparency));
    }
}
