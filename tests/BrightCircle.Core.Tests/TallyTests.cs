using System.Globalization;
using System.Text.Json;
using BrightCircle.Core.Access;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using CsCheck;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

public class TallyTests
{
    static readonly Gen<LocalDate> GenDay = Gen.Int[-40_000, 40_000].Select(n => new LocalDate(2026, 1, 1).PlusDays(n));

    // The turn-of-the-year examples that are commonly given with ISO 8601, from memory; each is held against .NET's own ISOWeek too, below.
    [Theory]
    [InlineData(2005, 1, 1, "2004-W53")]
    [InlineData(2005, 12, 31, "2005-W52")]
    [InlineData(2007, 1, 1, "2007-W01")]
    [InlineData(2008, 12, 29, "2009-W01")]
    [InlineData(2010, 1, 3, "2009-W53")]
    [InlineData(2026, 12, 31, "2026-W53")]
    [InlineData(2027, 1, 4, "2027-W01")]
    public void A_week_belongs_to_the_year_of_its_Thursday(int year, int month, int day, string week) =>
        Assert.Equal(week, IsoWeek.Of(new(year, month, day)).ToString());

    [Fact]
    public void Weeks_agree_with_the_calendar_library_of_the_framework() => GenDay.Sample(day =>
    {
        var week = IsoWeek.Of(day);
        var there = day.ToDateTimeUnspecified();
        Assert.Equal((ISOWeek.GetYear(there), ISOWeek.GetWeekOfYear(there)), (week.Year, week.Number));
        Assert.Equal(ISOWeek.ToDateTime(week.Year, week.Number, DayOfWeek.Monday), week.Monday.ToDateTimeUnspecified());
        Assert.InRange(day, week.Monday, week.Sunday);
        Assert.Equal(53, week.Plus(53).Since(week));
    });

    static readonly IsoWeek W40 = IsoWeek.Of(new(2026, 9, 30));

    static Tally Aiming(int aWeek)
    {
        var tally = new Tally { Id = new(1), Name = "Hive checks" };
        tally.Aim(aWeek, W40.Plus(-200));
        return tally;
    }

    /// <summary>Counts from W40 back: the first is the week under way.</summary>
    static TallyStanding Standing(Tally tally, params int[] backwards) =>
        TallyStanding.Of(tally, backwards.Select((n, i) => (Week: W40.Plus(-i), n)).ToDictionary(x => x.Week, x => x.n), W40);

    [Theory]
    [InlineData("", 0, 0)]
    [InlineData("1", 0, 0)]
    [InlineData("2", 1, 1)]
    [InlineData("0 2", 1, 1)] // the week under way doesn't break a row
    [InlineData("1 2 3", 2, 2)]
    [InlineData("2 2 3", 3, 3)]
    [InlineData("0 1 2 2", 0, 2)] // last week did
    [InlineData("2 0 2 2 2 1 9", 1, 3)]
    public void A_row_of_weeks_is_counted_up_to_now(string done, int streak, int longest)
    {
        var s = Standing(Aiming(2), [.. done.Split(' ', StringSplitOptions.RemoveEmptyEntries).Select(n => int.Parse(n, CultureInfo.InvariantCulture))]);
        Assert.Equal((streak, longest), (s.Streak, s.Longest));
    }

    [Fact]
    public void A_row_goes_over_the_turn_of_the_year()
    {
        var w1 = IsoWeek.Of(new(2027, 1, 6));
        var s = TallyStanding.Of(Aiming(1), new Dictionary<IsoWeek, int> { [w1] = 1, [w1.Plus(-1)] = 1, [w1.Plus(-2)] = 1 }, w1);
        Assert.Equal(3, s.Streak);
        Assert.Equal(["2026-W52", "2026-W53", "2027-W01"], s.Last(3).Select(w => w.Week.ToString()));
    }

    [Fact]
    public void The_share_of_a_week_is_done_by_aim_and_one_at_most()
    {
        Assert.Equal(0.5, Standing(Aiming(4), 2).ThisWeek.Share);
        Assert.Equal(1, Standing(Aiming(4), 9).ThisWeek.Share);
        Assert.True(Standing(Aiming(4), 4).ThisWeek.Met);
        Assert.False(Standing(Aiming(4), 3).ThisWeek.Met);
    }

    [Fact]
    public void A_changed_aim_leaves_the_weeks_before_it_as_they_were()
    {
        var tally = Aiming(2);
        tally.Aim(3, W40);
        var s = Standing(tally, 2, 2, 2);
        Assert.Equal((2, 3), (s.Streak, s.ThisWeek.Aim));
        Assert.Equal([2, 2, 3], s.Last(3).Select(w => w.Aim));
        // Changed again in the same week, the last word counts; back to the old aim, nothing is left of it.
        tally.Aim(5, W40);
        Assert.Equal(5, tally.AimIn(W40));
        tally.Aim(2, W40);
        Assert.Equal(2, tally.AimIn(W40.Plus(1)));
        Assert.Equal(3, Standing(tally, 2, 2, 2).Streak);
        Assert.Throws<ArgumentOutOfRangeException>(() => tally.Aim(0, W40));
        Assert.Throws<ArgumentOutOfRangeException>(() => tally.Aim(Tally.MostAWeek + 1, W40));
    }

