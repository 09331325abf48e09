using BrightCircle.Core.Learning;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Community;

/// <summary>Some weeks in which people do something together: a tally with its aim, for whoever holds a plan, with a space of its own if wanted.</summary>
public sealed class Challenge
{
    public const int MostName = 80, MostAbout = 1000, MostWeeks = 53;

    public ChallengeId Id { get; init; }
    public string Name { get; set; } = "";
    public string About { get; set; } = "";
    /// <summary>What is done, and how often a week.</summary>
    public TallyId TallyId { get; init; }
    /// <summary>Who takes part: whoever holds it.</summary>
    public PlanId PlanId { get; init; }
    /// <summary>Where they talk; null for nowhere of its own.</summary>
    public SpaceId? SpaceId { get; set; }
    /// <summary>The badge of whoever reaches the aim of every week; null for none.</summary>
    public TagId? BadgeId { get; set; }
    /// <summary>The Monday of its first week.</summary>
    public LocalDate StartsOn { get; set; }
    public int Weeks { get; set; }
    public Instant MadeAt { get; init; }

    public IsoWeek FirstWeek => IsoWeek.Of(StartsOn);
    public IsoWeek LastWeek => FirstWeek.Plus(Weeks - 1);
    public LocalDate EndsOn => LastWeek.Sunday;

    /// <summary>Which week of it a day is in, from 1; 0 before it, one more than its weeks after it.</summary>
    public int WeekOf(LocalDate day) => Math.Clamp(IsoWeek.Of(day).Since(FirstWeek) + 1, 0, Weeks + 1);

    public bool IsUnderWay(LocalDate day) => WeekOf(day) is var w && w >= 1 && w <= Weeks;
    public bool IsOver(LocalDate day) => WeekOf(day) > Weeks;
}

/// <summary>How somebody stands in a challenge.</summary>
/// <param name="Done">How often, week by week from the first; for weeks to come 0.</param>
/// <param name="LastAt">When they marked it last, in it; null for never.</param>
public sealed record ChallengeRow(MemberId Member, string Name, IReadOnlyList<int> Done, Instant? LastAt);

/// <summary>The board of a challenge.</summary>
/// <param name="Rows">Those with nothing in the week under way first, then by how much; then by what they did before.</param>
/// <param name="ThisWeek">The week under way, from 1; the last one once it is over, 0 before it begins.</param>
public sealed record ChallengeBoard(IReadOnlyList<ChallengeRow> Rows, int ThisWeek, IReadOnlyList<int> Aims)
{
    public static ChallengeBoard Of(Challenge challenge, Tally tally, IEnumerable<ChallengeRow> people, LocalDate today)
    {
        var week = Math.Min(challenge.WeekOf(today), challenge.Weeks);
        var aims = Enumerable.Range(0, challenge.Weeks).Select(i => tally.AimIn(challenge.FirstWeek.Plus(i))).ToArray();
        return new([.. people.OrderBy(p => week == 0 ? 0 : p.Done[week - 1]).ThenBy(p => p.Done.Sum()).ThenBy(p => p.Name, StringComparer.CurrentCulture)
            .ThenBy(p => p.Member.Value)], week, aims);
    }

    int At(ChallengeRow row) => ThisWeek == 0 ? 0 : row.Done[ThisWeek - 1];
    int Aim => ThisWeek == 0 ? 0 : Aims[ThisWeek - 1];

    /// <summary>All together, this week. What somebody does beyond the aim doesn’t stand in for another.</summary>
    public int Together => Rows.Sum(r => Math.Min(At(r), Aim));
    public int TogetherAim => Rows.Count * Aim;
    /// <summary>So many have reached the aim of this week.</summary>
    public int AtAim => ThisWeek == 0 ? 0 : Rows.Count(r => At(r) >= Aim);
    /// <summary>The same of the week before; null in the first.</summary>
    public int? AtAimBefore => ThisWeek < 2 ? null : Rows.Count(r => r.Done[ThisWeek - 2] >= Aims[ThisWeek - 2]);
    /// <summary>So many have done nothing yet this week.</summary>
    public int AtNothing => ThisWeek == 0 ? 0 : Rows.Count(r => At(r) == 0);
    public bool Met(ChallengeRow row, int week) => row.Done[week - 1] >= Aims[week - 1];
    /// <summary>Whether somebody reached the aim of every week.</summary>
    public bool Finished(ChallengeRow row) => Enumerable.Range(1, Aims.Count).All(w => Met(row, w));
}
