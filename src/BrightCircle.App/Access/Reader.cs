using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using NodaTime;

namespace BrightCircle.App.Access;

/// <summary>A member for whom one lesson is open, decided just now. Whatever is done in a lesson takes one, so that nothing can be done in a closed
/// one.</summary>
public sealed class LessonReader
{
    LessonReader(MemberId member, string name, Lesson lesson, Piece piece) => (Member, Name, Lesson, Piece) = (member, name, lesson, piece);

    public MemberId Member { get; }
    public string Name { get; }
    public Lesson Lesson { get; }
    public Piece Piece { get; }

    /// <returns>Null where there is no such lesson, it isn't released, or it isn't open to the member.</returns>
    public static LessonReader? For(CatalogueSnapshot now, MemberId member, string name, MemberFacts facts, LessonId lesson, Instant moment) =>
        now.LessonById.TryGetValue(lesson, out var l) && l.ReleasedAt is not null
            && now.Book.Decide(facts, lesson, moment).IsOpen ? new(member, name, l, now.PieceOf(l)) : null;
}

/// <summary>A member who may mark one tally, decided just now.</summary>
public sealed class TallyReader
{
    TallyReader(MemberId member, string? zoneId, Tally tally) => (Member, ZoneId, Tally) = (member, zoneId, tally);

    public MemberId Member { get; }
    /// <summary>Where their days begin; null for the site's own zone.</summary>
    public string? ZoneId { get; }
    public Tally Tally { get; }

    /// <summary>On its own: as long as something that covers it is held.</summary>
    public static TallyReader? For(CatalogueSnapshot now, MemberId member, string? zoneId, MemberFacts facts, TallyId tally, Instant moment) =>
        now.TallyById.TryGetValue(tally, out var t) && t.ArchivedAt is null && now.Book.Decide(facts, tally, moment).IsOpen ? new(member, zoneId, t) : null;

    /// <summary>At the end of a follow-along that offers it: whoever may do the one may mark the other.</summary>
    /// <param name="offered">The tally that a follow-along of the reader's lesson offers.</param>
    public static TallyReader? With(CatalogueSnapshot now, LessonReader reader, string? zoneId, TallyId offered) =>
        now.TallyById.TryGetValue(offered, out var t) && t.ArchivedAt is null ? new(reader.Member, zoneId, t) : null;
}

/// <summary>A member whose promise opens a piece that has only so many places, whether or not they have one.</summary>
public sealed class PlaceReader
{
    PlaceReader(MemberId member, Piece piece) => (Member, Piece) = (member, piece);

    public MemberId Member { get; }
    public Piece Piece { get; }

    public static PlaceReader? For(CatalogueSnapshot now, MemberId member, MemberFacts facts, PieceId piece, Instant moment) =>
        now.PieceById.TryGetValue(piece, out var p) && p.Places is not null
            && now.Book.Decide(facts, piece, moment) is { IsOpen: true } or { Rule: AccessRule.NoPlace } ? new(member, now.PieceById[piece]) : null;
}
