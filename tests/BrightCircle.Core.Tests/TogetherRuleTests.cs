using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Core.Learning;
using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>Of what somebody is told, and how a challenge stands.</summary>
public class TogetherRuleTests
{
    static readonly Duration Day = Duration.FromDays(1), Week = Duration.FromDays(7);

    [Fact]
    public void Once_a_day_of_the_threads_one_follows_is_the_usual()
    {
        Assert.Equal(Telling.Followed, default);
        Assert.Equal(Day, TellingRule.LooksBack(Telling.Followed, true, IsoDayOfWeek.Tuesday));
        Assert.Null(TellingRule.LooksBack(Telling.Followed, null, IsoDayOfWeek.Tuesday));
    }

    [Fact]
    public void Everything_comes_once_a_day_or_on_Mondays_or_at_once_but_never_what_one_wants_to_hear_nothing_of()
    {
        foreach (bool? follows in new bool?[] { true, null })
        {
            Assert.Equal(Day, TellingRule.LooksBack(Telling.Daily, follows, IsoDayOfWeek.Sunday));
            Assert.Equal(Week, TellingRule.LooksBack(Telling.Weekly, follows, IsoDayOfWeek.Monday));
            Assert.All(Enum.GetValues<IsoDayOfWeek>().Except([IsoDayOfWeek.Monday, IsoDayOfWeek.None]),
                d => Assert.Null(TellingRule.LooksBack(Telling.Weekly, follows, d)));
            Assert.Null(TellingRule.LooksBack(Telling.AtOnce, follows, IsoDayOfWeek.Monday));
            Assert.Null(TellingRule.LooksBack(Telling.Never, follows, IsoDayOfWeek.Monday));
            Assert.True(TellingRule.AtOnce(Telling.AtOnce, follows));
        }
        foreach (var telling in Enum.GetValues<Telling>())
        {
            Assert.Null(TellingRule.LooksBack(telling, false, IsoDayOfWeek.Monday));
            Assert.False(TellingRule.AtOnce(telling, false));
            Assert.Equal(telling == Telling.AtOnce, TellingRule.AtOnce(telling, true));
        }
        Assert.Throws<ArgumentOutOfRangeException>(() => TellingRule.LooksBack((Telling)9, true, IsoDayOfWeek.Monday));
    }

    static Challenge Six(int weeks = 6) => new() { StartsOn = new(2026, 11, 9), Weeks = weeks };

    [Fact]
    public void A_challenge_goes_from_a_Monday_to_a_Sunday()
    {
        var c = Six();
        Assert.Equal(new LocalDate(2026, 12, 20), c.EndsOn);
        Assert.Equal([0, 1, 1, 2, 6, 7], new LocalDate[] { new(2026, 11, 8), new(2026, 11, 9), new(2026, 11, 15), new(2026, 11, 16), new(2026, 12, 20),
            new(2026, 12, 21) }.Select(c.WeekOf));
        Assert.Equal(7, c.WeekOf(new(2030, 1, 1)));
        Assert.Equal(0, c.WeekOf(new(2020, 1, 1)));
        Assert.Equal((false, true, true, false), (c.IsUnderWay(new(2026, 11, 8)), c.IsUnderWay(new(2026, 11, 9)), c.IsUnderWay(new(2026, 12, 20)),
            c.IsUnderWay(new(2026, 12, 21))));
        Assert.Equal((false, true), (c.IsOver(new(2026, 12, 20)), c.IsOver(new(2026, 12, 21))));
    }

    static Tally Aim(int aWeek)
    {
        var tally = new Tally();
        tally.Aim(aWeek, IsoWeek.Of(new(2026, 11, 9)));
        return tally;
    }

    static ChallengeRow Row(long id, params int[] done) => new(new(id), $"M{id}", done, null);

    [Fact]
    public void Those_with_nothing_this_week_stand_first_and_what_is_beyond_the_aim_counts_for_nobody_else()
    {
        var board = ChallengeBoard.Of(Six(3), Aim(3), [Row(1, 3, 3, 0), Row(2, 3, 0, 0), Row(3, 3, 5, 0), Row(4, 0, 2, 0)], new(2026, 11, 18));
        Assert.Equal(2, board.ThisWeek);
        Assert.Equal([2L, 4L, 1L, 3L], board.Rows.Select(r => r.Member.Value));
        Assert.Equal((8, 12), (board.Together, board.TogetherAim));
        Assert.Equal((2, 3, 1), (board.AtAim, board.AtAimBefore, board.AtNothing));
        Assert.True(board.Met(board.Rows[2], 1));
        Assert.False(board.Met(board.Rows[1], 2));
    }

    [Fact]
    public void Before_it_begins_nobody_is_behind_and_after_it_the_last_week_stands()
    {
        ChallengeRow[] rows = [Row(1, 3, 3, 3), Row(2, 3, 2, 3)];
        var before = ChallengeBoard.Of(Six(3), Aim(3), rows, new(2026, 11, 1));
        Assert.Equal((0, 0, 0, 0, 0), (before.ThisWeek, before.Together, before.TogetherAim, before.AtNothing, before.AtAim));
        Assert.Null(before.AtAimBefore);
        Assert.Null(ChallengeBoard.Of(Six(3), Aim(3), rows, new(2026, 11, 9)).AtAimBefore);
        var after = ChallengeBoard.Of(Six(3), Aim(3), rows, new(2027, 2, 1));
        Assert.Equal((3, 2, 1), (after.ThisWeek, after.AtAim, after.AtAimBefore));
        Assert.Equal((true, false), (after.Finished(rows[0]), after.Finished(rows[1])));
    }

    [Fact]
    public void An_aim_that_was_changed_counts_from_its_week_on()
    {
        var tally = Aim(3);
        tally.Aim(1, IsoWeek.Of(new(2026, 11, 23)));
        var board = ChallengeBoard.Of(Six(3), tally, [Row(1, 3, 2, 1)], new(2026, 11, 25));
        Assert.Equal([3, 3, 1], board.Aims);
        Assert.Equal((1, 0), (board.AtAim, board.AtAimBefore));
        Assert.False(board.Finished(board.Rows[0]));
    }

    [Fact]
    public void A_tally_that_stands_apart_is_promised_by_name_alone()
    {
        var (usual, apart) = (new TallyId(1), new TallyId(2));
        AccessBook Book(Coverage covers) => new([Make.Tier(1, 1, new Inclusion(covers, new Reach.EverythingReleased(), new Keep.Nothing()))], [], [],
            [usual, apart], apart: new HashSet<TallyId> { apart });
        var from = SiteCalendar.For(Make.London).At(new LocalDateTime(2026, 3, 1, 0, 0));
        var facts = MemberFacts.From([Make.Holding(1, from, facts: [Make.Paid(from, null)])], from);
        bool Opens(Coverage covers, TallyId tally) => Book(covers).Decide(facts, tally, from).IsOpen;
        Assert.Equal((true, false), (Opens(new Coverage.Everything(), usual), Opens(new Coverage.Everything(), apart)));
        Assert.Equal((false, true), (Opens(new Coverage.OneTally(apart), usual), Opens(new Coverage.OneTally(apart), apart)));
    }
}
