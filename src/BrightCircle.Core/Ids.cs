namespace BrightCircle.Core;

/// <summary>A database identity that can't be mistaken for another's: a member's number is not a payment's.</summary>
public interface ITypedId<TSelf> where TSelf : struct, ITypedId<TSelf>
{
    long Value { get; }
    static abstract TSelf From(long value);
}

public readonly record struct MemberId(long Value) : ITypedId<MemberId>, IComparable<MemberId>
{
    public static MemberId From(long value) => new(value);
    /// <summary>By number: who came later has the higher one.</summary>
    public int CompareTo(MemberId other) => Value.CompareTo(other.Value);
    public static bool operator <(MemberId a, MemberId b) => a.Value < b.Value;
    public static bool operator >(MemberId a, MemberId b) => a.Value > b.Value;
    public static bool operator <=(MemberId a, MemberId b) => a.Value <= b.Value;
    public static bool operator >=(MemberId a, MemberId b) => a.Value >= b.Value;
}
public readonly record struct PlanId(long Value) : ITypedId<PlanId> { public static PlanId From(long value) => new(value); }
public readonly record struct PriceId(long Value) : ITypedId<PriceId> { public static PriceId From(long value) => new(value); }
public readonly record struct HoldingId(long Value) : ITypedId<HoldingId> { public static HoldingId From(long value) => new(value); }
public readonly record struct ShelfId(long Value) : ITypedId<ShelfId> { public static ShelfId From(long value) => new(value); }
public readonly record struct PieceId(long Value) : ITypedId<PieceId> { public static PieceId From(long value) => new(value); }
public readonly record struct EditionId(long Value) : ITypedId<EditionId> { public static EditionId From(long value) => new(value); }
public readonly record struct PaymentId(long Value) : ITypedId<PaymentId> { public static PaymentId From(long value) => new(value); }
public readonly record struct ModuleId(long Value) : ITypedId<ModuleId> { public static ModuleId From(long value) => new(value); }
public readonly record struct LessonId(long Value) : ITypedId<LessonId> { public static LessonId From(long value) => new(value); }
public readonly record struct BlockId(long Value) : ITypedId<BlockId> { public static BlockId From(long value) => new(value); }
public readonly record struct TallyId(long Value) : ITypedId<TallyId> { public static TallyId From(long value) => new(value); }
public readonly record struct FileId(long Value) : ITypedId<FileId> { public static FileId From(long value) => new(value); }
public readonly record struct CohortId(long Value) : ITypedId<CohortId> { public static CohortId From(long value) => new(value); }
public readonly record struct TagId(long Value) : ITypedId<TagId> { public static TagId From(long value) => new(value); }
public readonly record struct OwnFieldId(long Value) : ITypedId<OwnFieldId> { public static OwnFieldId From(long value) => new(value); }
public readonly record struct SpaceId(long Value) : ITypedId<SpaceId> { public static SpaceId From(long value) => new(value); }
public readonly record struct LiveSeriesId(long Value) : ITypedId<LiveSeriesId> { public static LiveSeriesId From(long value) => new(value); }
public readonly record struct LiveSessionId(long Value) : ITypedId<LiveSessionId> { public static LiveSessionId From(long value) => new(value); }
public readonly record struct ChallengeId(long Value) : ITypedId<ChallengeId> { public static ChallengeId From(long value) => new(value); }
public readonly record struct AudienceId(long Value) : ITypedId<AudienceId> { public static AudienceId From(long value) => new(value); }
