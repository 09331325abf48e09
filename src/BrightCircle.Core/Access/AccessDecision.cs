using NodaTime;

namespace BrightCircle.Core.Access;

public enum AccessState : byte
{
    /// <summary>Doesn't exist for them: a draft.</summary>
    Hidden,
    /// <summary>Exists or is announced, and isn't theirs to open.</summary>
    Locked,
    /// <summary>Will open by itself at a known moment.</summary>
    OpensAt,
    Open,
}

/// <summary>The rule that decided.</summary>
public enum AccessRule : byte
{
    /// <summary>The team sees everything.</summary>
    Team,
    /// <summary>A lesson that everybody may open.</summary>
    Teaser,
    /// <summary>In a piece that everybody may open.</summary>
    OpenToAll,
    /// <summary>The reach is everything released.</summary>
    EverythingReleased,
    /// <summary>Released since they joined.</summary>
    SinceJoining,
    /// <summary>In the edition that was current, in its own span, when they joined.</summary>
    CurrentWhenJoining,
    /// <summary>Released outside any edition: open to whoever joins later.</summary>
    StandingContent,
    /// <summary>Released or current in time they paid for.</summary>
    InPaidTime,
    /// <summary>In the latest editions, as many as the promise says.</summary>
    InLatestEditions,
    /// <summary>The holding is over, and its promise keeps what had opened.</summary>
    KeptAfterLeaving,
    /// <summary>Something that goes on, a tally, open as long as what covers it is held.</summary>
    WhileHeld,
    /// <summary>It comes out at a planned moment, and opens then.</summary>
    ScheduledRelease,
    /// <summary>It is its turn at a known moment, by the pace.</summary>
    Paced,
    /// <summary>It is out, and may be opened from a moment on.</summary>
    OpensLater,
    /// <summary>What covers it was given or planned for a later day, and opens then.</summary>
    HoldingBegins,
    NotReleased,
    /// <summary>It is out, and kept from those who can't open it.</summary>
    KeptQuiet,
    NothingHeld,
    NotCovered,
    BeforeJoining,
    /// <summary>Newer editions have taken its place.</summary>
    OutOfLatest,
    OutsidePaidTime,
    /// <summary>What covers it ends before it comes out.</summary>
    EndsBefore,
    HoldingOver,
    /// <summary>The holding goes on, and what covers it in its promise has ended.</summary>
    InclusionOver,
    /// <summary>It could be opened until a moment that is past.</summary>
    WindowOver,
    /// <summary>The promise asks for something else as well, and that isn't so.</summary>
    NeedUnmet,
    /// <summary>It waits for a date that nobody has named yet.</summary>
    NoDateYet,
    /// <summary>It opens once the part before it is done.</summary>
    PreviousFirst,
    /// <summary>It would be open, but only so many can take part, and they have no place.</summary>
    NoPlace,
}

public static class AccessRules
{
    /// <summary>Whether the rule opens, or keeps closed.</summary>
    public static bool Opens(this AccessRule rule) => rule switch
    {
        AccessRule.Team or AccessRule.Teaser or AccessRule.OpenToAll or AccessRule.EverythingReleased or AccessRule.SinceJoining
            or AccessRule.CurrentWhenJoining or AccessRule.StandingContent or AccessRule.InPaidTime or AccessRule.InLatestEditions
            or AccessRule.KeptAfterLeaving or AccessRule.WhileHeld => true,
        AccessRule.ScheduledRelease or AccessRule.Paced or AccessRule.OpensLater or AccessRule.HoldingBegins or AccessRule.NotReleased or AccessRule.KeptQuiet
            or AccessRule.NothingHeld
            or AccessRule.NotCovered or AccessRule.BeforeJoining or AccessRule.OutOfLatest or AccessRule.OutsidePaidTime or AccessRule.EndsBefore
            or AccessRule.HoldingOver or AccessRule.InclusionOver or AccessRule.WindowOver or AccessRule.NeedUnmet or AccessRule.NoDateYet
            or AccessRule.PreviousFirst or AccessRule.NoPlace => false,
    };

    /// <summary>What covers it is held, and something that can change keeps it closed: the refusal is told even of what is otherwise kept quiet.</summary>
    internal static bool IsHeldBack(this AccessRule rule) =>
        rule is AccessRule.NeedUnmet or AccessRule.NoDateYet or AccessRule.PreviousFirst or AccessRule.NoPlace;

    /// <summary>
    /// Of several refusals the one that came nearest to opening is told: who held it once hears that it ended rather than that something else doesn't cover it.
    /// </summary>
    internal static int Nearness(this AccessRule rule) => rule switch
    {
        AccessRule.NothingHeld => 0,
        AccessRule.NotCovered => 1,
        AccessRule.BeforeJoining => 2,
        AccessRule.OutOfLatest => 3,
        AccessRule.OutsidePaidTime => 4,
        AccessRule.EndsBefore => 5,
        AccessRule.HoldingOver => 6,
        AccessRule.InclusionOver => 7,
        AccessRule.WindowOver => 8,
        AccessRule.NeedUnmet => 9,
        AccessRule.NoDateYet => 10,
        AccessRule.PreviousFirst => 11,
        AccessRule.NoPlace => 12,
        AccessRule.Team or AccessRule.Teaser or AccessRule.OpenToAll or AccessRule.EverythingReleased or AccessRule.SinceJoining
            or AccessRule.CurrentWhenJoining or AccessRule.StandingContent or AccessRule.InPaidTime or AccessRule.InLatestEditions
            or AccessRule.KeptAfterLeaving or AccessRule.WhileHeld or AccessRule.ScheduledRelease or AccessRule.Paced or AccessRule.OpensLater
            or AccessRule.HoldingBegins or AccessRule.NotReleased or AccessRule.KeptQuiet =>
                throw new ArgumentOutOfRangeException(nameof(rule), rule, "It is no refusal."),
    };
}

/// <summary>An access decision with what it rests on. The words are made by <see cref="Why"/>, only when somebody asks.</summary>
/// <param name="OpensAt">Where it opens by itself: when. Where it is locked and not out yet: when it comes out.</param>
/// <param name="Holding">The position of the deciding holding in the facts, −1 where none.</param>
/// <param name="Inclusion">The position of the deciding inclusion in that holding's promise, −1 where none.</param>
public readonly record struct AccessDecision(AccessState State, AccessRule Rule, Instant OpensAt = default, short Holding = -1, short Inclusion = -1)
{
    public bool IsOpen => State == AccessState.Open;
    /// <summary>They may know of it: its title stands in lists.</summary>
    public bool IsKnown => State != AccessState.Hidden;
    /// <summary>Announced, and not out yet.</summary>
    public bool IsComing => OpensAt != default;
}
