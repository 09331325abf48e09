using BrightCircle.Core.Offer;
using BrightCircle.Core.Time;
using NodaTime;

namespace BrightCircle.Core.Members;

/// <summary>Somebody before a price.</summary>
/// <param name="JoinedAt">Null for a stranger, or somebody who isn't signed in: nothing is known of them.</param>
/// <param name="Holdings">All they hold and held.</param>
public sealed record Buyer(string Name, string Email, Standing Standing, Instant? JoinedAt, IReadOnlyList<Holding> Holdings)
{
    public static Buyer Stranger { get; } = new("", "", Standing.Guest, null, []);
    public static Buyer Of(Member member, IReadOnlyList<Holding> holdings) => new(member.Name, member.Email, member.Standing, member.JoinedAt, holdings);

    /// <summary>Whether they may take a price. Of the prices that aren't for anybody only newcomers' are a stranger's.</summary>
    public bool May(Price price, SiteCalendar calendar, Instant moment) => price.Buyers switch
    {
        null => true,
        BuyerRule.Holders h => Holdings.Any(x => h.Plans.Contains(x.PlanId) && x.IsHeldAt(moment)),
        BuyerRule.FormerHolders f => Holdings.Any(x => f.Plans.Contains(x.PlanId) && x.StateAt(moment) == HoldingState.Over)
            && !Holdings.Any(x => f.Plans.Contains(x.PlanId) && x.IsHeldAt(moment)),
        BuyerRule.Newcomers => !Holdings.Any(x => x.IsPaidFor),
        BuyerRule.Listed l => JoinedAt is not null && Fits(l.Filter, calendar, moment),
        _ => throw new InvalidOperationException($"No such rule: {price.Buyers}"),
    };

    /// <summary>Whether they stand in a list of members.</summary>
    public bool Fits(MemberFilter filter, SiteCalendar calendar, Instant moment) => JoinedAt is { } joined
        && (string.IsNullOrWhiteSpace(filter.Search) || $"{Name} {Email}".Contains(filter.Search.Trim(), StringComparison.OrdinalIgnoreCase))
        && (filter.Standing is not { } standing || Standing == standing)
        && (filter.Plan is not { } plan || Holdings.Any(h => h.PlanId == plan && h.IsHeldAt(moment)))
        && (filter.From is not { } from || calendar.Date(joined) >= from)
        && (filter.To is not { } to || calendar.Date(joined) <= to)
        // Tags and audiences are asked of the database only; the list of a price names neither.
        && filter is { Tag: null, Audience: null };
}