    [Fact]
    public void Streaks_are_what_counting_week_by_week_gives() => Gen.Select(Gen.Int[0, 4].Array[0, 30], Gen.Int[1, 3]).Sample((done, aim) =>
    {
        var s = Standing(Aiming(aim), done);
        bool Met(int back) => back < done.Length && done[back] >= aim;
        var back = Met(0) ? 0 : 1;
        var streak = 0;
        while (Met(back++)) streak++;
        var (longest, row) = (0, 0);
        for (var i = done.Length - 1; i >= 0; i--) longest = Math.Max(longest, row = Met(i) ? row + 1 : 0);
        Assert.Equal((streak, longest, done.Sum()), (s.Streak, s.Longest, s.InAll));
        Assert.True(s.Longest >= s.Streak);
    });

    [Fact]
    public void More_marks_never_make_a_standing_worse() => Gen.Select(Gen.Int[0, 4].Array[1, 20], Gen.Int[0, 19], Gen.Int[1, 3]).Sample((done, at, aim) =>
    {
        var before = Standing(Aiming(aim), done);
        var more = done.ToArray();
        more[at % done.Length]++;
        var after = Standing(Aiming(aim), more);
        Assert.True(after.Streak >= before.Streak && after.Longest >= before.Longest && after.ThisWeek.Share >= before.ThisWeek.Share);
    });

    [Fact]
    public void What_lies_ahead_of_the_week_under_way_is_left_out()
    {
        var s = TallyStanding.Of(Aiming(1), new Dictionary<IsoWeek, int> { [W40.Plus(1)] = 4, [W40] = 1 }, W40);
        Assert.Equal((1, 1, 1), (s.Streak, s.Longest, s.InAll));
    }

    static readonly Instant Joined = Instant.FromUtc(2026, 3, 1, 9, 0);

    static MemberFacts Holding(PlanId plan, Instant? ended = null)
    {
        var given = Make.Given(Joined);
        var h = Make.Holding(plan.Value, Joined, Make.Free, facts: ended is { } at ? [given, Make.Ended(at)] : [given]);
        return MemberFacts.From([h], Joined + Duration.FromDays(100));
    }

    [Fact]
    public void A_promise_covers_a_tally_as_long_as_it_is_held()
    {
        Plan Plan(long id, params Coverage[] covers) =>
            new()
            {
                Id = new(id),
                Name = "Tier",
                Promise =
            [.. covers.Select(c => new Inclusion(c, new Reach.EverythingReleased(), new Keep.WhatHadOpened()))]
            };
        var book =
            new AccessBook([Plan(1, new Coverage.OneTally(new(7))), Plan(2, new Coverage.Everything()),
            Plan(3, new Coverage.OnShelf(new(7)), new Coverage.OnePiece(new(7)))], [], []);
        Assert.Equal(AccessRule.WhileHeld, book.Decide(Holding(new(1)), new TallyId(7), Joined + Duration.FromDays(100)).Rule);
        Assert.Equal(AccessRule.NotCovered, book.Decide(Holding(new(1)), new TallyId(8), Joined + Duration.FromDays(100)).Rule);
        Assert.True(book.Decide(Holding(new(2)), new TallyId(8), Joined + Duration.FromDays(100)).IsOpen);
        // The number of a shelf or a piece is not that of a tally.
        Assert.False(book.Decide(Holding(new(3)), new TallyId(7), Joined + Duration.FromDays(100)).IsOpen);
        Assert.Equal(AccessRule.NothingHeld, book.Decide(MemberFacts.Nobody, new TallyId(7), Joined + Duration.FromDays(100)).Rule);
        Assert.True(book.Decide(MemberFacts.Team, new TallyId(7), Joined + Duration.FromDays(100)).IsOpen);
        // What is kept after leaving is what was read, not a place to mark.
        Assert.Equal(AccessRule.HoldingOver, book.Decide(Holding(new(1), Joined + Duration.FromDays(50)), new TallyId(7), Joined + Duration.FromDays(100))
            .Rule);
        Assert.Equal("the tally", PromiseWords.Describe(new(new Coverage.OneTally(new(7)), new Reach.FromJoining(), new Keep.Nothing())));
    }

    [Fact]
    public void A_tally_is_stored_as_plain_numbers_and_days()
    {
        var inclusion = new Inclusion(new Coverage.OneTally(new(7)), new Reach.EverythingReleased(), new Keep.Nothing());
        var json = JsonSerializer.Serialize(inclusion, CoreJson.Options);
        Assert.Contains("\"tally\":7", json, StringComparison.Ordinal);
        Assert.Equal(inclusion, JsonSerializer.Deserialize<Inclusion>(json, CoreJson.Options));
        Assert.Equal("""[{"from":"2026-09-28","aWeek":2}]""", JsonSerializer.Serialize<IReadOnlyList<TallyAim>>([new(W40.Monday, 2)], CoreJson.Options));
    }
}
