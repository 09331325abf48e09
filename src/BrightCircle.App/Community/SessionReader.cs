using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>Somebody to whom one live session is open, decided just now. Whatever is read or done at a session takes one.</summary>
public sealed class SessionReader
{
    SessionReader(SignedIn who, LiveSession session, LiveSeries series, bool isOnlyLooking) =>
        (Member, IsTeam, Confirmed, Session, Series, IsOnlyLooking) =
            (who.IsTeam || isOnlyLooking ? null : who.MemberId, who.IsTeam, who.Confirmed, session, series, isOnlyLooking);

    /// <summary>Whoever can come; null for the team, and while it looks through somebody’s eyes.</summary>
    public MemberId? Member { get; }
    public bool IsTeam { get; }
    public bool Confirmed { get; }
    public LiveSession Session { get; }
    public LiveSeries Series { get; }
    public bool IsOnlyLooking { get; }
    public string Title => Session.Titled(Series);

    /// <returns>Null where there is no such session, or it isn't open to them.</returns>
    /// <param name="facts">Theirs, as of the moment.</param>
    public static SessionReader? For(CatalogueSnapshot now, SignedIn who, MemberFacts facts, LiveSessionId id, Instant moment, bool isOnlyLooking = false) =>
        now.Community.SessionById.TryGetValue(id, out var session) && now.Book.Decide(facts, session.SeriesId, moment).IsOpen
            ? new(who, session, now.Community.SeriesById[session.SeriesId], isOnlyLooking) : null;
}
