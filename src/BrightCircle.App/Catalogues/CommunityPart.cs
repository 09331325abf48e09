using BrightCircle.Core;
using BrightCircle.Core.Community;
using NodaTime;

namespace BrightCircle.App.Catalogues;

/// <summary>The rooms to talk in, and the live sessions.</summary>
public sealed class CommunityPart
{
    /// <param name="spaces">In the order of the owner.</param>
    /// <param name="series">By name.</param>
    /// <param name="sessions">By their beginning.</param>
    /// <param name="challenges">The latest first.</param>
    public CommunityPart(IReadOnlyList<Space> spaces, IReadOnlyList<LiveSeries> series, IReadOnlyList<LiveSession> sessions,
        IReadOnlyList<Challenge> challenges)
    {
        (Spaces, Series, Sessions, Challenges) = (spaces, series, sessions, challenges);
        SpaceById = spaces.ToDictionary(s => s.Id);
        SeriesById = series.ToDictionary(s => s.Id);
        SessionById = sessions.ToDictionary(s => s.Id);
        ChallengeById = challenges.ToDictionary(c => c.Id);
        TalliesApart = challenges.Select(c => c.TallyId).ToHashSet();
    }

    public IReadOnlyList<Space> Spaces { get; }
    public IReadOnlyDictionary<SpaceId, Space> SpaceById { get; }
    /// <summary>Behind all that are there.</summary>
    public int NextOrder => Spaces.Count == 0 ? 1 : Spaces.Max(s => s.Order) + 1;
    public bool HasSpaceCalled(string name, SpaceId? beside = null) =>
        Spaces.Any(s => s.Id != beside && string.Equals(s.Name, name, StringComparison.CurrentCultureIgnoreCase));
    /// <summary>Null where the cohort has none.</summary>
    public Space? SpaceOf(CohortId cohort) => Spaces.FirstOrDefault(s => s.CohortId == cohort);
    /// <summary>Live sessions that belong together, the closed ones too.</summary>
    public IReadOnlyList<LiveSeries> Series { get; }
    public IReadOnlyDictionary<LiveSeriesId, LiveSeries> SeriesById { get; }
    /// <summary>All of them, what was and what was cancelled too.</summary>
    public IReadOnlyList<LiveSession> Sessions { get; }
    public IReadOnlyDictionary<LiveSessionId, LiveSession> SessionById { get; }

    /// <summary>The latest first.</summary>
    public IReadOnlyList<Challenge> Challenges { get; }
    public IReadOnlyDictionary<ChallengeId, Challenge> ChallengeById { get; }
    /// <summary>What is done in challenges: only those keep it who take part, and nobody for a promise of everything.</summary>
    public IReadOnlySet<TallyId> TalliesApart { get; }
    /// <summary>The challenge a plan is for; null for every other plan.</summary>
    public Challenge? ChallengeOf(PlanId plan) => Challenges.FirstOrDefault(c => c.PlanId == plan);

    public string TitleOf(LiveSession session) => session.Titled(SeriesById[session.SeriesId]);

    /// <summary>What takes place, the soonest first; what is going on is in it.</summary>
    public IEnumerable<LiveSession> Ahead(Instant at)
    {
        // None that began longer ago than the longest lasts is going on.
        for (var i = FirstFrom(at - Duration.FromMinutes(LiveSeries.MostMinutes)); i < Sessions.Count; i++)
            if (Sessions[i].IsAhead(at)) yield return Sessions[i];
    }

    /// <summary>What begins between two moments and takes place, or took place.</summary>
    /// <param name="to">Not in it.</param>
    public IEnumerable<LiveSession> Between(Instant from, Instant to)
    {
        for (var i = FirstFrom(from); i < Sessions.Count && Sessions[i].StartsAt < to; i++)
            if (Sessions[i].CancelledAt is null) yield return Sessions[i];
    }

    /// <summary>The first that doesn’t begin before a moment; they stand by their beginning.</summary>
    int FirstFrom(Instant earliest)
    {
        var (from, to) = (0, Sessions.Count);
        while (from < to)
            if (Sessions[(from + to) / 2].StartsAt < earliest) from = (from + to) / 2 + 1;
            else to = (from + to) / 2;
        return from;
    }
}
