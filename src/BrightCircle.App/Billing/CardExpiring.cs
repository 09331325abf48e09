using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Events;
using BrightCircle.Core;
using BrightCircle.Core.Billing;
using BrightCircle.Core.Events;
using BrightCircle.Core.Members;
using BrightCircle.Core.Offer;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Billing;

/// <summary>Some weeks before a card runs out its member is told, where something will be asked of it after that.</summary>
public sealed class CardExpiring(BrightContext db, Tell tell, Catalogue catalogue) : IDueHandler
{
    public const int AheadDays = 21;

    public DueKind Kind => DueKind.CardExpiring;

    /// <summary>When its member is told; null where nobody knows when it runs out, or it is too late to say so ahead.</summary>
    public static Instant? TellAt(Card card, Core.Time.SiteCalendar calendar) => card.GoodUntil is { } last
        && calendar.At(last.PlusDays(-AheadDays) + new LocalTime(9, 0)) is var at && at > card.AddedAt ? at : null;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var numbers = items.Select(i => i.Row.SubjectId).ToArray();
        // Where another card has been put in since, that one is asked, and it has a row of its own.
        var cards = await db.Cards.AsNoTracking().Where(c => db.Cards.Where(x => numbers.Contains(x.Id)).Select(x => x.MemberId).Contains(c.MemberId))
            .Asked().ToDictionaryAsync(c => c.Id, ct);
        var memberships = await db.LoadMemberships([.. cards.Values.Select(c => c.MemberId).Distinct()], ct);
        foreach (var item in items)
        {
            if (!cards.TryGetValue(item.Row.SubjectId, out var card) || card.GoodUntil is not { } last) continue;
            var m = memberships[card.MemberId];
            if (After(m.Holdings, catalogue.Now.Calendar.At(last.PlusDays(1).AtMidnight()), item.Moment) is not var (holding, charge)) continue;
            tell.Of(m.Member, new Event.CardRunsOut(holding.Id, holding.PlanId, card.Label, last, charge.Amount, charge.DueAt), item.Moment);
            happened.Add("cards running out");
        }
    }

    /// <summary>The first charge that would be asked of a card after it has run out; null where there is none.</summary>
    static (Holding Holding, Charge Charge)? After(IEnumerable<Holding> holdings, Instant over, Instant at)
    {
        (Holding, Charge)? first = null;
        foreach (var h in holdings)
            if (h.Way == PayWay.Card && Obligations.Of(h, at).Next is { } next
                && (next.DueAt >= over ? next : Obligations.AgreementAt(h, at).From(over)) is { } charge
                && (first is null || charge.DueAt < first.Value.Item2.DueAt)) first = (h, charge);
        return first;
    }
}
