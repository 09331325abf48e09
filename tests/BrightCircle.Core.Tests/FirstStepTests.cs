using BrightCircle.Core.Members;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>What newcomers are asked to do first.</summary>
public class FirstStepTests
{
    static readonly Instant Came = Instant.FromUtc(2026, 3, 1, 9, 0);
    static readonly FirstStep[] All = [FirstStep.Zone, FirstStep.Hello, FirstStep.About];

    static IReadOnlyList<(FirstStep, bool)> Left(FirstStep[]? chosen = null, FirstStep[]? done = null, FirstStep[]? away = null, bool asks = true,
        bool start = false, bool startDone = false, Instant? came = null, Duration? after = null) =>
        FirstSteps.For(chosen ?? All, (done ?? []).ToHashSet(), (away ?? []).ToHashSet(), asks, start, startDone, came ?? Came,
            Came + (after ?? Duration.Zero));

    [Fact]
    public void They_stand_in_their_order_until_all_are_done()
    {
        Assert.Equal([(FirstStep.Hello, false), (FirstStep.Zone, false), (FirstStep.About, false)], Left());
        Assert.Equal([(FirstStep.Hello, false), (FirstStep.Zone, true), (FirstStep.About, false)], Left(done: [FirstStep.Zone]));
        Assert.Empty(Left(done: All));
        Assert.Empty(Left(chosen: []));
    }

    [Fact]
    public void Questions_are_a_step_only_where_something_is_asked() =>
        Assert.Equal([(FirstStep.Hello, false), (FirstStep.Zone, false)], Left(asks: false));

    [Fact]
    public void What_is_put_away_is_gone_and_holds_nothing_up()
    {
        Assert.Equal([(FirstStep.Hello, false), (FirstStep.About, false)], Left(away: [FirstStep.Zone]));
        Assert.Empty(Left(done: [FirstStep.Hello, FirstStep.Zone], away: [FirstStep.About]));
        Assert.Empty(Left(away: All));
    }

    [Fact]
    public void They_are_shown_for_thirty_days_and_the_piece_to_start_with_for_as_long_as_it_takes()
    {
        Assert.Equal(3, Left(after: Duration.FromDays(30) - Duration.FromSeconds(1)).Count);
        Assert.Empty(Left(after: Duration.FromDays(30)));
        Assert.Equal([(FirstStep.StartHere, false)], Left(start: true, after: Duration.FromDays(900)));
        Assert.Empty(FirstSteps.For(All, new HashSet<FirstStep>(), new HashSet<FirstStep>(), true, false, false, null, Came));
    }

    [Fact]
    public void The_piece_to_start_with_comes_last_and_counts_as_done_when_it_is()
    {
        Assert.Equal((FirstStep.StartHere, false), Left(start: true)[^1]);
        Assert.Equal((FirstStep.StartHere, true), Left(start: true, startDone: true)[^1]);
        Assert.Empty(Left(done: All, start: true, startDone: true));
        Assert.Equal(4, Left(done: All, start: true).Count);
        Assert.Empty(Left(done: All, start: true, away: [FirstStep.StartHere]));
        // It comes with the plan; choosing it changes nothing.
        Assert.Empty(Left(chosen: [FirstStep.StartHere]));
    }
}
