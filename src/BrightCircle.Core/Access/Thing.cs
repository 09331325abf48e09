namespace BrightCircle.Core.Access;

public enum ThingKind : byte { Piece, Module, Lesson, Tally, Space, SpaceWriting, Live }

/// <summary>Anything that access is asked about: a piece, a module, a lesson, a tally, a space, live sessions. A file, a feed entry or a place is asked as
/// the thing it belongs
/// to.</summary>
public readonly record struct Thing(ThingKind Kind, long Id)
{
    public static implicit operator Thing(PieceId id) => new(ThingKind.Piece, id.Value);
    public static implicit operator Thing(ModuleId id) => new(ThingKind.Module, id.Value);
    public static implicit operator Thing(LessonId id) => new(ThingKind.Lesson, id.Value);
    public static implicit operator Thing(TallyId id) => new(ThingKind.Tally, id.Value);
    public static implicit operator Thing(SpaceId id) => new(ThingKind.Space, id.Value);
    public static implicit operator Thing(LiveSeriesId id) => new(ThingKind.Live, id.Value);
    /// <summary>To write in a space, beside reading it.</summary>
    public static Thing WritingIn(SpaceId id) => new(ThingKind.SpaceWriting, id.Value);
}
