using BrightCircle.App.Catalogues;
using BrightCircle.Core;
using BrightCircle.Core.Access;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>A member to whom the hours of a series are open, decided just now. Whatever is done about an hour takes one.</summary>
public sealed class HourReader
{
    HourReader(SignedIn who, LiveSeries series, FreeTimes times, bool isOnlyLooking) =>
        (Member, Confirmed, Series, Times, IsOnlyLooking) = (who.IsTeam || isOnlyLooking ? null : who.MemberId, who.Confirmed, series, times, isOnlyLooking);

    /// <summary>Null for the team, and while it looks through somebody’s eyes.</summary>
    public MemberId? Member { get; }
    public bool Confirmed { get; }
    public LiveSeries Series { get; }
    public FreeTimes Times { get; }
    public bool IsOnlyLooking { get; }

    /// <returns>Null where there are no such hours, or they aren't open to them.</returns>
    /// <param name="facts">Theirs, as of the moment.</param>
    public static HourReader? For(CatalogueSnapshot now, SignedIn who, MemberFacts facts, LiveSeriesId id, Instant moment, bool isOnlyLooking = false) =>
        now.Community.SeriesById.TryGetValue(id, out var series) && series is { Hours: { } times, ClosedAt: null } && now.Book.Decide(facts, id, moment).IsOpen
            ? new(who, series, times, isOnlyLooking) : null;
}
