using BrightCircle.Data;

namespace BrightCircle.App.Billing;

static class Cards
{
    /// <summary>Those that are asked: of each member the one put in last, of several at one moment the one that was written down last.</summary>
    public static IQueryable<Card> Asked(this IQueryable<Card> cards) => cards.GroupBy(c => c.MemberId)
        .Select(g => g.OrderByDescending(c => c.AddedAt).ThenByDescending(c => c.Id).First());

    /// <summary>The one of one member, first.</summary>
    public static IQueryable<Card> AskedOf(this IQueryable<Card> cards, Core.MemberId member) => cards.Where(c => c.MemberId == member)
        .OrderByDescending(c => c.AddedAt).ThenByDescending(c => c.Id);
}
