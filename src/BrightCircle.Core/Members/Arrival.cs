using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>How far somebody new has come.</summary>
public enum ArrivalStep
{
    /// <summary>Began to join, and isn't through with it.</summary>
    HalfWay,
    /// <summary>Holds something, and wasn't here yet.</summary>
    Joined,
    SignedIn,
    /// <summary>Has opened something.</summary>
    Opened,
    /// <summary>Was here again after a week.</summary>
    BackAgain,
}

/// <summary>Why somebody new doesn't get on by themselves.</summary>
public enum Stuck
{
    /// <summary>Began to join and didn't come back.</summary>
    LeftHalfWay,
    /// <summary>No letter with a way in was ever written.</summary>
    NoLetter,
    /// <summary>The letter with the way in was refused.</summary>
    LetterRefused,
    /// <summary>The letter with the way in hasn't gone for too long.</summary>
    LetterWaits,
    /// <summary>The letter was taken, and they never came.</summary>
    NeverCame,
    /// <summary>Was here, and opened nothing.</summary>
    OpenedNothing,
    /// <summary>Opened something once, and wasn't seen again.</summary>
    NotBack,
}

/// <summary>What is known of somebody's first weeks.</summary>
/// <param name="At">When they joined, or began to.</param>
/// <param name="HalfWay">They aren't through with joining.</param>
/// <param name="HasLetter">A letter with a way in was written.</param>
/// <param name="LetterRefused">The last letter with a way in was refused.</param>
/// <param name="LetterTakenAt">When the last letter with a way in was taken; null while it wasn't.</param>
/// <param name="SignedInAt">When they first came; null for never.</param>
/// <param name="OpenedAt">When they first opened something; null for never.</param>
/// <param name="SeenAt">When they were last here; null for never.</param>
public readonly record struct ArrivalFacts(Instant At, bool HalfWay = false, bool HasLetter = true, bool LetterRefused = false,
    Instant? LetterTakenAt = null, Instant? SignedInAt = null,
    Instant? OpenedAt = null, Instant? SeenAt = null)
{
    /// <summary>So long after joining somebody is looked at as new.</summary>
    public static readonly Duration New = Duration.FromDays(28);
    /// <summary>After so long somebody counts as stuck: half-way, with a letter that waits, before the first visit, before the first thing opened, after
    /// it.</summary>
    public static readonly Duration HalfWayFor = Duration.FromDays(1), LetterFor = Duration.FromHours(1), NeverCameFor = Duration.FromDays(3),
        OpenedNothingFor = Duration.FromDays(4), NotBackFor = Duration.FromDays(9);
    /// <summary>Whoever is here after so long has come back.</summary>
    public static readonly Duration Week = Duration.FromDays(7);

    /// <summary>Whoever opened something was here, whether or not it was noted.</summary>
    Instant? CameAt => SignedInAt ?? SeenAt ?? OpenedAt;
    Instant? LastAt => SeenAt is { } s && OpenedAt is { } o ? Instant.Max(s, o) : SeenAt ?? OpenedAt;

    public ArrivalStep Step => HalfWay ? ArrivalStep.HalfWay : LastAt >= At + Week && OpenedAt is not null ? ArrivalStep.BackAgain
        : OpenedAt is not null ? ArrivalStep.Opened : CameAt is not null ? ArrivalStep.SignedIn : ArrivalStep.Joined;

    /// <summary>Why they don't get on; null where they do, or may yet.</summary>
    public Stuck? StuckAt(Instant moment) => Step switch
    {
        ArrivalStep.HalfWay => moment >= At + HalfWayFor ? Stuck.LeftHalfWay : null,
        ArrivalStep.Joined => !HasLetter ? moment >= At + LetterFor ? Stuck.NoLetter : null : LetterRefused ? Stuck.LetterRefused : LetterTakenAt is null
            ? moment >= At + LetterFor ? Stuck.LetterWaits : null
            : moment >= LetterTakenAt + NeverCameFor ? Stuck.NeverCame : null,
        // A refused letter is no matter any more once they are in.
        ArrivalStep.SignedIn => moment >= CameAt + OpenedNothingFor ? Stuck.OpenedNothing : null,
        ArrivalStep.Opened => moment >= LastAt + NotBackFor ? Stuck.NotBack : null,
        ArrivalStep.BackAgain => null,
    };
}

/// <summary>A sign that somebody may not stay.</summary>
public enum RiskSign
{
    /// <summary>Not seen for <see cref="Risk.Days"/> days.</summary>
    NotSeen,
    /// <summary>Was about to leave, and stayed so far.</summary>
    LookedAtLeaving,
    /// <summary>Two letters or more were refused.</summary>
    LettersRefused,
    /// <summary>The card on file won't do for the next payment.</summary>
    CardRunsOut,
}

/// <summary>Who may not stay, by signs that are shown: no number is made of them.</summary>
public static class Risk
{
    public const int Days = 30, RefusedLetters = 2;
}
