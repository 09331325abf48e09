using BrightCircle.Core.Members;
using NodaTime;
using Xunit;

namespace BrightCircle.Core.Tests;

/// <summary>How far somebody new has come, and when they count as stuck: both sides of every line.</summary>
public class ArrivalTests
{
    static readonly Instant Joined = Instant.FromUtc(2026, 11, 1, 12, 0);
    static Instant After(double days) => Joined + Duration.FromDays(days);
    static readonly Duration Tick = Duration.Epsilon;

    [Fact]
    public void The_step_is_the_furthest_they_have_come()
    {
        Assert.Equal(ArrivalStep.HalfWay, new ArrivalFacts(Joined, HalfWay: true).Step);
        Assert.Equal(ArrivalStep.Joined, new ArrivalFacts(Joined, LetterTakenAt: After(0)).Step);
        Assert.Equal(ArrivalStep.SignedIn, new ArrivalFacts(Joined, SignedInAt: After(1)).Step);
        Assert.Equal(ArrivalStep.SignedIn, new ArrivalFacts(Joined, SeenAt: After(1)).Step);
        Assert.Equal(ArrivalStep.Opened, new ArrivalFacts(Joined, SignedInAt: After(1), OpenedAt: After(1)).Step);
        Assert.Equal(ArrivalStep.Opened, new ArrivalFacts(Joined, OpenedAt: After(1), SeenAt: After(7) - Tick).Step);
        Assert.Equal(ArrivalStep.BackAgain, new ArrivalFacts(Joined, OpenedAt: After(1), SeenAt: After(7)).Step);
        // First opened in the second week: that is coming back, too.
        Assert.Equal(ArrivalStep.BackAgain, new ArrivalFacts(Joined, OpenedAt: After(8)).Step);
        Assert.Equal(ArrivalStep.BackAgain, new ArrivalFacts(Joined, OpenedAt: After(8), SeenAt: After(2)).Step);
        // Here again, and nothing opened: not yet.
        Assert.Equal(ArrivalStep.SignedIn, new ArrivalFacts(Joined, SeenAt: After(9)).Step);
    }

    static void Turns(Stuck why, ArrivalFacts facts, Instant at)
    {
        Assert.Null(facts.StuckAt(at - Tick));
        Assert.Equal(why, facts.StuckAt(at));
    }

    [Fact]
    public void Each_kind_of_stuck_begins_at_its_moment()
    {
        Turns(Stuck.LeftHalfWay, new(Joined, HalfWay: true), After(1));
        Turns(Stuck.LetterWaits, new(Joined), Joined + Duration.FromHours(1));
        Turns(Stuck.NoLetter, new(Joined, HasLetter: false), Joined + Duration.FromHours(1));
        Turns(Stuck.NeverCame, new(Joined, LetterTakenAt: After(0.5)), After(3.5));
        Turns(Stuck.OpenedNothing, new(Joined, SignedInAt: After(1), SeenAt: After(3)), After(5));
        Turns(Stuck.OpenedNothing, new(Joined, SeenAt: After(2)), After(6));
        Turns(Stuck.NotBack, new(Joined, OpenedAt: After(1)), After(10));
        Turns(Stuck.NotBack, new(Joined, OpenedAt: After(1), SeenAt: After(3)), After(12));
    }

    [Fact]
    public void A_refused_letter_is_said_at_once_and_is_no_matter_once_they_are_in()
    {
        Assert.Equal(Stuck.LetterRefused, new ArrivalFacts(Joined, LetterRefused: true).StuckAt(Joined));
        Assert.Equal(Stuck.LetterRefused, new ArrivalFacts(Joined, LetterRefused: true, LetterTakenAt: Joined).StuckAt(After(20)));
        Assert.Null(new ArrivalFacts(Joined, LetterRefused: true, SignedInAt: After(1)).StuckAt(After(2)));
        Assert.Null(new ArrivalFacts(Joined, OpenedAt: After(1), SeenAt: After(8)).StuckAt(After(28)));
    }
}
