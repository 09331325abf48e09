using System.Text.Json.Serialization;
using NodaTime;
using Period = BrightCircle.Core.Time.Period;

namespace BrightCircle.Core.Offer;

/// <summary>What an inclusion is about. Covering a parent covers what is added to it later.</summary>
[JsonDerivedType(typeof(Everything), "everything")]
[JsonDerivedType(typeof(OnShelf), "shelf")]
[JsonDerivedType(typeof(OnePiece), "piece")]
[JsonDerivedType(typeof(OneModule), "module")]
[JsonDerivedType(typeof(OneLesson), "lesson")]
[JsonDerivedType(typeof(OneTally), "tally")]
[JsonDerivedType(typeof(OneSpace), "space")]
[JsonDerivedType(typeof(OneSeries), "live")]
[JsonDerivedType(typeof(WhatAPlanOpens), "plan")]
public abstract record Coverage
{
    private Coverage() { }
    public sealed record Everything : Coverage;
    public sealed record OnShelf(ShelfId Shelf) : Coverage;
    public sealed record OnePiece(PieceId Piece) : Coverage;
    /// <summary>The lessons of one module, those added later too; a lesson moved out of it isn't covered any more.</summary>
    public sealed record OneModule(ModuleId Module) : Coverage;
    public sealed record OneLesson(LessonId Lesson) : Coverage;
    /// <summary>A tally is kept while it is held: reach and keep say nothing about it.</summary>
    public sealed record OneTally(TallyId Tally) : Coverage;
    /// <summary>A room to talk in: reach says nothing about it; who keeps it after leaving reads and doesn't write.</summary>
    /// <param name="ReadOnly">To read along, and not to write.</param>
    public sealed record OneSpace(SpaceId Space, bool ReadOnly = false) : Coverage;
    /// <summary>Live sessions, those that are planned later too: reach says nothing about them.</summary>
    public sealed record OneSeries(LiveSeriesId Series) : Coverage;
    /// <summary>Everything that another plan opens, as a bonus: how far back that plan says, and all at once.</summary>
    public sealed record WhatAPlanOpens(PlanId Plan) : Coverage;
}

/// <summary>How far back an inclusion goes.</summary>
[JsonDerivedType(typeof(EverythingReleased), "everything")]
[JsonDerivedType(typeof(FromJoining), "joining")]
[JsonDerivedType(typeof(WhilePaid), "paid")]
[JsonDerivedType(typeof(LastEditions), "last")]
public abstract record Reach
{
    private Reach() { }
    /// <summary>All that has been released, however long ago.</summary>
    public sealed record EverythingReleased : Reach;
    /// <summary>What is released at or after the holding's start, and the edition current when joining.</summary>
    public sealed record FromJoining : Reach;
    /// <summary>What is released, or current, in a paid interval.</summary>
    public sealed record WhilePaid : Reach;
    /// <summary>
    /// What is in the latest editions of its span at the moment it is asked: with each new edition the oldest closes. What is in none is counted by
    /// the month in which it came out; standing content stays.
    /// </summary>
    /// <param name="Count">How many, from 1 to <see cref="Most"/>.</param>
    public sealed record LastEditions(int Count) : Reach
    {
        public const int Most = 100;
    }
}

/// <summary>What stays open after leaving.</summary>
[JsonDerivedType(typeof(Nothing), "nothing")]
[JsonDerivedType(typeof(WhatHadOpened), "opened")]
[JsonDerivedType(typeof(ForPeriod), "period")]
public abstract record Keep
{
    private Keep() { }
    public sealed record Nothing : Keep;
    /// <summary>What was open at the end of the last paid moment.</summary>
    public sealed record WhatHadOpened : Keep;
    /// <summary>The same, for a time after the end.</summary>
    public sealed record ForPeriod(Period Length) : Keep;
}

/// <summary>Something else that has to be so before an inclusion opens anything.</summary>
[JsonDerivedType(typeof(HoldingPlan), "plan")]
[JsonDerivedType(typeof(DoneLesson), "lesson")]
[JsonDerivedType(typeof(DonePiece), "piece")]
public abstract record Need
{
    private Need() { }
    /// <summary>They hold another plan too.</summary>
    public sealed record HoldingPlan(PlanId Plan) : Need;
    public sealed record DoneLesson(LessonId Lesson) : Need;
    /// <summary>All lessons that are out in a piece are done.</summary>
    public sealed record DonePiece(PieceId Piece) : Need;
}

/// <summary>One part of a promise: what is covered, how far back, at which pace, what stays.</summary>
/// <param name="Pace">Null for the piece's own, or at once where it has none.</param>
/// <param name="Ends">It ends this long after the holding's start, though the holding goes on; null for never.</param>
/// <param name="Needs">All of these have to hold as well.</param>
public sealed record Inclusion(Coverage Covers, Reach Reach, Keep Keep, Pace? Pace = null, Period? Ends = null, IReadOnlyList<Need>? Needs = null)
{
    public bool Equals(Inclusion? other) => other is not null && Covers == other.Covers && Reach == other.Reach && Keep == other.Keep
        && (Pace ?? Piece) == (other.Pace ?? Piece) && Ends == other.Ends && (Needs ?? []).SequenceEqual(other.Needs ?? []);
    public override int GetHashCode() => HashCode.Combine(Covers, Reach, Keep, Ends);

    /// <summary>Stands for no pace of its own where two inclusions are compared; no pattern has so many steps.</summary>
    static readonly Pace Piece = new Pace.Steps(-1, PaceUnit.Days);
}

/// <summary>A plan's promise as of a moment. A holding lives by the one it was made with until it is moved on purpose.</summary>
/// <param name="Number">Counted from 1 within the plan.</param>
/// <param name="From">When it was saved, UTC.</param>
/// <param name="PaceOf">The pace of those who hold the plan through a price, instead of the inclusions'.</param>
public sealed record PromiseVersion(PlanId Plan, int Number, Instant From, IReadOnlyList<Inclusion> Promise,
    IReadOnlyDictionary<PriceId, Pace> PaceOf)
{
    public static IReadOnlyDictionary<PriceId, Pace> NoPaces { get; } = new Dictionary<PriceId, Pace>();

    /// <summary>It promises the same as another, whenever and whatever it was called.</summary>
    public bool SaysWhat(PromiseVersion other) => Promise.SequenceEqual(other.Promise) && PaceOf.Count == other.PaceOf.Count
        && PaceOf.All(p => other.PaceOf.TryGetValue(p.Key, out var pace) && pace == p.Value);
}
